"""Many plain layers in a row at once: their places worked out by one kernel, their operations made as arrays.

What is drawn is what ``building.py`` gives for each of them, bit for bit; a layer that is too large to be drawn whole
is left to it. Pictures are kept from one frame or version to the next: a layer whose outlines stand alike between the
pixels, or that an edit did not touch, is not drawn again.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from functools import cache
from typing import cast

import numpy as np
from attrs import define, frozen

from spiralis.core.animation.easing import CubicBezier
from spiralis.core.cache import Beside, CacheSection
from spiralis.core.compositing.blend import REACHING, mode_number
from spiralis.core.compositing.kernels import bands
from spiralis.core.geometry import Affine, Box, WholeBox, boxes_under
from spiralis.core.model import Layer, Source, Track, layer_kind
from spiralis.core.model.references import What
from spiralis.core.model.track import Rule
from spiralis.core.raster.layer_image import Scene
from spiralis.core.raster.stamps import MOST_WHOLE, Stamp, rasterised
from spiralis.core.render.kernels import crowding
from spiralis.core.render.layers import Evaluated, layer_values
from spiralis.core.render.plain import is_plain

#: So many plain layers in a row, or more, are drawn together.
FEWEST = 8
#: Maps that flatten more than that are left to whoever handles what cannot be turned back.
_FLAT = 1e-6
#: How many times more memory than they take may be held for pictures that are kept, from so many bytes on.
_SPARE, _LITTLE = 4, 1 << 20


@cache
def _columns() -> dict[str, tuple[int, int]]:
    """Return what may move: where it begins in a row of the kernel (which is loaded late), and in how many numbers."""
    return {
        "position": (crowding.POSITION, 2), "scale": (crowding.SCALE, 2), "rotation": (crowding.ROTATION, 1),
        "skew": (crowding.SKEW, 2), "pivot": (crowding.PIVOT, 2), "opacity": (crowding.OPACITY, 1),
    }  # fmt: skip


@frozen(eq=False)
class Member:
    """A layer of a crowd: its stamp, content box, blend mode, what rests (COLUMNS,), and what moves, as the kernel
    takes it, with the arrays that it points into."""

    stamp: Stamp
    box: Box
    mode: int
    rest: np.ndarray
    tracks: np.ndarray
    keys: tuple[np.ndarray, ...]


@define(eq=False)
class _Known:
    sources: tuple[Source, ...] | None = None
    size: tuple[int, int] = (0, 0)
    member: Member | None = None


_known: Beside[_Known] = Beside(_Known)


def member_of(at: Evaluated, layer: Layer) -> Member | None:
    """Return a layer as one of a crowd, None for one that is drawn by itself; kept beside it."""
    known, scene = _known.of(layer), at.scene
    if known.sources is not scene.project.sources or known.size != (scene.width, scene.height):
        known.member = _member(layer, scene)
        known.sources, known.size = scene.project.sources, (scene.width, scene.height)
    return known.member


def _member(layer: Layer, scene: Scene) -> Member | None:
    kind = layer_kind(layer.kind)
    moving = layer.shown_tracks()
    tied = any(tie.what is not What.SOURCE for tie in layer.ties)
    if kind.stamp is None or kind.moment is not None or tied or layer.edge_pins or not is_plain(layer):
        return None
    if any(name not in _columns() or not _straight(layer.properties[name]) for name in moving):
        return None
    values = layer_values(layer, float(layer.first))
    mode = mode_number(values["blend"])
    if values["separate"] or values["along_path"] or not values["visible"] or mode in REACHING:
        return None
    stamp = kind.stamp(values, scene)
    if stamp is None:
        return None
    rest = np.concatenate([np.atleast_1d(np.asarray(values[name], dtype=np.float64)) for name in _columns()])
    keys = tuple(_keys(layer.properties[name], _columns()[name][1]) for name in moving)
    tracks = [(0, *_columns()[name], len(layer.properties[name].keys), array.ctypes.data)
              for name, array in zip(moving, keys, strict=True)]  # fmt: skip
    made = np.array(tracks, dtype=np.int64).reshape(-1, 5)
    return Member(stamp, kind.box(values, scene), mode, rest, made, keys)


def _straight(track: Track) -> bool:
    """Whether a thread is nothing but a straight mix of two keys at any frame."""
    plain = track.driver is None and track.wobble is None
    once = track.before.rule is Rule.ONCE and track.after.rule is Rule.ONCE
    bent = any(key.handle_in or key.handle_out for key in track.keys)
    return plain and once and not bent and all(isinstance(key.easing, CubicBezier) for key in track.keys[:-1])


def _keys(track: Track, parts: int) -> np.ndarray:
    rows = np.zeros((len(track.keys), crowding.KEY))
    for row, key in zip(rows, track.keys, strict=True):
        row[0] = key.frame
        row[1 : 1 + parts] = key.value
        if isinstance(key.easing, CubicBezier):
            row[3:] = key.easing.x1, key.easing.y1, key.easing.x2, key.easing.y2
    return rows


def _limits(of: Layer) -> tuple[np.ndarray, np.ndarray]:
    low, high = np.empty(crowding.COLUMNS), np.empty(crowding.COLUMNS)
    for name, (column, parts) in _columns().items():
        parameter = of.parameter(name)
        low[column : column + parts], high[column : column + parts] = parameter.minimum, parameter.maximum
    return low, high


@frozen(eq=False)
class _Drawn:
    """A crowd as it was drawn last: its members, their maps but for whole pixels (n, 6), where their pictures lie
    beside that (n, 4), the address of each (0: none) and what holds the memory."""

    members: np.ndarray
    homes: np.ndarray
    areas: np.ndarray
    addresses: np.ndarray
    holders: list[np.ndarray | None]
    kept: tuple[Member, ...]


#: By piece, first layer and size of the output.
_drawn: CacheSection[_Drawn] = CacheSection(lambda drawn: 512 * len(drawn.kept) + _bytes(drawn.holders))


def _sizes(areas: np.ndarray) -> np.ndarray:
    """Return the bytes that pictures of areas (n, 4) take."""
    return np.asarray((areas[:, 2] - areas[:, 0]) * (areas[:, 3] - areas[:, 1]) * 4)


def _bytes(holders: Sequence[np.ndarray | None]) -> int:
    return sum({id(held): held.nbytes for held in holders if held is not None}.values())


@frozen(eq=False)
class Crowd:
    """Operations of a run of layers: ``rows`` with the place in the run that each is ``of``; which places are left to
    be drawn ``singly``; and the memory that the rows point into."""

    rows: np.ndarray
    of: np.ndarray
    singly: list[int]
    keeps: list[np.ndarray]


def crowd(at: Evaluated, to_grid: Affine, frame: Box, layers: Sequence[Layer], members: Sequence[Member]) -> Crowd:
    """Return the operations of layers that are all plain, back to front."""
    rows = np.array([member.rest for member in members])
    counts = [len(member.tracks) for member in members]
    tracks = np.concatenate([member.tracks for member in members])
    tracks[:, 0] = np.repeat(np.arange(len(members)), counts)
    boxes, maps = np.array([member.box for member in members]), np.empty((len(members), 6))
    crowding.place_all(at.frame, tracks, *_limits(layers[0]), boxes, np.array(to_grid), rows, maps)
    opacity = rows[:, crowding.OPACITY] / 100
    around, whole = _around(maps, np.array([member.stamp.box for member in members]))
    inside = (around[:, :2] < frame[2:]).all(axis=1) & (around[:, 2:] > frame[:2]).all(axis=1)
    shown = (opacity > 0) & inside & np.isfinite(maps).all(axis=1)
    singly = np.flatnonzero(shown & ~whole)
    chosen = np.flatnonzero(shown & whole)
    corners = np.floor(maps[:, 4:])
    homes = maps.copy()
    homes[:, 4:] -= corners
    areas = np.zeros((len(members), 4), dtype=np.int64)
    areas[chosen, :2] = np.floor(around[chosen, :2] - corners[chosen] - 2.0)
    areas[chosen, 2:] = np.ceil(around[chosen, 2:] - corners[chosen] + 2.0)
    place = (at.composition.id, layers[0].id, to_grid, frame)
    drawn = _redrawn(_drawn.peek(place), members, homes, areas, chosen)
    _drawn.put(place, drawn, 0.05)
    made = _operations(drawn, areas, corners, chosen, opacity, np.array([m.mode for m in members]), frame)
    keeps = list({id(held): held for n in chosen.tolist() if (held := drawn.holders[n]) is not None}.values())
    return Crowd(made, chosen, singly.tolist(), keeps)


def _around(maps: np.ndarray, boxes: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """Return the boxes around stamps as ``stamps.around`` does, (n, 4), and which of them are drawn whole."""
    a, b, c, d, _, _ = maps.T
    around = boxes_under(maps, boxes) + np.array([-1, -1, 1, 1])
    pixels = (around[:, 2] - around[:, 0]) * (around[:, 3] - around[:, 1])
    return around, (pixels <= MOST_WHOLE) & (np.abs(a * d - b * c) > _FLAT)


def _redrawn(
    before: _Drawn | None, members: Sequence[Member], homes: np.ndarray, areas: np.ndarray, chosen: np.ndarray
) -> _Drawn:
    """Return the pictures of all chosen members; those that stand as they did keep theirs."""
    count = len(members)
    identity = np.array([id(member) for member in members])
    addresses, holders = np.zeros(count, dtype=np.int64), cast("list[np.ndarray | None]", [None] * count)
    if before is not None and len(before.members) == count:
        same = (before.members == identity) & (before.homes == homes).all(axis=1) & (before.areas == areas).all(axis=1)
        addresses = np.where(same, before.addresses, 0)
        for n in np.flatnonzero(addresses).tolist():
            holders[n] = before.holders[n]
        if _bytes(holders) > _SPARE * max(int(_sizes(areas[chosen]).sum()), _LITTLE):
            # Of what was drawn with others most is not needed any more.
            addresses, holders = np.zeros(count, dtype=np.int64), cast("list[np.ndarray | None]", [None] * count)
    new = chosen[addresses[chosen] == 0]
    sizes = _sizes(areas[new])
    memory = np.zeros(int(sizes.sum()), dtype=np.uint8)
    begin = np.concatenate([[0], np.cumsum(sizes)])
    for n, at, home, area in zip(new.tolist(), begin.tolist(), homes[new].tolist(), areas[new].tolist(), strict=False):
        whole: WholeBox = (area[0], area[1], area[2], area[3])
        rasterised(members[n].stamp, Affine(*home), whole, memory[at:])
        holders[n] = memory
    addresses[new] = memory.ctypes.data + begin[:-1]
    return _Drawn(identity, homes, areas, addresses, holders, tuple(members))


def _operations(
    drawn: _Drawn, areas: np.ndarray, corners: np.ndarray, chosen: np.ndarray, opacity: np.ndarray, modes: np.ndarray,
    frame: Box,
) -> np.ndarray:  # fmt: skip
    """Return the operations that lay the chosen pictures on the pixels that they were drawn for."""
    rows = np.zeros(len(chosen), dtype=bands.OPERATION)
    area, shift = areas[chosen], corners[chosen].astype(np.int64)
    left, top, right, bottom = (area[:, k] + shift[:, k % 2] for k in range(4))
    rows["kind"], rows["mode"] = bands.BYTES_STRAIGHT, modes[chosen]
    rows["left"], rows["top"] = np.maximum(left, math.floor(frame[0])), np.maximum(top, math.floor(frame[1]))
    rows["right"], rows["bottom"] = np.minimum(right, math.ceil(frame[2])), np.minimum(bottom, math.ceil(frame[3]))
    rows["source"], rows["opacity"] = drawn.addresses[chosen], opacity[chosen]
    rows["across"], rows["down"] = right - left, bottom - top
    rows["place"][:, 0] = rows["place"][:, 4] = rows["place"][:, 8] = 1.0
    rows["place"][:, 2], rows["place"][:, 5] = -left, -top
    return rows
