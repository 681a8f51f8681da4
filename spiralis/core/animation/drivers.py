"""Values of properties that something else drives: follows, rolls, dials, wobbles. Everything is vectorised."""

from __future__ import annotations

import hashlib
from functools import lru_cache

import numpy as np

from spiralis.core.animation.placing import is_separate
from spiralis.core.animation.tracks import evaluate
from spiralis.core.colour import mix
from spiralis.core.model.drivers import DialJoin, Follow, Roll, Wobble
from spiralis.core.model.layer import Layer
from spiralis.core.model.parameter import Kind, Parameter
from spiralis.core.model.project import Composition

_ROLL_STEPS = 4
DIAL = "dial"


def is_driven(layer: Layer, name: str) -> bool:
    """Whether a property has a driver or a wobble."""
    track = layer.properties.get(name)
    return track is not None and (track.driver is not None or track.wobble is not None)


def over(piece: Composition, layer: Layer, name: str, frames: np.ndarray) -> np.ndarray:
    """Return a numeric property at frames (n,) as float64 (n, components), drivers and wobble included."""
    parameter, track = layer.parameter(name), layer.track(name)
    frames = np.asarray(frames, dtype=np.float64)
    driver = track.driver
    if isinstance(driver, Follow):
        values = _followed(piece, layer, name, driver, frames)
    elif isinstance(driver, Roll):
        values = _rolled(piece, layer, driver, frames)[:, None]
    elif isinstance(driver, DialJoin):
        values = _dialled(piece, parameter, driver, frames)
    else:
        values = evaluate(track, parameter, frames)
    if track.wobble is not None:
        values = values + wobbled(track.wobble, piece, frames, values.shape[1], f"{layer.id}/{name}")
    return values


def places(piece: Composition, layer: Layer, frames: np.ndarray) -> np.ndarray:
    """Return a layer's positions at frames in its parent's space, float64 (n, 2), drivers included."""
    names = ("position_x", "position_y") if is_separate(layer) else ("position",)
    return np.concatenate([over(piece, layer, name, frames) for name in names], axis=1)


def _followed(piece: Composition, layer: Layer, name: str, follow: Follow, frames: np.ndarray) -> np.ndarray:
    own = evaluate(layer.track(name), layer.parameter(name), frames)
    source = piece.find(follow.layer)
    if source is None:
        return own
    late = frames - follow.delay
    values = places(piece, source, late) if follow.name == "position" else over(piece, source, follow.name, late)
    if follow.component >= 0:
        values = values[:, min(follow.component, values.shape[1] - 1)][:, None]
    values = values * follow.gain + follow.offset
    if follow.low is not None or follow.high is not None:
        values = np.clip(values, follow.low, follow.high)
    if follow.into >= 0:
        own = own.copy()
        own[:, min(follow.into, own.shape[1] - 1)] = values[:, 0]
        return own
    if values.shape[1] != own.shape[1]:
        values = np.repeat(values[:, :1], own.shape[1], axis=1)
    return values


def _rolled(piece: Composition, layer: Layer, roll: Roll, frames: np.ndarray) -> np.ndarray:
    """Return the turn in degrees after the distance travelled since frame 0; turning back rolls back."""
    mover = piece.find(roll.layer) if roll.layer else layer
    base = evaluate(layer.track("rotation"), layer.parameter("rotation"), frames)[:, 0]
    if mover is None:
        return base
    last = max(float(frames.max(initial=0.0)), 0.0)
    first = min(float(frames.min(initial=0.0)), 0.0)
    grid = np.arange(np.floor(first) * _ROLL_STEPS, np.ceil(last) * _ROLL_STEPS + 1) / _ROLL_STEPS
    way = places(piece, mover, grid)
    steps = np.diff(way, axis=0)
    lengths = np.hypot(steps[:, 0], steps[:, 1])
    distance = np.concatenate([[0.0], np.cumsum(lengths * _senses(steps, lengths))])
    distance -= np.interp(0.0, grid, distance)
    return base + np.degrees(np.interp(frames, grid, distance) / roll.radius)


def _senses(steps: np.ndarray, lengths: np.ndarray) -> np.ndarray:
    """Return 1 or -1 a step: the sense turns over where the way turns by more than a right angle."""
    senses = np.ones(len(steps))
    sense, before = 1.0, None
    for index in np.flatnonzero(lengths > 1e-9).tolist():
        step = steps[index] / lengths[index]
        if before is None:
            # To the right, or straight down, is forwards.
            sense = -1.0 if step[0] < -1e-9 or (abs(step[0]) <= 1e-9 and step[1] < 0) else 1.0
        elif float(step @ before) < -1e-6:
            sense = -sense
        senses[index:] = sense
        before = step
    return senses


def _dialled(piece: Composition, parameter: Parameter, join: DialJoin, frames: np.ndarray) -> np.ndarray:
    marks = np.array([place for place, _ in join.stops])
    table = np.array([parameter.to_array(value) for _, value in join.stops])
    dial = piece.find(join.dial)
    known = dial is not None and dial.kind == DIAL
    at = over(piece, dial, "value", frames)[:, 0] if known and dial is not None else np.full(len(frames), marks[0])
    right = np.clip(np.searchsorted(marks, at, side="right"), 1, len(marks) - 1)
    share = np.clip((at - marks[right - 1]) / (marks[right] - marks[right - 1]), 0.0, 1.0)
    if parameter.kind is Kind.COLOUR:
        return mix(table[right - 1], table[right], share)
    result: np.ndarray = table[right - 1] + share[:, None] * (table[right] - table[right - 1])
    return result


def wobbled(wobble: Wobble, piece: Composition, frames: np.ndarray, components: int, name: str) -> np.ndarray:
    """Return the wander (n, components): periodic cubic noise through seeded values, one lattice a component.

    The lattice has a whole number of cells in the play span, so the last frame leads into the first exactly; each
    layer of detail is twice as fine and half as strong. Numbers come from Philox by seed and ``name``.
    """
    first, last = piece.span
    length = last - first
    cells = max(2, round(wobble.per_second * float(length / piece.rate)))
    phase = np.mod(frames - first, length) / length
    total = np.zeros((len(frames), components))
    strength = 0.0
    for layer in range(wobble.detail):
        count = cells * 2**layer
        for component in range(components):
            total[:, component] += _periodic(_lattice(wobble.seed, name, component, layer, count), phase) * 0.5**layer
        strength += 0.5**layer
    return total * (wobble.amount / strength)


@lru_cache(maxsize=512)
def _lattice(seed: int, name: str, component: int, layer: int, count: int) -> np.ndarray:
    digest = hashlib.sha256(f"{seed}/{name}/{component}/{layer}".encode()).digest()
    key = [int.from_bytes(digest[i : i + 8], "little") for i in (0, 8)]
    return np.random.Generator(np.random.Philox(key=key)).uniform(-1.0, 1.0, count)


def _periodic(lattice: np.ndarray, phase: np.ndarray) -> np.ndarray:
    """Interpolate a closed lattice by Catmull and Rom's cubic at phases 0 to 1."""
    count = len(lattice)
    place = phase * count
    index = np.floor(place).astype(np.int64)
    t = place - index
    a, b, c, d = (lattice[(index + shift) % count] for shift in (-1, 0, 1, 2))
    result: np.ndarray = b + 0.5 * t * (c - a + t * (2 * a - 5 * b + 4 * c - d + t * (3 * (b - c) + d - a)))
    return result
