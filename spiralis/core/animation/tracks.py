"""Evaluate tracks: values of a property at one frame or at many frames at once."""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Sequence
from itertools import pairwise

import numpy as np
from attrs import frozen

from spiralis.core.animation.easing import CubicBezier
from spiralis.core.animation.kernels import solving
from spiralis.core.animation.morphing import mixed_art
from spiralis.core.animation.motion_path import travel
from spiralis.core.colour import mix
from spiralis.core.model.parameter import LISTS, Kind, Parameter, Value
from spiralis.core.model.track import Extend, Key, Rule, Track

_SPEED_STEP = 1.0 / 64.0


def value_at(track: Track, parameter: Parameter, frame: float) -> Value:
    """Return the property's value at a frame (fractions allowed), in its normal form."""
    if not track.keys:
        return track.value
    if parameter.kind is Kind.ART:
        return _art_at(track, float(frame))
    if not parameter.numeric:
        local = _folded(track, float(frame))
        index = bisect_right(track.keys, local + 1e-9, key=lambda key: key.frame) - 1
        return track.keys[max(index, 0)].value
    single = numbers_at(track, parameter, float(frame))
    return parameter.from_array(evaluate(track, parameter, np.array([float(frame)]))[0] if single is None else single)


def numbers_at(track: Track, parameter: Parameter, frame: float) -> Sequence[float] | None:
    """Return what ``evaluate`` gives for one frame, by the same sums without arrays; None where it takes more than
    a straight mix of two keys."""
    if parameter.kind not in (Kind.NUMBER, Kind.PAIR):
        return None
    held = _prepare(track, parameter)
    times, last = held.times, len(held.times) - 1
    if frame < times[0] or frame >= times[last]:
        if (track.before if frame < times[0] else track.after).rule is not Rule.ONCE:
            return None
        if frame < times[0] or last == 0:
            return held.rows[0]
        index, progress = last - 1, 1.0
    else:
        index = bisect_right(times, frame) - 1
        if index in held.curved:
            return None
        handles, share = held.beziers[index], (frame - times[index]) / (times[index + 1] - times[index])
        progress = track.keys[index].easing.solve_one(share) if handles is None else solving.solve_one(*handles, share)
    return [a + progress * (b - a) for a, b in zip(held.rows[index], held.rows[index + 1], strict=True)]


def _art_at(track: Track, frame: float) -> Value:
    """Return the drawing between the two keys around a frame."""
    local = _folded(track, frame)
    index = bisect_right(track.keys, local + 1e-9, key=lambda key: key.frame) - 1
    left = track.keys[max(index, 0)]
    if index < 0 or index + 1 >= len(track.keys) or local <= left.frame + 1e-9:
        return left.value
    right = track.keys[index + 1]
    share = (local - left.frame) / (right.frame - left.frame)
    return mixed_art(left.value, right.value, float(left.easing.solve(np.array([share]))[0]))


def evaluate(track: Track, parameter: Parameter, frames: np.ndarray) -> np.ndarray:
    """Return a numeric property at frames (n,) as float64 of shape (n, components).

    Values may leave the parameter's range (an easing that overshoots); ``Parameter.from_array`` clips.
    """
    frames = np.asarray(frames, dtype=np.float64)
    if not track.keys:
        return np.repeat(parameter.to_array(track.value)[None, :], len(frames), axis=0)
    local, cycles = _fold(track, frames)
    values = _between_keys(track, parameter, local)
    if len(track.keys) < 2:
        return values
    accumulates = ((track.before.rule is Rule.ACCUMULATE) & (cycles < 0)) | (
        (track.after.rule is Rule.ACCUMULATE) & (cycles > 0)
    )
    if np.any(accumulates):
        first, last = (parameter.to_array(key.value) for key in (track.keys[0], track.keys[-1]))
        values = values + np.where(accumulates, cycles, 0.0)[:, None] * (last - first)
    return _carry_on(track, parameter, frames, values)


def _frames(track: Track) -> np.ndarray:
    return np.array([key.frame for key in track.keys], dtype=np.float64)


def _fold(track: Track, frames: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """Map frames into the keyed range; also return the number of the cycle each one lies in.

    A cycle is half open: in a repeated thread the last key's frame *is* the first key's frame.
    """
    first, last = float(track.keys[0].frame), float(track.keys[-1].frame)
    length = last - first
    local = np.clip(frames, first, last)
    cycles = np.zeros_like(frames)
    if length <= 0:
        return local, cycles
    turn = np.floor((frames - first) / length)
    for extend, outside in ((track.before, frames < first), (track.after, frames >= last)):
        if extend.rule in (Rule.ONCE, Rule.CARRY_ON) or not np.any(outside):
            continue
        folded, cycle = _fold_outside(extend, frames, turn, first, length)
        local = np.where(outside, folded, local)
        cycles = np.where(outside, cycle, cycles)
    return local, cycles


def _folded(track: Track, frame: float) -> float:
    """Map one frame into the keyed range; without arrays where nothing is repeated."""
    first, last = float(track.keys[0].frame), float(track.keys[-1].frame)
    outside = track.before if frame < first else track.after if frame >= last else None
    if outside is None or outside.rule in (Rule.ONCE, Rule.CARRY_ON) or last <= first:
        return min(max(frame, first), last)
    return float(_fold(track, np.array([frame]))[0][0])


def _fold_outside(
    extend: Extend, frames: np.ndarray, turn: np.ndarray, first: float, length: float
) -> tuple[np.ndarray, np.ndarray]:
    cycle = turn
    local = frames - turn * length
    if extend.count:
        limit = float(extend.count)
        local = np.where(turn > limit, first + length, np.where(turn < -limit, first, local))
        cycle = np.clip(turn, -limit, limit)
    if extend.rule is Rule.PING_PONG:
        local = np.where(np.mod(cycle, 2) == 1, 2 * first + length - local, local)
    return local, cycle


@frozen(eq=False)
class _Prepared:
    """A track's keys as arrays: frames (n,), values (n, c), bezier handles (n - 1, 4), NaN for other easings."""

    track: Track
    frames: np.ndarray
    values: np.ndarray
    handles: np.ndarray
    others: tuple[int, ...]
    curved: tuple[int, ...]
    #: The same once more as plain numbers, for single frames; None for other easings.
    times: list[float]
    rows: list[list[float]]
    beziers: list[tuple[float, float, float, float] | None]


_prepared: dict[int, _Prepared] = {}


def _prepare(track: Track, parameter: Parameter) -> _Prepared:
    """Return the track's arrays, kept by identity: tracks are frozen, and the entry holds on to its track."""
    held = _prepared.get(id(track))
    if held is not None and held.track is track:
        return held
    keys = track.keys
    handles = np.full((max(len(keys) - 1, 0), 4), np.nan)
    others, curved = [], []
    for index, (left, right) in enumerate(pairwise(keys)):
        if isinstance(left.easing, CubicBezier):
            handles[index] = (left.easing.x1, left.easing.y1, left.easing.x2, left.easing.y2)
        else:
            others.append(index)
        if any(left.handle_out or ()) or any(right.handle_in or ()):
            curved.append(index)
    values = np.array([parameter.to_array(key.value) for key in keys])
    frames = _frames(track)
    beziers = [None if index in others else tuple(row) for index, row in enumerate(handles.tolist())]
    made = _Prepared(track, frames, values, handles, tuple(others), tuple(curved), frames.tolist(), values.tolist(),
                     beziers)  # fmt: skip
    if len(_prepared) > 20_000:
        _prepared.clear()
    _prepared[id(track)] = made
    return made


def _between_keys(track: Track, parameter: Parameter, local: np.ndarray) -> np.ndarray:
    keys = track.keys
    if parameter.kind in LISTS and len({len(key.value) for key in keys}) > 1:
        return _held(keys, parameter, local)
    held = _prepare(track, parameter)
    if len(keys) == 1:
        return np.repeat(held.values, len(local), axis=0)
    segment = np.clip(np.searchsorted(held.frames, local, side="right") - 1, 0, len(keys) - 2)
    share = (local - held.frames[segment]) / (held.frames[segment + 1] - held.frames[segment])
    progress = np.empty_like(share)
    solving.solve_segments(held.handles, segment, share, progress)
    for index in held.others:
        chosen = segment == index
        if chosen.any():
            progress[chosen] = keys[index].easing.solve(share[chosen])
    # At the very end of a segment the next key holds, also after a step easing that stops short.
    progress[share >= 1.0] = 1.0
    result = _mix(parameter, held.values[segment], held.values[segment + 1], progress)
    if parameter.is_path:
        for index in held.curved:
            chosen = segment == index
            if chosen.any():
                left, right = keys[index], keys[index + 1]
                result[chosen] = travel(left.value, right.value, left.handle_out, right.handle_in, progress[chosen])
    return result


def _held(keys: tuple[Key, ...], parameter: Parameter, local: np.ndarray) -> np.ndarray:
    # Only ever asked for one frame at a time by value_at, as the shapes differ from key to key.
    index = int(np.searchsorted([key.frame for key in keys], local[0] + 1e-9, side="right")) - 1
    row = parameter.to_array(keys[max(index, 0)].value)
    return np.repeat(row[None, :], len(local), axis=0)


def _mix(parameter: Parameter, start: np.ndarray, end: np.ndarray, progress: np.ndarray) -> np.ndarray:
    """Mix rows (n, c) by progress (n,); colours in OKLab."""
    if parameter.kind is Kind.COLOUR:
        return mix(start, end, progress)
    blended = start + progress[:, None] * (end - start)
    if parameter.kind is Kind.STOPS:
        for stop in range(start.shape[1] // 5):
            columns = slice(stop * 5 + 1, stop * 5 + 5)
            blended[:, columns] = mix(start[:, columns], end[:, columns], progress)
    return blended


def _carry_on(track: Track, parameter: Parameter, frames: np.ndarray, values: np.ndarray) -> np.ndarray:
    first, last = float(track.keys[0].frame), float(track.keys[-1].frame)
    for extend, edge, inward, outside in (
        (track.before, first, _SPEED_STEP, frames < first),
        (track.after, last, -_SPEED_STEP, frames > last),
    ):
        if extend.rule is Rule.CARRY_ON and np.any(outside):
            ends = _between_keys(track, parameter, np.array([edge, edge + inward]))
            speed = (ends[1] - ends[0]) / inward
            values = np.where(outside[:, None], ends[0] + speed * (frames - edge)[:, None], values)
    return values
