"""Nest what one layer shows, while its place, look, mattes and parent stay outside with all their keys."""

from __future__ import annotations

from collections.abc import Iterable
from math import ceil, floor

from attrs import define, evolve

from spiralis.core.editing.artwork import unused
from spiralis.core.editing.edits import shifted
from spiralis.core.editing.linking import baked, baked_dependents
from spiralis.core.editing.nesting import DRAWN, sampled_frames
from spiralis.core.errors import ModelError
from spiralis.core.geometry import Box, box_around
from spiralis.core.model import Composition, Layer, Project, Track, layer_kind, new_id
from spiralis.core.model.kinds import is_common
from spiralis.core.model.project import LARGEST_SIZE
from spiralis.core.model.references import What
from spiralis.core.render.extent import beyond, drawn_box, widened
from spiralis.core.render.layers import Evaluated, pivot_point

#: What is said in parts of the content's box, and goes inside where the nest's frame is another box.
_OF_THE_BOX = ("pivot", "crop_across", "crop_down", "crop_softness")
#: How much room there is around outlines, whose edges are soft, and what is shown beyond the box, in px.
_MARGIN = 2.0
#: Of a frame's side so small a part is found wherever it is looked at.
_FINE = 250.0


@define(frozen=True)
class _Frame:
    """The nest's frame: its size, where in it the pivot stands, and whether it is the content's box at all times."""

    width: int
    height: int
    pivot: tuple[float, float]
    exact: bool


def nest_content(project: Project, composition_id: str, layer_id: str) -> tuple[Project, str]:
    """Return the project with one layer's content in a composition of its own, and the id of the layer that shows it.

    Place, look, mattes and parent stay outside with all their keys; inside the content stands still and plain, in a
    frame that holds all it ever shows. Where that is not just its box the crop goes inside as well, and the keys of
    its pivot.

    Raises:
        ModelError: the content is made of other layers of its composition, stands in depth, or there is none.
    """
    outer = project.composition(composition_id)
    _check(outer.layer(layer_id))
    given = {p.name for p in outer.layer(layer_id).parameters if not is_common(p.name)}
    outer = _freed(outer, layer_id, given)
    frame = _frame_of(project.with_composition(outer), outer, outer.layer(layer_id))
    if not frame.exact:
        given |= set(_OF_THE_BOX)
        outer = _freed(outer, layer_id, _OF_THE_BOX)
    layer = outer.layer(layer_id)
    moved = _moved_by(project, outer, layer, frame)
    inside = {name: track for name, track in layer.properties.items() if name in given}
    outside = {name: track for name, track in layer.properties.items() if name not in given}
    if not frame.exact:
        x, y = frame.pivot
        outside["pivot"] = Track((100 * x / frame.width, 100 * y / frame.height))
    still = Layer(
        layer.name, layer.kind, 0, outer.length, properties=inside,
        slots=tuple(slot for slot in layer.slots if slot.property in given),
    ).with_values(position=frame.pivot)  # fmt: skip
    label = unused(layer.name, {c.name for c in project.compositions})
    inner = Composition(label, frame.width, frame.height, outer.rate, outer.length, layers=(still,)).mixed_as(outer)
    kept = tuple(slot for slot in layer.slots if slot.property not in given)
    shown = evolve(layer, kind="nested", origin=None, properties=outside, slots=kept)
    outer = outer.with_layer(shown.with_values(composition=inner.id))
    for child in outer.layers:
        if child.parent == layer_id and moved != (0.0, 0.0):
            outer = outer.with_layer(shifted(child, *moved))
    return project.with_composition(inner).with_composition(outer), shown.id


def _check(layer: Layer) -> None:
    kind = layer_kind(layer.kind)
    if kind.unseen or kind.sees or kind.lights or kind.beneath is not None:
        raise ModelError(f"“{layer.name}” shows nothing of its own that could be nested.")
    if kind.planes is not None:
        raise ModelError(f"“{layer.name}” is a solid, and the picture of a nest is flat; nest it at full size instead.")
    if any(tie.what is What.LAYER for tie in _content(layer).ties):
        raise ModelError(f"“{layer.name}” shows other layers of this piece; nest it together with them instead.")


def _freed(outer: Composition, layer_id: str, names: Iterable[str]) -> Composition:
    """Return the piece where these properties follow nothing, nor anything them: that cannot go on from inside."""
    wanted = set(names)
    outer = baked_dependents(outer, layer_id, wanted)
    for name in sorted(wanted & set(outer.layer(layer_id).properties)):
        if outer.layer(layer_id).track(name).driver is not None:
            outer = baked(outer, layer_id, name)
    return outer


def _content(layer: Layer) -> Layer:
    """Return a layer that shows by itself what another one does, and nothing else of it."""
    own = {name: track for name, track in layer.properties.items() if not is_common(name)}
    properties = {name: evolve(track, driver=None) for name, track in own.items()}
    return Layer(layer.name, layer.kind, layer.first, layer.last, properties=properties)


def _frame_of(project: Project, outer: Composition, layer: Layer) -> _Frame:
    """Return the whole-numbered frame around all that a layer ever shows, seen from its pivot."""
    boxes = []
    for number in _moments(layer):
        at = Evaluated(project, outer, number)
        left, top, right, bottom = at.box(layer)
        x, y = pivot_point(at.values(layer), (left, top, right, bottom))
        boxes.append(((left - x, top - y, right - x, bottom - y), (left, top, right, bottom)))
    seen = [own for _, own in boxes]
    around = box_around([from_pivot for from_pivot, _ in boxes])
    # What fills its frame, however large that is, reaches over no side of it.
    fills = layer_kind(layer.kind).fills_frame
    over = (0.0, 0.0, 0.0, 0.0) if fills else _beyond(project, outer, layer, box_around(seen))
    width, height = seen[0][2] - seen[0][0], seen[0][3] - seen[0][1]
    whole = width == round(width) and height == round(height) and min(width, height) >= 1
    drawn = layer_kind(layer.kind).vector
    if whole and len(set(seen)) == 1 and not any(over) and not drawn:
        return _Frame(min(round(width), LARGEST_SIZE), min(round(height), LARGEST_SIZE), (width / 2, height / 2), True)
    left, top, right, bottom = widened(around, [side + _MARGIN if side or drawn else 0.0 for side in over])
    # A pivot on a whole pixel keeps pixels where they were as long as the layer stands on whole ones.
    x, y = -floor(left), -floor(top)
    size = (min(max(x + ceil(right), 1), LARGEST_SIZE), min(max(y + ceil(bottom), 1), LARGEST_SIZE))
    return _Frame(*size, (float(x), float(y)), False)


def _beyond(project: Project, outer: Composition, layer: Layer, held: Box) -> Box:
    """Return how far a layer's content ever reaches over the sides of a box in its own units: strokes, say, and
    letters that fly. Asked in a wide frame, where that is found to a few pixels, and once more in a close one."""
    far = float(max(outer.width, outer.height))
    left, top, right, bottom = _reaches(project, outer, layer, widened(held, (far, far, far, far)))
    room = (far + max(held[2] - held[0], held[3] - held[1])) / _FINE
    return _reaches(project, outer, layer, widened(held, (left + room, top + room, right + room, bottom + room)))


def _reaches(project: Project, outer: Composition, layer: Layer, frame: Box) -> Box:
    width, height = (min(max(ceil(side), 1), LARGEST_SIZE) for side in (frame[2] - frame[0], frame[3] - frame[1]))
    still = evolve(_content(layer), id=new_id()).with_values(position=(-frame[0], -frame[1]), pivot=(0.0, 0.0))
    bare = Composition("Content", width, height, outer.rate, outer.length, layers=(still,)).mixed_as(outer)
    found = [(0.0, 0.0, 0.0, 0.0)]
    for number in _moments(layer)[::DRAWN]:
        at = Evaluated(project, bare, number)
        found.append(beyond(at, at.matrix(still).box(at.box(still)), drawn_box(at, [still])))
    left, top, right, bottom = (max(sides) for sides in zip(*found, strict=True))
    return left, top, right, bottom


def _moved_by(project: Project, outer: Composition, layer: Layer, frame: _Frame) -> tuple[float, float]:
    """Return by how much what hangs on the layer lies elsewhere in the units of the nest."""
    at = Evaluated(project, outer, float(layer.first))
    x, y = pivot_point(at.values(layer), at.box(layer))
    if frame.exact:
        left, top, _, _ = at.box(layer)
        return -left, -top
    return frame.pivot[0] - x, frame.pivot[1] - y


def _moments(layer: Layer) -> list[float]:
    return [float(layer.first + frame) for frame in sampled_frames(layer.last - layer.first)]
