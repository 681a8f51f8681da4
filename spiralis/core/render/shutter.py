"""What the open shutter sees of a layer: at how many moments it is looked at, and when those are."""

from __future__ import annotations

import math
from collections.abc import Sequence
from itertools import pairwise
from typing import TYPE_CHECKING

import numpy as np
from attrs import evolve

from spiralis.core.compositing.blend import mode_number
from spiralis.core.geometry import Affine, Box
from spiralis.core.model import Composition, Layer
from spiralis.core.render.averaged import FEWEST, Averaged, moments_needed
from spiralis.core.render.effecting import Apart, parts_of
from spiralis.core.render.layers import Evaluated, matrices_over
from spiralis.core.render.nodes import Item, Node

if TYPE_CHECKING:
    from spiralis.core.render.building import Builder

#: Blur of everything draws a layer once a moment, and so takes this many times fewer of them than blur of movement.
_MOMENTS = 8
#: What moves by less than this many pixels stands still.
_STILL = 0.25


def shutter_times(at: Evaluated, piece: Composition, count: int) -> np.ndarray:
    """Return the middles of ``count`` even parts of the open shutter, in frames."""
    opens = at.frame + piece.shutter_phase / 360
    return opens + piece.shutter_angle / 360 * (np.arange(count) + 0.5) / count


def maps_over_the_shutter(builder: Builder, layer: Layer) -> list[Affine] | None:
    """Return a layer's maps to the grid over the open shutter, or None where it is not blurred or stands still."""
    piece, at = builder.piece, builder.at
    if builder.within_shutter or not at.values(layer)["motion_blur"] or piece.shutter_angle <= 0:
        return None
    opens = at.frame + piece.shutter_phase / 360
    shut = opens + piece.shutter_angle / 360
    # At both ends and in between to see how far it moves; and at the fewest moments, which often are enough.
    fewest = shutter_times(at, piece, FEWEST)
    maps = [builder.to_grid @ m for m in matrices_over(at, layer, np.append(np.linspace(opens, shut, 5), fewest))]
    moved = sum(_distance(a, b, at.box(layer)) for a, b in pairwise(maps[:5]))
    if moved < _STILL:
        return None
    count = int(min(max(np.ceil(moved), FEWEST), piece.blur_samples))
    if count == FEWEST:
        return maps[5:]
    return [builder.to_grid @ m for m in matrices_over(at, layer, shutter_times(at, piece, count))]


def over_the_shutter(builder: Builder, layer: Layer) -> Item | None:
    """Return the mean of a layer over the open shutter; what does not change meanwhile is drawn once.

    A layer is there for whole frames: of moments when it is not, as before its first frame, it is as on this one.
    """
    piece, at, fine = builder.piece, builder.at, dict[str, float]()

    def at_moments(count: int) -> list[Item | None]:
        times = shutter_times(at, piece, count).tolist() if piece.shutter_angle > 0 else [at.frame]
        builders = [builder.at_moment(time, fine) for time in times]
        return [
            (each if layer.shown_at(each.at.frame) else builder.at_moment(at.frame, fine)).at_once(layer)
            for each in builders
        ]  # fmt: skip

    probes = at_moments(FEWEST)
    count = moments_needed(probes, at.box(layer), max(FEWEST, piece.blur_samples // _MOMENTS))
    moments = probes if count == FEWEST else at_moments(count)
    averaged = Averaged(moments)
    if averaged.steady:
        return moments[0]
    return Item(_each_averaged(moments) or averaged, mode_number(at.values(layer)["blend"]))


def _each_averaged(moments: Sequence[Item | None]) -> Node | None:
    """Return the means of a layer's pictures that mix in ways of their own; None where it is one at some moment."""
    items = [item for item in moments if item is not None]
    parts = [parts_of(item.node) for item in items]
    if len(items) < len(moments) or not parts[0] or len({tuple(mode for _, mode in each) for each in parts}) > 1:
        return None
    return Apart([
        (Averaged([evolve(item, node=each[place][0]) for item, each in zip(items, parts, strict=True)]), mode)
        for place, (_, mode) in enumerate(parts[0])
    ])  # fmt: skip


def _distance(first: Affine, second: Affine, box: Box) -> float:
    corners = [(x, y) for x in (box[0], box[2]) for y in (box[1], box[3])]
    pairs = ((first.apply(*corner), second.apply(*corner)) for corner in corners)
    return max(math.dist(a, b) for a, b in pairs)
