"""Cut a segment in two at a key that changes nothing in sight, and join two where a key changes nothing."""

from __future__ import annotations

import math

import numpy as np
from attrs import evolve

from spiralis.core.animation.easing import DIGITS, HOLD, LINEAR, CubicBezier, Easing, LinearPoints
from spiralis.core.animation.motion_path import bezier_point, cut_at
from spiralis.core.animation.tracks import evaluate, value_at
from spiralis.core.model import Key, Parameter, Track
from spiralis.core.model.track import Point, Rule

_FLAT = 1e-9
#: Straight pieces that stand for a bend which no handles can have.
_PIECES = 128
#: Two ways of a thread are one where they are never farther apart than this share of how far it goes.
_SAME = 1e-4


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


def with_key_beyond(track: Track, parameter: Parameter, frame: int) -> Track:
    """Return the track with one more key before or after all others, and nothing changed in sight: it rests, or carries
    on, up to there. Where it repeats, see :mod:`spiralis.core.editing.rounds`."""
    later = frame > track.keys[-1].frame
    edge, extend = (track.keys[-1], track.after) if later else (track.keys[0], track.before)
    carries = extend.rule is Rule.CARRY_ON and parameter.numeric
    key = Key(frame, value_at(track, parameter, frame), LINEAR if carries else edge.easing)
    if later:
        edge = evolve(edge, easing=LINEAR if carries else edge.easing, handle_out=None)
    else:
        edge = evolve(edge, handle_in=None)
    return track.with_key(edge).with_key(key)


def easing_cut(easing: Easing, share: float) -> tuple[Easing, Easing]:
    """Return the easings of both parts of a segment that is cut at a share (0 to 1, open) of its time."""
    if _is_straight(easing):
        return LINEAR, LINEAR
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
        numbers = (min(max(x1, 0.0), 1.0), y1, min(max(x2, 0.0), 1.0), y2)
        return CubicBezier(*(round(float(number), DIGITS) for number in numbers))
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


def without_key_kept(track: Track, parameter: Parameter, frame: int) -> Track:
    """Return the track without the key on a frame; where it changes nothing in sight, nothing changes without it.

    The opposite of ``with_key_kept``: two halves of one bend become that bend again.
    """
    index, bare = track.index_at(frame), track.without_keys({frame})
    if index is None or index in (0, len(track.keys) - 1) or not parameter.numeric:
        return bare
    left, key, right = track.keys[index - 1 : index + 2]
    easing = easing_joined(left.easing, key.easing, (frame - left.frame) / (right.frame - left.frame))
    if easing is None:
        return bare
    left, right = _handles_joined(evolve(left, easing=easing), key, right)
    joined = evolve(track, keys=(*track.keys[: index - 1], left, right, *track.keys[index + 2 :]))
    moments = np.linspace(left.frame, right.frame, 33)
    before, after = (evaluate(way, parameter, moments) for way in (track, joined))
    if before.shape != after.shape:
        return bare
    far = float(np.ptp(before, axis=0).max()) * _SAME + _FLAT
    return joined if float(np.abs(before - after).max()) <= far else bare


def easing_joined(before: Easing, after: Easing, share: float) -> Easing | None:
    """Return the easing of which two are the parts, the first one to a share of the time; None where there is none.

    How far the way has come there follows from the tangents, which are one line in a bend that was cut.
    """
    if before == after == HOLD or (_is_straight(before) and _is_straight(after)):
        return HOLD if before == HOLD else LINEAR
    if not isinstance(before, CubicBezier) or not isinstance(after, CubicBezier):
        return None
    rise, run = share * (1 - before.x2) * after.y1, (1 - before.y2) * (1 - share) * after.x1
    if abs(rise + run) < _FLAT:
        return None
    level = rise / (rise + run)
    into = math.hypot(share * (1 - before.x2), level * (1 - before.y2))
    out = math.hypot((1 - share) * after.x1, (1 - level) * after.y1)
    if min(into, out) < _FLAT:
        return None
    cut = into / (into + out)
    x1, y1 = share * before.x1 / cut, level * before.y1 / cut
    x2, y2 = (1 - part * (1 - far) / (1 - cut) for part, far in ((1 - share, after.x2), (1 - level, after.y2)))
    if not (-_SAME < x1 < 1 + _SAME and -_SAME < x2 < 1 + _SAME and max(abs(y1), abs(y2)) < 1e4):
        return None
    numbers = (min(max(x1, 0.0), 1.0), y1, min(max(x2, 0.0), 1.0), y2)
    return CubicBezier(*(round(number, 5) for number in numbers))


def _handles_joined(left: Key, key: Key, right: Key) -> tuple[Key, Key]:
    """Return the keys on both sides of one that goes, with the handles of one way in place of two."""
    into, out = (math.hypot(*(handle or (0.0, 0.0))) for handle in (key.handle_in, key.handle_out))
    if min(into, out) < _FLAT:
        return left, right
    cut = into / (into + out)

    def longer(handle: Point | None, share: float) -> Point | None:
        return (handle[0] / share, handle[1] / share) if handle is not None else None

    return evolve(left, handle_out=longer(left.handle_out, cut)), evolve(
        right, handle_in=longer(right.handle_in, 1 - cut))  # fmt: skip


def _is_straight(easing: Easing) -> bool:
    return isinstance(easing, CubicBezier) and (easing.x1, easing.x2) == (easing.y1, easing.y2)
