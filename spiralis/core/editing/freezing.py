"""Let chosen layers rest at a frame: their motion stops there, waits, and goes on as it was."""

from __future__ import annotations

from collections.abc import Iterable

import numpy as np
from attrs import evolve

from spiralis.core.animation.easing import LINEAR, CubicBezier, Easing, LinearPoints
from spiralis.core.animation.motion_path import bezier_point, cut_at
from spiralis.core.animation.tracks import value_at
from spiralis.core.editing.keys import KeyRef
from spiralis.core.editing.locking import locked_in
from spiralis.core.model import Composition, Key, Parameter, Track

_FLAT = 1e-9
#: Straight pieces that stand for a bend which no handles can have.
_PIECES = 128


def frozen_at(composition: Composition, ids: Iterable[str], frame: int, hold: int) -> tuple[Composition, set[KeyRef]]:
    """Return the composition where the threads of layers rest from a frame on, and the keys that hold them there.

    Args:
        composition: where the layers are; locked ones stay as they are.
        ids: the layers.
        frame: where they stop.
        hold: for how many frames, 1 or more; what comes after is that much later.
    """
    chosen, landed = set(ids) - locked_in(composition), set[KeyRef]()
    for layer in [y for y in composition.layers if y.id in chosen]:
        changed = layer
        for name in layer.animated():
            track = layer.track(name)
            if track.keys[-1].frame <= frame:
                continue
            rested = _rested(track, layer.parameter(name), frame, hold)
            landed |= {KeyRef(layer.id, name, f) for f in (frame, frame + hold) if rested.index_at(f) is not None}
            changed = changed.with_track(name, rested)
        if changed is not layer:
            composition = composition.with_layer(changed)
    return composition, landed


def _rested(track: Track, parameter: Parameter, frame: int, hold: int) -> Track:
    if track.keys[0].frame <= frame:
        track = with_key_kept(track, parameter, frame)
        index = track.index_at(frame)
        assert index is not None
        here = track.keys[index]
        rest = evolve(here, easing=LINEAR, handle_out=None)
        onward = evolve(here, frame=frame + hold, handle_in=None)
        later = [evolve(key, frame=key.frame + hold) for key in track.keys[index + 1 :]]
        return evolve(track, keys=(*track.keys[:index], rest, onward, *later))
    return evolve(track, keys=tuple(evolve(key, frame=key.frame + hold) for key in track.keys))


def with_key_kept(track: Track, parameter: Parameter, frame: int) -> Track:
    """Return the track with one more key on a frame between two others, and nothing changed in sight.

    Bends are cut in two as curves (de Casteljau), so that both halves together run as the whole did. Where an ease
    passes the value it starts from or ends at just there, where its value is held back by a limit, and in steps, the
    halves only come near.
    """
    index = max((i for i, key in enumerate(track.keys) if key.frame <= frame), default=-1)
    if index < 0 or index == len(track.keys) - 1 or track.keys[index].frame == frame:
        return track
    left, right = track.keys[index], track.keys[index + 1]
    key = Key(frame, value_at(track, parameter, frame), left.easing)
    if not parameter.numeric:
        return track.with_key(key)
    share = (frame - left.frame) / (right.frame - left.frame)
    before, after = easing_cut(left.easing, share)
    left, key = evolve(left, easing=before), evolve(key, easing=after)
    if parameter.is_path and (left.handle_out or right.handle_in):
        progress = float(track.keys[index].easing(share))
        left_out, key_in, key_out, right_in = cut_at(
            left.value, right.value, left.handle_out, right.handle_in, min(max(progress, 0.0), 1.0)
        )
        left, right = evolve(left, handle_out=left_out), evolve(right, handle_in=right_in)
        key = evolve(key, handle_in=key_in, handle_out=key_out)
    return evolve(track, keys=(*track.keys[:index], left, key, right, *track.keys[index + 2 :]))


def easing_cut(easing: Easing, share: float) -> tuple[Easing, Easing]:
    """Return the easings of both parts of a segment that is cut at a share (0 to 1, open) of its time."""
    if isinstance(easing, CubicBezier):
        return _bezier_cut(easing, share)
    if isinstance(easing, LinearPoints):
        return _points_cut(easing, share)
    return easing, easing


def _bezier_cut(easing: CubicBezier, share: float) -> tuple[Easing, Easing]:
    points = np.array([(0.0, 0.0), (easing.x1, easing.y1), (easing.x2, easing.y2), (1.0, 1.0)])
    low, high = 0.0, 1.0
    for _ in range(60):
        middle = (low + high) / 2
        if _casteljau(points, middle)[0][3][0] < share:
            low = middle
        else:
            high = middle
    first, second = _casteljau(points, (low + high) / 2)
    return _normal(first), _normal(second)


def _casteljau(points: np.ndarray, s: float) -> tuple[np.ndarray, np.ndarray]:
    """Return both parts of a cubic with control points (4, 2), cut at a parameter."""
    a, b, c = (points[i] + s * (points[i + 1] - points[i]) for i in range(3))
    d, e = a + s * (b - a), b + s * (c - b)
    middle = d + s * (e - d)
    return np.array([points[0], a, d, middle]), np.array([middle, e, c, points[3]])


def _normal(part: np.ndarray) -> Easing:
    size = part[3] - part[0]
    if abs(size[1]) < _FLAT or size[0] < _FLAT:
        return LINEAR
    (x1, y1), (x2, y2) = (part[1:3] - part[0]) / size
    if max(abs(y1), abs(y2)) > 1e4:
        return LINEAR
    if min(x1, x2) >= -_FLAT and max(x1, x2) <= 1 + _FLAT:
        return CubicBezier(min(max(x1, 0.0), 1.0), y1, min(max(x2, 0.0), 1.0), y2)
    # The handles would reach outside the segment, which CSS does not allow: the bend is written as straight pieces.
    points = bezier_point(part[:, :2], np.linspace(0.0, 1.0, _PIECES + 1))
    levels = (points - part[0]) / size
    return LinearPoints(tuple((min(max(float(x), 0.0), 1.0), float(y)) for x, y in levels))


def _points_cut(easing: LinearPoints, share: float) -> tuple[Easing, Easing]:
    level = float(easing(share))
    before = [p for p in easing.points if p[0] < share] + [(share, level)]
    after = [(share, level)] + [p for p in easing.points if p[0] > share]
    halves: list[Easing] = []
    for points in (before, after):
        (x0, y0), (x1, y1) = points[0], points[-1]
        flat = abs(y1 - y0) < _FLAT or len(points) < 2 or x1 - x0 < _FLAT
        if flat:
            halves.append(LINEAR)
        else:
            halves.append(LinearPoints(tuple(((x - x0) / (x1 - x0), (y - y0) / (y1 - y0)) for x, y in points)))
    return halves[0], halves[1]


