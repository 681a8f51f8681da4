"""Fewer keys for the same motion: threads with a key a frame, as tracing writes them, become a few eased ones."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator, Sequence
from functools import lru_cache
from itertools import pairwise

import numpy as np
from attrs import evolve, frozen

from spiralis.core.animation.easing import LINEAR, CubicBezier, Easing, LinearPoints, Steps
from spiralis.core.animation.motion_path import Point, bezier_point, bezier_tangent, travel
from spiralis.core.animation.tracks import evaluate
from spiralis.core.editing.keys import KeyRef, by_track
from spiralis.core.editing.locking import locked_in
from spiralis.core.model import Composition
from spiralis.core.model.parameter import Kind, Parameter
from spiralis.core.model.track import Key, Track

#: Where the handles of an ease may stand in time; how high they stand is solved for. The first ones are a plain cubic.
_HANDLES = ((1 / 3, 2 / 3), (0.5, 0.5), (0.65, 0.35), (0.1, 0.4), (0.6, 0.9))
_STEPS = np.linspace(0.0, 1.0, 129)
#: So many decimals an ease has, as people read it; what that is off is counted.
_PLACES = 4
#: A direction is that of the parabola through so many samples on both sides; a way is fitted so many times.
_AROUND, _ROUNDS = 2, 4
#: How far beyond its key an ease may aim; how many turns are tried behind the furthest sample that was found.
_HIGHEST, _LATER = 4.0, 6
#: A key lies on the last turn before the furthest sample where no more than this part of the way is lost by that.
_NEAR = 0.85


@frozen
class _Way:
    """How one key leads to another one: by an ease, and along handles where the way is bent."""

    easing: Easing = LINEAR
    handle_out: Point | None = None
    handle_in: Point | None = None

    def error(self, rows: np.ndarray) -> float:
        """Return how far it passes from samples (n, d) at even times, its first and last one being the keys."""
        shares = self.easing.solve(np.linspace(0.0, 1.0, len(rows)))
        made = travel(rows[0], rows[-1], self.handle_out, self.handle_in, shares)
        return float(np.linalg.norm(made - rows, axis=1).max())


def with_fewer_keys(piece: Composition, refs: Iterable[KeyRef], off: float) -> tuple[Composition, set[KeyRef]]:
    """Return the composition with as few of some keys as keep the motion, and those of them that are there now.

    Threads of numbers and pairs of numbers change; all others stay, as do steps, bounces and locked layers.

    Args:
        piece: where the keys are.
        refs: the keys. The first and the last of each run stay as they are.
        off: by how much a thread may be off at any frame, in its own unit.
    """
    left, locked = set[KeyRef](), locked_in(piece)
    for (layer_id, name), frames in by_track(refs).items():
        layer = piece.layer(layer_id)
        track = layer.track(name)
        if layer_id not in locked and layer.parameter(name).kind in (Kind.NUMBER, Kind.PAIR):
            thinner = thinned(track, layer.parameter(name), frames, off)
            if thinner is not track:
                gone = {key.frame for key in track.keys} - set(frames)
                frames = {key.frame for key in thinner.keys} - gone
                piece = piece.with_layer(layer.with_track(name, thinner))
        left |= {KeyRef(layer_id, name, frame) for frame in frames}
    return piece, left


def thinned(track: Track, parameter: Parameter, frames: Iterable[int], off: float) -> Track:
    """Return a track with as few keys in place of those on some frames as keep it within ``off`` at every frame.

    The track itself where none can go. From each key on, the next one lies as far away as one segment fits what lies
    between: a cubic Bezier ease by least squares; on a motion path also a cubic way whose tangents are those of the
    motion (Schneider, "An algorithm for automatically fitting digitized curves", Graphics Gems, 1990).
    """
    keys: list[Key] = []
    for run in _runs(track.keys, set(frames)):
        fewer = _fitted(run, parameter, off) if len(run) > 2 else run
        if len(fewer) >= len(run):
            fewer = run
        # Runs meet in a key: the one before knows how to come there, this one how to leave.
        joint = [evolve(fewer[0], handle_in=keys[-1].handle_in)] if keys else fewer[:1]
        keys = [*keys[:-1], *joint, *fewer[1:]]
    return evolve(track, keys=tuple(keys)) if len(keys) < len(track.keys) else track


def _runs(keys: Sequence[Key], frames: set[int]) -> Iterator[list[Key]]:
    """Yield the keys in runs, each begun where the one before ended: chosen ones with nothing that jumps or bounces."""
    run = [keys[0]]
    for left, right in pairwise(keys):
        fits = left.frame in frames and right.frame in frames and not isinstance(left.easing, Steps | LinearPoints)
        if not fits:
            yield run
            yield [left, right]
            run = [right]
        else:
            run.append(right)
    yield run


def _fitted(run: Sequence[Key], parameter: Parameter, off: float) -> list[Key]:
    first, last = run[0].frame, run[-1].frame
    rows = evaluate(Track(run[0].value, tuple(run)), parameter, np.arange(first, last + 1))
    slopes = _slopes(rows) if parameter.is_path else None
    turns = _turns(rows)
    made, at = [run[0]], 0
    while at < len(rows) - 1:
        end, way = _next(rows, slopes, [turn for turn in turns if turn > at], at, off)
        at = end
        made[-1] = evolve(made[-1], easing=way.easing, handle_out=way.handle_out)
        here = run[-1] if at == len(rows) - 1 else Key(first + at, parameter.from_array(rows[at]))
        made.append(evolve(here, handle_in=way.handle_in))
    return made


def _turns(rows: np.ndarray) -> list[int]:
    """Return the samples at which they turn back; where they rest first, the one from which they go on."""
    steps = np.diff(rows, axis=0)
    moving = np.flatnonzero(np.abs(steps).max(axis=1) > 1e-9)
    steps = steps[moving]
    return [int(at) for at in moving[1:][(steps[1:] * steps[:-1]).sum(1) < 0]]


def _next(rows: np.ndarray, slopes: np.ndarray | None, turns: list[int], at: int, off: float) -> tuple[int, _Way]:
    """Return the sample at which the next key is to lie, and the way to it: where motion turns, as a person sets keys,
    rather than a little later."""

    def way(count: int) -> _Way | None:
        return _way(rows, slopes, at, at + count, off)

    count, found = _furthest(len(rows) - 1 - at, way)
    # What a part of a swing is not near to, the whole of it may be.
    later = [turn for turn in turns if turn > at + count][:_LATER]
    for turn in [*later, *[turn for turn in turns if at + _NEAR * count <= turn < at + count][-1:]]:
        here = way(turn - at)
        if here is not None:
            count, found = turn - at, here
    return at + count, found


def _furthest(most: int, way: Callable[[int], _Way | None]) -> tuple[int, _Way]:
    """Return the greatest count that has a way, as far as doubling and halving find it, and that way."""
    good, bad, found = 1, most + 1, _Way()
    while bad - good > 1:
        count = min(2 * good, most) if bad > most else (good + bad) // 2
        here = way(count)
        if here is None:
            bad = count
        else:
            good, found = count, here
    return good, found


def _way(rows: np.ndarray, slopes: np.ndarray | None, start: int, end: int, off: float) -> _Way | None:
    """Return a way from one sample to another that passes those between within ``off``; None where none is found."""
    held = rows[start : end + 1]
    whole = held[-1] - held[0]
    length = float(whole @ whole)
    straight = _Way(_eased((held - held[0]) @ whole / length) if length > 1e-18 else LINEAR)
    if straight.error(held) <= off:
        return straight
    if slopes is None or length <= 1e-18:
        return None
    bent = _bent(held, slopes[start], slopes[end], off)
    return bent if bent is not None and bent.error(held) <= off else None


def _inner(s: np.ndarray) -> np.ndarray:
    """Return how much the two inner points of a cubic count at parameters (n,), as (n, 2)."""
    return np.stack([3 * (1 - s) ** 2 * s, 3 * (1 - s) * s**2], 1)


@lru_cache(maxsize=512)
def _bases(count: int) -> tuple[tuple[np.ndarray, np.ndarray, np.ndarray], ...]:
    """Return for each pair of handles, at even times: what they do not change (n,), what each adds for a height of 1
    (n, 2), and what solves for the heights (2, n)."""
    made, times = [], np.linspace(0.0, 1.0, count)
    for x1, x2 in _HANDLES:
        s = np.interp(times, _inner(_STEPS) @ (x1, x2) + _STEPS**3, _STEPS)
        base = _inner(s)
        made.append((s**3, base, np.linalg.pinv(base)))
    return tuple(made)


def _eased(shares: np.ndarray) -> Easing:
    """Return the ease nearest to shares (n,) of the way at even times, by least squares, unless it swings out far."""
    best = None
    for (x1, x2), (start, base, solver) in zip(_HANDLES, _bases(len(shares)), strict=True):
        heights = solver @ (shares - start)
        error = float(np.abs(base @ heights + start - shares).max())
        if np.abs(heights).max() <= _HIGHEST and (best is None or error < best[0] - 1e-9):
            best = error, CubicBezier(*(round(float(n), _PLACES) for n in (x1, heights[0], x2, heights[1])))
    return LINEAR if best is None else best[1]


def _slopes(rows: np.ndarray) -> np.ndarray:
    """Return how samples (n, 2) go at each of them, as directions of length 1; 0 where they rest."""
    made = np.zeros_like(rows)
    for at in range(len(rows)):
        low, high = max(at - _AROUND, 0), min(at + _AROUND + 1, len(rows))
        times = np.arange(low, high) - at
        made[at] = np.polyfit(times, rows[low:high], min(2, len(times) - 1))[-2]
    sizes = np.linalg.norm(made, axis=1, keepdims=True)
    return np.where(sizes > 1e-6, made / np.maximum(sizes, 1e-12), 0.0)


def _bent(rows: np.ndarray, out: np.ndarray, into: np.ndarray, off: float) -> _Way | None:
    """Return the cubic way along samples (n, 2) that leaves and comes in these directions; None if it turns back, or
    leads by further than ``off``."""
    steps = np.linalg.norm(np.diff(rows, axis=0), axis=1)
    if steps.sum() <= 1e-9 or not out.any() or not into.any():
        return None
    u = np.concatenate([[0.0], np.cumsum(steps)]) / steps.sum()
    for _ in range(_ROUNDS):
        b1, b2 = _inner(u).T
        rest = rows - np.outer((1 - u) ** 3 + b1, rows[0]) - np.outer(u**3 + b2, rows[-1])
        base = np.concatenate([np.outer(b1, out), np.outer(b2, -into)], 1).reshape(-1, 2, 2).transpose(0, 2, 1)
        reach = np.linalg.lstsq(base.reshape(-1, 2), rest.reshape(-1), rcond=None)[0]
        if reach.min() <= 0:
            return None
        points = np.array([rows[0], rows[0] + reach[0] * out, rows[-1] - reach[1] * into, rows[-1]])
        u = _nearest(points, rows, u)
    lengths = np.concatenate([[0.0], np.cumsum(np.linalg.norm(np.diff(bezier_point(points, _STEPS), axis=0), axis=1))])
    shares = np.interp(u, _STEPS, lengths / lengths[-1])
    if np.linalg.norm(bezier_point(points, u) - rows, axis=1).max() > off:
        return None
    handle_out, handle_in = (tuple(float(n) for n in way) for way in (points[1] - points[0], points[2] - points[3]))
    return _Way(_eased(shares), handle_out, handle_in)  # type: ignore[arg-type]


def _nearest(points: np.ndarray, rows: np.ndarray, u: np.ndarray) -> np.ndarray:
    """Return the parameters at which a cubic is nearer to samples, by a step of Gauss and Newton from these ones."""
    tangents = bezier_tangent(points, u)
    sizes = np.maximum((tangents**2).sum(1), 1e-12)
    nearer = np.clip(u + ((rows - bezier_point(points, u)) * tangents).sum(1) / sizes, 0.0, 1.0)
    nearer[0], nearer[-1] = 0.0, 1.0
    return nearer
