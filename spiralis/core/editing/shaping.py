"""Edits that shape a thread's speed: soften, smooth through a key, flatten it, set an ease."""

from __future__ import annotations

from collections.abc import Iterable

import numpy as np
from attrs import evolve

from spiralis.core.animation.easing import DIGITS, HOLD, CubicBezier, Easing, Steps
from spiralis.core.editing.keys import KeyRef, by_track
from spiralis.core.model import Composition
from spiralis.core.model.parameter import LISTS, Parameter
from spiralis.core.model.track import Key, Rule, Track


def as_bezier(easing: Easing) -> CubicBezier:
    """Return the easing itself, or the straight cubic-bezier that handles start from."""
    near, far = round(1 / 3, DIGITS), round(2 / 3, DIGITS)
    return easing if isinstance(easing, CubicBezier) else CubicBezier(near, near, far, far)


def speed_shaped(peak: float, height: float) -> CubicBezier:
    """Return an easing whose fastest moment lies at a share of the segment and that is faster the higher it is.

    ``height`` 0 is an even speed, 1 the sharpest peak. Both softnesses grow with the height; the peak's place shares
    them out.
    """
    peak, height = min(max(peak, 0.0), 1.0), min(max(height, 0.0), 1.0)
    return CubicBezier(round(min(2 * height * peak, 1.0), 3), 0, round(1 - min(2 * height * (1 - peak), 1.0), 3), 1)


def softness(easing: Easing) -> tuple[float, float] | None:
    """Return start and stop softness in percent where the easing has that form, else None."""
    if isinstance(easing, CubicBezier) and (easing.y1, easing.y2) == (0.0, 1.0):
        return 100 * easing.x1, 100 * (1 - easing.x2)
    if easing == CubicBezier(0, 0, 1, 1):
        return 0.0, 0.0
    return None


def with_easing(track: Track, frames: set[int], easing: Easing) -> Track:
    """Return the track with the segments that start at these frames eased like this."""
    keys = tuple(evolve(key, easing=easing) if key.frame in frames else key for key in track.keys)
    return evolve(track, keys=keys)


def flatten(track: Track, frame: int) -> Track:
    """Return the track with no speed at the key on this frame."""
    return _with_slopes(track, frame, 0.0)


def smooth_through(track: Track, parameter: Parameter, frame: int, seam: tuple[int, int] | None = None) -> Track:
    """Return the track with one speed on both sides of the key on this frame.

    The speed is the one from the key before to the key after (Catmull and Rom's tangent); at an end or
    a turning point it is zero. On a motion path it is the speed along the path.

    Args:
        seam: the frames where a loop begins and ends. A thread that is the same at both goes through them as through
            any other key, and so does one that repeats, or goes on from where a round ended.
    """
    index = track.index_at(frame)
    if index is None:
        return track
    joined = index in (0, len(track.keys) - 1)
    if parameter.kind in LISTS:
        return flatten(track, frame)  # Two lists need not be equally long; nothing says how far they are apart.
    if joined and not _comes_round(track, parameter, seam):
        return flatten(track, frame)
    left, into = (track.keys[-2], track.keys[-1]) if joined else track.keys[index - 1 : index + 1]
    out, right = track.keys[:2] if joined else track.keys[index : index + 2]
    way_in = parameter.to_array(into.value) - parameter.to_array(left.value)
    way_out = parameter.to_array(right.value) - parameter.to_array(out.value)
    # On a path with handles the way turns smoothly by itself.
    if into.handle_in is None and out.handle_out is None and way_in @ way_out <= 0:
        speed = 0.0
    else:
        distance = float(np.linalg.norm(way_in) + np.linalg.norm(way_out))
        speed = distance / (into.frame - left.frame + right.frame - out.frame)
    for at in {into.frame, out.frame}:
        track = _with_slopes(track, at, speed, parameter)
    return track


def _comes_round(track: Track, parameter: Parameter, seam: tuple[int, int] | None) -> bool:
    """Whether the last key of a thread is its first one again."""
    if len(track.keys) < 2:
        return False
    if track.after.rule is Rule.ACCUMULATE:
        return True
    closes = seam == (track.keys[0].frame, track.keys[-1].frame) or track.after.rule is Rule.REPEAT
    return closes and ends_as_it_begins(track, parameter)


def ends_as_it_begins(track: Track, parameter: Parameter) -> bool:
    """Whether a thread's last key has the value of its first one, or one that looks the same."""
    first, last = track.keys[0].value, track.keys[-1].value
    if first == last or not parameter.numeric or parameter.kind in LISTS:
        return bool(first == last)
    return float(np.abs(parameter.apart(first, last)).max()) < 1e-6


def _with_slopes(track: Track, frame: int, speed: float, parameter: Parameter | None = None) -> Track:
    index = track.index_at(frame)
    if index is None:
        return track
    keys = list(track.keys)
    if index > 0:
        keys[index - 1] = _sloped(keys[index - 1], keys[index], speed, parameter, at_end=True)
    if index < len(keys) - 1:
        keys[index] = _sloped(keys[index], keys[index + 1], speed, parameter, at_end=False)
    return evolve(track, keys=tuple(keys))


def _sloped(left: Key, right: Key, speed: float, parameter: Parameter | None, at_end: bool) -> Key:
    """Return the left key with its easing given this absolute speed at one end."""
    if isinstance(left.easing, Steps) and left.easing == HOLD:
        return left
    easing = as_bezier(left.easing)
    slope = 0.0
    if speed and parameter is not None:
        way = float(np.linalg.norm(parameter.to_array(right.value) - parameter.to_array(left.value)))
        slope = speed * (right.frame - left.frame) / way if way > 1e-9 else 0.0
    if at_end:
        reach = max(1.0 - easing.x2, 0.2)
        bent = evolve(easing, x2=round(1 - reach, DIGITS), y2=round(1 - slope * reach, DIGITS))
    else:
        reach = max(easing.x1, 0.2)
        bent = evolve(easing, x1=reach, y1=round(slope * reach, DIGITS))
    return evolve(left, easing=bent)


def keys_shaped(piece: Composition, refs: Iterable[KeyRef], smooth: bool) -> Composition:
    """Return the composition where keys have one speed on both sides, or none; those of locked layers stay.

    Where the composition loops, its threads are smooth through the seam too.
    """
    seam = piece.span if piece.loop else None
    for (layer_id, name), frames in by_track(refs).items():
        layer = piece.layer(layer_id)
        track, parameter = layer.track(name), layer.parameter(name)
        if layer.locked or not parameter.numeric:
            continue
        for frame in frames:
            track = smooth_through(track, parameter, frame, seam) if smooth else flatten(track, frame)
        piece = piece.with_layer(layer.with_track(name, track))
    return piece
