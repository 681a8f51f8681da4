"""Layers made of several planes in depth: which of them are seen, and how they are put together."""

from __future__ import annotations

import math
from collections.abc import Sequence

from attrs import evolve, frozen

from spiralis.core.cache import Beside
from spiralis.core.geometry import Box, intersect, projection
from spiralis.core.model import Layer, Value, layer_kind
from spiralis.core.render.layers import Evaluated
from spiralis.core.render.lighting import turned_to_viewer
from spiralis.core.render.space import distance, is_in_depth, seen

#: Planes reach so many pixels over their edges, so that none shows through between two of them.
_OVER = 0.5
#: By no more than this share of their size, where they are seen nearly from the edge.
_MOST_OVER = 0.1


@frozen(eq=False)
class _Made:
    """The planes of a layer, and what they were made of: values, and where sources and compositions come from."""

    values: tuple[Value, ...]
    files: object
    pieces: object
    planes: list[Layer]


#: Planes beside their layer, and the wider ones beside those: what turns has the same at every moment.
_made: Beside[list[_Made]] = Beside(list)
_twins: Beside[list[Layer]] = Beside(list)


def planes_of(at: Evaluated, layer: Layer) -> list[Layer]:
    """Return the planes that a layer is made of; none for most layers."""
    make = layer_kind(layer.kind).planes
    if make is None:
        return []
    values, project = at.values(layer), at.scene.project
    own = tuple(values[parameter.name] for parameter in at.own_parameters(layer))
    own = (*own, values["depth"], values["lit"], values["casts"])
    held = _made.of(layer)
    for made in held[-1:]:
        if made.values == own and made.files is project.sources and made.pieces is project.compositions:
            return made.planes
    made = _Made(own, project.sources, project.compositions, list(make(layer, values, at.scene)))
    held[:] = [made]
    return made.planes


def body_of(at: Evaluated, layer: Layer) -> list[tuple[Layer, Box]]:
    """Return the planes that enclose the body of a layer which nothing is seen through, with the boxes that they fill;
    none where any face may be seen through, or the layer has no faces."""
    filled: dict[tuple[Value, ...], tuple[Layer, Box] | None] = {}
    for plane in planes_of(at, layer):
        values, solid = at.values(plane), layer_kind(plane.kind).solid
        face = tuple(values[name] for name in ("position", "position_z", "turn_x", "turn_y"))
        box = solid(values) if solid is not None and values["opacity"] >= 100 else None
        if box is not None or face not in filled:
            filled[face] = (plane, box) if box is not None else None
    found = [held for held in filled.values() if held is not None]
    return found if len(found) == len(filled) else []


def planes_seen(at: Evaluated, layer: Layer, fine: float, flat: bool = False) -> Sequence[Layer]:
    """Return the planes of a solid that are seen, back to front, with edges that overlap by less than a pixel.

    Those that are turned away are left out, unless the layer says that it can be seen through. A layer that lies
    ``flat`` shows its front. ``fine`` tells how many pixels one of the composition has.
    """
    planes = planes_of(at, layer)
    values = at.values(layer)
    if flat or not is_in_depth(at, layer):
        return [plane for plane in planes if at.values(plane)["position_z"] < 0]
    width, height = at.seen_size
    frame = (0.0, 0.0, float(width), float(height))
    before = [
        plane for plane in planes
        if (values["see_through"] or turned_to_viewer(at, plane) > 0)
        and (layer.blocks or _may_be_seen(at, plane, frame))
    ]  # fmt: skip
    if values["see_through"]:
        before.sort(key=lambda plane: (turned_to_viewer(at, plane) > 0, -distance(at, plane)))
    return [_wider(at, plane, 1 / max(fine, 1e-6)) for plane in before]


def _may_be_seen(at: Evaluated, plane: Layer, frame: Box) -> bool:
    """Whether any of a plane lies in the frame."""
    left, top, right, bottom = seen(at, plane).box(at.box(plane))
    return intersect((left - 1, top - 1, right + 1, bottom + 1), frame) is not None


def _wider(at: Evaluated, plane: Layer, pixel: float) -> Layer:
    """Return a plane that reaches over its edges by ``_OVER`` pixels as they are seen, a pixel given in px."""
    left, top, right, bottom = at.box(plane)
    width, height = right - left, bottom - top
    a, b, c, d, e, f, g, h, i = projection(seen(at, plane))
    x, y = (left + right) / 2, (top + bottom) / 2
    w = g * x + h * y + i
    if w <= 1e-6:
        return plane
    u, v = (a * x + b * y + c) / w, (d * x + e * y + f) / w
    # How far the middle is seen to move for a unit across and for one down.
    right_x, right_y, down_x, down_y = (a - g * u) / w, (d - g * v) / w, (b - h * u) / w, (e - h * v) / w
    across, down = math.hypot(right_x, right_y), math.hypot(down_x, down_y)
    area = max(abs(right_x * down_y - right_y * down_x), 1e-9)
    # An edge moves aside by the area over the length along it; at sharp corners it goes no further than twice as far.
    factor = [
        1 + 2 * min(_OVER * pixel * min(other / area, 2 / max(own, 1e-9)) / max(size, 1e-6), _MOST_OVER)
        for own, other, size in ((across, down, width), (down, across, height))
    ]
    values = at.values(plane)
    scale = tuple(float(part * by) for part, by in zip(values["scale"], factor, strict=True))
    twins = _twins.of(plane)
    if not twins:
        twins.append(evolve(plane, id=f"{plane.id}/wide"))
    at.put(twins[0], {**values, "scale": scale})
    return twins[0]
