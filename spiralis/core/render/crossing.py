"""Layers in depth that go through each other, cut where their planes cross, so that each part covers what is behind it.

Source: Fuchs, Kedem, Naylor, *On Visible Surface Generation by A Priori Tree Structures* (1980).
"""

from __future__ import annotations

from collections.abc import Hashable, Sequence

import numpy as np
from attrs import evolve, frozen

from spiralis.core.geometry import Affine, WholeBox, half_of, intersect_whole, rounded_out
from spiralis.core.model import Layer, layer_kind
from spiralis.core.raster.raster import Raster
from spiralis.core.raster.vectors import cut_to_polygon
from spiralis.core.render.layers import Evaluated
from spiralis.core.render.nodes import Node, Pictured
from spiralis.core.render.space import NEAREST, camera_of, runs_in_space, world
from spiralis.core.render.thickness import is_thick

#: So near to a plane, in px, a corner lies in it.
_IN_IT = 1e-3
#: Parts reach so many pixels over the lines they are cut at, so that nothing shows between them.
_OVER = 0.6


@frozen(eq=False)
class Part:
    """A layer, or a part of it: ``corners`` (n, 3) in space; ``cut`` says whether those are less than all of it."""

    layer: Layer
    corners: np.ndarray
    origin: np.ndarray
    normal: np.ndarray
    flat: bool
    cut: bool = False


def parted(at: Evaluated, layers: Sequence[Layer]) -> list[tuple[Layer, np.ndarray | None]]:
    """Return layers, back to front, those in depth that are side by side cut where any of them asks for it.

    With each comes the outline of a part, (n, 2) in the composition's pixels; None for a layer that is whole.
    """
    made: list[tuple[Layer, np.ndarray | None]] = []
    for stands, run in runs_in_space(at, layers):
        if stands and len(run) > 1 and any(at.values(y)["crosses"] for y in run):
            parts = _ordered([_part(at, y) for y in run], camera_of(at).place)
            made += [(part.layer, _outline(at, part) if part.cut else None) for part in parts]
        else:
            made += [(y, None) for y in run]
    return made


def may_cross(layers: Sequence[Layer]) -> bool:
    """Whether any of the layers may ask to be cut where others go through it."""
    return any("crosses" in layer.properties for layer in layers)


def _part(at: Evaluated, layer: Layer) -> Part:
    left, top, right, bottom = at.box(layer)
    kind = layer_kind(layer.kind)
    deep = bool(at.values(layer).get("keeps_depth", False))
    flat = kind.planes is None and not kind.swarm and not deep and not is_thick(at, layer)
    standing = world(at, layer)
    # What effects lay around a layer is cut as well.
    more = max(right - left, bottom - top) if layer.blocks else 2.0
    box = [(left - more, top - more), (right + more, top - more), (right + more, bottom + more),
           (left - more, bottom + more)]  # fmt: skip
    corners = np.array([standing[:3] @ (x, y, 0.0, 1.0) for x, y in box])
    normal = np.cross(standing[:3, 0], standing[:3, 1])
    length = float(np.linalg.norm(normal))
    if not flat or length < 1e-9:
        # A solid is taken for a card across the view.
        flat, normal, length = False, camera_of(at).turn[:, 2], 1.0
    return Part(layer, corners, corners.mean(axis=0), normal / length, flat)


def _ordered(parts: Sequence[Part], eye: np.ndarray) -> list[Part]:
    """Return parts back to front as an eye sees them, split by each other's planes."""
    if len(parts) < 2:
        return list(parts)
    root, *rest = parts
    before: list[Part] = []
    behind: list[Part] = []
    within = [root]
    for part in rest:
        away = (part.corners - root.origin) @ root.normal
        if np.abs(away).max() <= _IN_IT:
            within.append(part)
        elif away.min() >= -_IN_IT or (not part.flat and away.mean() > 0):
            before.append(part)
        elif away.max() <= _IN_IT or not part.flat:
            behind.append(part)
        elif not root.flat:
            (before if away.mean() > 0 else behind).append(part)
        else:
            before.append(_half(part, away))
            behind.append(_half(part, -away))
    if (eye - root.origin) @ root.normal < 0:
        before, behind = behind, before
    return [*_ordered(behind, eye), *within, *_ordered(before, eye)]


def _half(part: Part, away: np.ndarray) -> Part:
    """Return what of a part lies where the distances of its corners are above 0."""
    return evolve(part, corners=half_of(part.corners, away), cut=True)


def _outline(at: Evaluated, part: Part) -> np.ndarray:
    """Return where a part is seen, (n, 2) in the composition's pixels; what lies behind the eye is cut off first."""
    camera = camera_of(at)
    corners = part.corners
    depth = camera.sees(corners)[1] - NEAREST
    if depth.min() < 0:
        corners = half_of(corners, depth)
    return camera.sees(corners)[0] if len(corners) > 2 else np.zeros((0, 2))


class Cut(Pictured):
    """A node of which only what lies within an outline, (n, 2) in the grid, is seen."""

    def __init__(self, inner: Node, outline: np.ndarray, to_grid: Affine) -> None:
        self.inner, self.outline = inner, to_grid.apply_all(outline)

    def make_key(self) -> Hashable:
        return self.inner.key, self.outline.tobytes()

    def drawn_in(self, region: WholeBox) -> Raster | None:
        if len(self.outline) < 3:
            return None
        low, high = (np.clip(corner, -1e6, 1e6) for corner in (self.outline.min(axis=0), self.outline.max(axis=0)))
        area = intersect_whole(rounded_out((low[0], low[1], high[0], high[1]), 1.0), region)
        picture = self.inner.picture(area) if area is not None else None
        if picture is None:
            return None
        pixels = np.array(picture.as_float)
        cut_to_polygon(pixels, self.outline, picture.corner, _OVER)
        return Raster(pixels, picture.space, picture.corner)
