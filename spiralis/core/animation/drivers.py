"""Values of properties that something else drives: follows, rolls, dials, wobbles. Everything is vectorised."""

from __future__ import annotations

import hashlib
from bisect import bisect_right
from collections.abc import Sequence
from functools import lru_cache

import numpy as np
from attrs import define, field, frozen

from spiralis.core.animation.easing import CubicBezier
from spiralis.core.animation.kernels import solving
from spiralis.core.animation.placing import is_separate
from spiralis.core.animation.tracks import evaluate, numbers_at
from spiralis.core.cache import Beside
from spiralis.core.colour import mix
from spiralis.core.model.drivers import DialJoin, Follow, Roll, Wobble
from spiralis.core.model.layer import Layer
from spiralis.core.model.parameter import Kind, Parameter
from spiralis.core.model.project import Composition

_ROLL_STEPS = 4


def is_driven(layer: Layer, name: str) -> bool:
    """Whether a property has a driver or a wobble."""
    track = layer.properties.get(name)
    return track is not None and (track.driver is not None or track.wobble is not None)


@frozen
class _Link:
    """A property that follows another by a straight line: clamp(gain x source + offset), ``delay`` frames late."""

    layer: str
    name: str
    delay: float = 0.0
    gain: float = 1.0
    offset: float = 0.0
    low: float = -np.inf
    high: float = np.inf

    def after(self, inner: _Link) -> _Link:
        """Return the one link that does what ``inner`` and then this one do."""
        ends = [self.gain * end + self.offset if self.gain else self.offset for end in (inner.low, inner.high)]
        low, high = (min(max(end, self.low), self.high) for end in sorted(ends))
        offset = self.gain * inner.offset + self.offset
        return _Link(inner.layer, inner.name, self.delay + inner.delay, self.gain * inner.gain, offset, low, high)


@define(eq=False)
class _Memo:
    """What is worked out once a composition: where chains of follows end, and the distances that layers travel."""

    links: dict[tuple[str, str], _Link | None] = field(factory=dict)
    forwards: dict[str, np.ndarray] = field(factory=dict)
    backwards: dict[str, np.ndarray] = field(factory=dict)


_memos: Beside[_Memo] = Beside(_Memo)


def values_over(piece: Composition, layer: Layer, name: str, frames: np.ndarray) -> np.ndarray:
    """Return a numeric property at frames (n,) as float64 (n, components), drivers and wobble included.

    Chains of follows are walked, not nested, so that they may be as long as anybody likes; where they are straight
    lines a whole chain costs what one link costs.
    """
    frames = np.asarray(frames, dtype=np.float64)
    steps: list[tuple[Layer, str, Follow | _Link | None, np.ndarray]] = []
    while True:
        driver = layer.track(name).driver
        source = piece.find(driver.layer) if isinstance(driver, Follow) else None
        if not isinstance(driver, Follow) or source is None or not source.has(driver.name):
            break
        link = _link(piece, layer, name)
        steps.append((layer, name, link or driver, frames))
        frames = frames - (link or driver).delay
        if link is not None:
            layer, name = piece.layer(link.layer), link.name
        else:
            layer, name = source, driver.name
        if name == "position" and is_separate(layer):
            break
    values = places(piece, layer, frames) if steps and name == "position" else _own(piece, layer, name, frames)
    for layer, name, driver, frames in reversed(steps):
        if isinstance(driver, _Link):
            values = _linked(driver, values)
        elif driver is not None:
            values = _followed(layer, name, driver, frames, values)
        values = _wandering(piece, layer, name, frames, values)
    return values


def dialled_at(piece: Composition, layer: Layer, name: str, frame: float) -> Sequence[float] | None:
    """Return what ``values_over`` gives at one frame for a property that joins a dial, by the same sums without arrays;
    None where it takes more than a straight mix of two stops."""
    track, parameter = layer.properties[name], layer.parameter(name)
    join = track.driver
    if not isinstance(join, DialJoin) or track.wobble is not None or parameter.kind not in (Kind.NUMBER, Kind.PAIR):
        return None
    dial = piece.find(join.dial)
    if dial is None or not dial.control or not isinstance(join.ease, CubicBezier):
        return None
    turned = dial.track(dial.control)
    if turned.driver is not None or turned.wobble is not None:
        return None
    numbers = numbers_at(turned, dial.parameter(dial.control), frame) if turned.keys else (turned.value,)
    if numbers is None:
        return None
    stops = join.stops
    right = min(max(bisect_right(stops, numbers[0], key=lambda stop: stop[0]), 1), len(stops) - 1)
    (low, start), (high, end) = stops[right - 1], stops[right]
    share = min(max((numbers[0] - low) / (high - low), 0.0), 1.0)
    share = solving.solve_one(join.ease.x1, join.ease.y1, join.ease.x2, join.ease.y2, share)
    if parameter.kind is Kind.NUMBER:
        return (start + share * (end - start),)
    return [a + share * (b - a) for a, b in zip(start, end, strict=True)]


def _own(piece: Composition, layer: Layer, name: str, frames: np.ndarray) -> np.ndarray:
    """Return a property that follows nothing: by its keys, a roll or a dial, with its wobble."""
    parameter, track = layer.parameter(name), layer.track(name)
    if isinstance(track.driver, Roll):
        values = _rolled(piece, layer, track.driver, frames)[:, None]
    elif isinstance(track.driver, DialJoin):
        values = _dialled(piece, parameter, track.driver, frames)
    else:
        values = evaluate(track, parameter, frames)
    return _wandering(piece, layer, name, frames, values)


def _wandering(piece: Composition, layer: Layer, name: str, frames: np.ndarray, values: np.ndarray) -> np.ndarray:
    wobble = layer.track(name).wobble
    if wobble is None:
        return values
    return values + wobbled(wobble, piece, frames, values.shape[1], f"{wobble.wander or layer.id}/{name}")


def _link(piece: Composition, layer: Layer, name: str) -> _Link | None:
    """Return the link from a property to the end of its chain of straight follows; None where it is no such one."""
    links = _memos.of(piece).links
    first, way = (layer.id, name), []
    while (layer.id, name) not in links:
        link = _plain_link(piece, layer, name)
        if link is None:
            links[layer.id, name] = None
            break
        way.append(((layer.id, name), link))
        layer, name = piece.layer(link.layer), link.name
    for place, link in reversed(way):
        beyond = links[link.layer, link.name]
        # A wander of the source comes between this link and the next.
        plain = piece.layer(link.layer).track(link.name).wobble is None
        links[place] = link.after(beyond) if beyond is not None and plain else link
    return links[first]


def _plain_link(piece: Composition, layer: Layer, name: str) -> _Link | None:
    driver = layer.track(name).driver
    if not isinstance(driver, Follow) or driver.component >= 0 or driver.into >= 0:
        return None
    source = piece.find(driver.layer)
    if source is None or not source.has(driver.name):
        return None
    if _components(source.parameter(driver.name)) != _components(layer.parameter(name)):
        return None
    low = -np.inf if driver.low is None else driver.low
    high = np.inf if driver.high is None else driver.high
    return _Link(source.id, driver.name, driver.delay, driver.gain, driver.offset, low, high)


def _components(parameter: Parameter) -> int:
    return int(np.size(parameter.default))


def _linked(link: _Link, values: np.ndarray) -> np.ndarray:
    values = values * link.gain + link.offset
    return np.clip(values, link.low, link.high) if link.low > -np.inf or link.high < np.inf else values


def places(piece: Composition, layer: Layer, frames: np.ndarray) -> np.ndarray:
    """Return a layer's positions at frames in its parent's space, float64 (n, 2), drivers included."""
    names = ("position_x", "position_y") if is_separate(layer) else ("position",)
    if len(names) == 1 and not isinstance(layer.track("position").driver, Follow):
        return _own(piece, layer, "position", frames)
    return np.concatenate([values_over(piece, layer, name, frames) for name in names], axis=1)


def _followed(layer: Layer, name: str, follow: Follow, frames: np.ndarray, values: np.ndarray) -> np.ndarray:
    if follow.component >= 0:
        values = values[:, min(follow.component, values.shape[1] - 1)][:, None]
    values = values * follow.gain + follow.offset
    if follow.low is not None or follow.high is not None:
        values = np.clip(values, follow.low, follow.high)
    if follow.into >= 0:
        own = evaluate(layer.track(name), layer.parameter(name), frames)
        own[:, min(follow.into, own.shape[1] - 1)] = values[:, 0]
        return own
    count = _components(layer.parameter(name))
    return np.repeat(values[:, :1], count, axis=1) if values.shape[1] != count else values


def _rolled(piece: Composition, layer: Layer, roll: Roll, frames: np.ndarray) -> np.ndarray:
    """Return the turn in degrees after the distance travelled since frame 0; turning back rolls back."""
    mover = piece.find(roll.layer) if roll.layer else layer
    base = evaluate(layer.track("rotation"), layer.parameter("rotation"), frames)[:, 0]
    if mover is None:
        return base
    forwards, backwards = _distances(piece, mover, float(frames.max(initial=0.0)), float(frames.min(initial=0.0)))
    distance = np.interp(frames, np.arange(len(forwards)) / _ROLL_STEPS, forwards)
    if len(backwards) > 1:
        behind = np.interp(-frames, np.arange(len(backwards)) / _ROLL_STEPS, backwards)
        distance = np.where(frames < 0, behind, distance)
    return base + np.degrees(distance / roll.radius)


def _distances(piece: Composition, mover: Layer, last: float, first: float) -> tuple[np.ndarray, np.ndarray]:
    """Return the signed distances from frame 0 to each quarter frame after it, and to each one before it.

    They reach at least as far as asked, and over the composition at once; growing them changes no earlier number.
    """
    memo = _memos.of(piece)
    forwards, backwards = memo.forwards.get(mover.id), memo.backwards.get(mover.id)
    if forwards is None or len(forwards) - 1 < last * _ROLL_STEPS:
        reach = max(piece.length + 1, 2 ** int(np.ceil(np.log2(max(last, 1.0) + 1))))
        forwards = memo.forwards[mover.id] = _travelled(piece, mover, reach)
    if first < 0 and (backwards is None or len(backwards) - 1 < -first * _ROLL_STEPS):
        reach = 2 ** int(np.ceil(np.log2(-first + 2)))
        backwards = memo.backwards[mover.id] = _travelled(piece, mover, -reach)
    return forwards, backwards if backwards is not None else np.zeros(1)


def _travelled(piece: Composition, mover: Layer, reach: int) -> np.ndarray:
    grid = np.arange(abs(reach) * _ROLL_STEPS + 1) / _ROLL_STEPS
    if reach < 0:
        grid = -grid
    steps = np.diff(places(piece, mover, grid), axis=0)
    lengths = np.hypot(steps[:, 0], steps[:, 1])
    senses = _senses(steps, lengths)
    if reach < 0:
        # The same sense as at the start of the way forwards, followed back through time.
        ahead = np.diff(places(piece, mover, -grid), axis=0)
        moving = np.flatnonzero(np.hypot(ahead[:, 0], ahead[:, 1]) > 1e-9)
        back = np.flatnonzero(lengths > 1e-9)
        if len(moving) and len(back):
            before, after = -steps[back[0]] / lengths[back[0]], ahead[moving[0]]
            wanted = _first_sense(after) * (-1.0 if float(before @ after) < -1e-6 else 1.0)
            senses = senses * (wanted * senses[back[0]])
        elif len(back):
            senses = senses * (_first_sense(-steps[back[0]]) * senses[back[0]])
        lengths = -lengths
    return np.concatenate([[0.0], np.cumsum(lengths * senses)])


def _first_sense(step: np.ndarray) -> float:
    """Return 1 for a step to the right or straight down, which is forwards, else -1."""
    length = float(np.hypot(step[0], step[1]))
    x, y = step / length
    return -1.0 if x < -1e-9 or (abs(x) <= 1e-9 and y < 0) else 1.0


def _senses(steps: np.ndarray, lengths: np.ndarray) -> np.ndarray:
    """Return 1 or -1 a step: the sense turns over where the way turns by more than a right angle."""
    senses = np.ones(len(steps))
    moving = np.flatnonzero(lengths > 1e-9)
    if not len(moving):
        return senses
    ways = steps[moving] / lengths[moving, None]
    turns = np.where(np.einsum("ij,ij->i", ways[1:], ways[:-1]) < -1e-6, -1.0, 1.0)
    own = np.cumprod(np.concatenate([[_first_sense(ways[0])], turns]))
    # A rest goes on with the sense of the move before it.
    owner = np.searchsorted(moving, np.arange(len(steps)), side="right") - 1
    return np.where(owner >= 0, own[np.maximum(owner, 0)], 1.0)


def _dialled(piece: Composition, parameter: Parameter, join: DialJoin, frames: np.ndarray) -> np.ndarray:
    marks = np.array([place for place, _ in join.stops])
    table = np.array([parameter.to_array(value) for _, value in join.stops])
    dial = piece.find(join.dial)
    if dial is not None and dial.control:
        at = values_over(piece, dial, dial.control, frames)[:, 0]
    else:
        at = np.full(len(frames), marks[0])
    right = np.clip(np.searchsorted(marks, at, side="right"), 1, len(marks) - 1)
    share = np.clip((at - marks[right - 1]) / (marks[right] - marks[right - 1]), 0.0, 1.0)
    share = join.ease.solve(share)
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
