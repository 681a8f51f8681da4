"""Where particles are and how they look at a moment, in closed form: no frame needs the one before it.

Everything that tells one particle from another comes from its number and the seed, so more particles leave those that
were there alone, and any frame can be asked for in any process. Lengths are px of the layer, times frames.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping
from functools import lru_cache

import numpy as np
from attrs import frozen

from spiralis.core.model.parameter import Value
from spiralis.core.monotone import curve
from spiralis.core.raster.kernels import particles as kernels
from spiralis.core.raster.lens import reach
from spiralis.core.raster.ramps import ramp

#: Takes places (n, 3), gives where they are seen (n, 2) and how much enlarged each is (n,); 0 behind the eye.
Eye = Callable[[np.ndarray], tuple[np.ndarray, np.ndarray]]
#: The time of the turbulence comes round after so many cells.
PERIOD = 8
#: Columns of the even numbers that particles have.
(_PLACE, _ACROSS, _DOWN, _BAND, _BAND_A, _BAND_B, _DEPTH, _DEPTH_B, _SPEED, _WAY, _LIFE, _SIZE, _TINT, _TURN, _SPIN,
 _GATHER, _TWINKLE, _THIN, _FADE, _BIRTH) = range(20)  # fmt: skip
#: Nothing nearer to the eye than this share of its distance is seen.
_NEAREST = 0.02
_GOLDEN = 0.6180339887498949


@frozen(eq=False)
class Ground:
    """What particles are born from: places (m, 2) in the layer's units, how much each weighs, added up (m,), the size
    of a place's cell as a map's four numbers, and straight colours (m, 4)."""

    places: np.ndarray
    weights: np.ndarray
    cell: tuple[float, float, float, float]
    colours: np.ndarray


@frozen
class Clock:
    """What time and place are measured by: how many frames the layer has, its rate, and the frame's width."""

    length: float
    rate: float
    width: float


@frozen(eq=False)
class Swarm:
    """Particles that are seen, the farthest first where they cover each other: places (n, 2) and radii (n,) in the
    layer's units, turns (n,) in radians, straight colours (n, 4)."""

    places: np.ndarray
    radii: np.ndarray
    turns: np.ndarray
    colours: np.ndarray

    @property
    def count(self) -> int:
        """How many there are."""
        return len(self.radii)


@lru_cache(maxsize=8)
def numbers(count: int, seed: int) -> np.ndarray:
    """Return even numbers of 0 to 1, (count, 20)."""
    out = np.empty((count, _BIRTH + 1), order="F")
    kernels.even_numbers(out, seed)
    out.flags.writeable = False
    return out


def _off(even: np.ndarray) -> np.ndarray:
    """Return how far off normal places in the plane lie, of even numbers (Box and Muller, 1958)."""
    return np.asarray(np.sqrt(-2.0 * np.log(np.maximum(1.0 - even, 1e-12))))


def _eased(share: np.ndarray) -> np.ndarray:
    """Return shares of 0 to 1 that begin and end softly (the cubic of Hermite)."""
    return np.asarray(share * share * (3 - 2 * share))


def count_of(values: Mapping[str, Value]) -> int:
    """Return how many particles there are in all."""
    return int(min(max(round(values["count"]), 0), 100_000))


class Born:
    """What stays as it is while a layer's values do: when each is born and how long it lives, where, in which band.

    ``birth``, ``life``, ``depth``, ``band``, ``source`` (n,), ``home``, ``off`` (n, 2), and ``thin`` (n,): whether it
    is there at all.
    """

    def __init__(self, values: Mapping[str, Value], length: float, ground: Ground | None) -> None:
        self.values, self.length, self.ground = values, length, ground
        self.count = count_of(values)
        self.even = numbers(self.count, int(values["seed"]))
        self._births()
        self._home()

    def _births(self) -> None:
        """Work out when each is born, and how long it lives."""
        values, length = self.values, self.length
        spread = (np.arange(self.count) * _GOLDEN + self.even[:, _BIRTH] * 1e-3) % 1.0
        vary = 1 + values["life_vary"] / 100 * (2 * self.even[:, _LIFE] - 1)
        self.life = np.maximum(values["life"] * vary, 1.0)
        match values["born"]:
            case "evenly":
                self.birth = spread * length
            case "bursts":
                bursts = max(int(values["bursts"]), 1)
                self.birth = np.floor(spread * bursts) / bursts * length
            case _:
                self.birth = np.zeros(self.count)
        if values["goes_round"]:
            self.life = np.minimum(self.life, length)

    def _home(self) -> None:
        """Work out where each is born, flat and in depth, and which are thinned out."""
        values, even = self.values, self.even
        self.source = np.zeros(self.count, dtype=np.intp)
        width, height = values["region"]
        if values["shape"] == "layer":
            home = self._on_ground()
        elif values["shape"] == "line":
            home = np.column_stack([(even[:, _ACROSS] - 0.5) * width, np.zeros(self.count)])
        elif values["shape"] == "area":
            home = (even[:, [_ACROSS, _DOWN]] - 0.5) * (width, height)
        elif values["shape"] == "ring":
            angle = even[:, _ACROSS] * 2 * np.pi
            home = np.column_stack([np.cos(angle) * width / 2, np.sin(angle) * height / 2])
        else:
            home = np.zeros((self.count, 2))
        self.home = home
        self.off, self.band = self._bands()
        self.thin = np.ones(self.count, dtype=bool)
        if values["thin"] > 0:
            noise = np.empty(self.count)
            kernels.thickness((home + self.off) / max(values["thin_size"], 1.0), int(values["seed"]) + 7, noise)
            # Even numbers mix with the clouds, so that their edges are soft.
            self.thin = noise * 0.5 + 0.5 + 0.25 * (even[:, _THIN] - 0.5) >= values["thin"] / 100
        half = values["depth_range"] / 2
        if values["depth_by"] == "normal":
            normal = _off(even[:, _DEPTH]) * np.cos(2 * np.pi * even[:, _DEPTH_B])
            self.depth = np.clip(normal, -3, 3) * half / 2
        else:
            self.depth = (2 * even[:, _DEPTH] - 1) * half

    def _on_ground(self) -> np.ndarray:
        ground = self.ground
        if ground is None or not len(ground.weights):
            self.thin = np.zeros(self.count, dtype=bool)
            return np.full((self.count, 2), np.nan)
        self.source = np.minimum(
            np.searchsorted(ground.weights, self.even[:, _PLACE] * ground.weights[-1], side="right"),
            len(ground.weights) - 1,
        )
        inside = self.even[:, [_ACROSS, _DOWN]] - 0.5
        a, b, c, d = ground.cell
        return ground.places[self.source] + np.column_stack(
            [a * inside[:, 0] + c * inside[:, 1], b * inside[:, 0] + d * inside[:, 1]]
        )

    def _bands(self) -> tuple[np.ndarray, np.ndarray]:
        """Return how far each lies off its birth place (n, 2), and its band: 0 on it, 1 near, 2 far."""
        values, even = self.values, self.even
        far, near = values["far_share"] / 100, values["near_share"] / 100
        band = np.where(even[:, _BAND] < far, 2, np.where(even[:, _BAND] < far + near, 1, 0))
        far_off = np.array([0.0, values["near_distance"], values["far_distance"]])[band]
        radius = _off(even[:, _BAND_A]) * far_off
        angle = 2 * np.pi * even[:, _BAND_B]
        return np.column_stack([radius * np.cos(angle), radius * np.sin(angle)]), band


#: The values that decide what stays.
_STAYS = ("shape", "region", "count", "born", "bursts", "life", "life_vary", "goes_round", "thin", "thin_size", "seed",
          "near_share", "near_distance", "far_share", "far_distance", "depth_range", "depth_by")  # fmt: skip


@lru_cache(maxsize=8)
def _born(held: tuple[tuple[str, Value], ...], length: float, ground: Ground | None) -> Born:
    return Born(dict(held), length, ground)


class Sown:
    """The particles of a layer with its values; ``at`` says how they are at one moment."""

    def __init__(self, values: Mapping[str, Value], clock: Clock, ground: Ground | None = None) -> None:
        self.values, self.clock, self.ground = values, clock, ground
        self.born = _born(tuple((name, values[name]) for name in _STAYS), clock.length, ground)
        self.count, self.even = self.born.count, self.born.even
        self.always = values["born"] == "always"

    # -- one moment ----------------------------------------------------------------------------------------

    def ages(self, now: float) -> np.ndarray:
        """Return how old each is at a frame of the layer, in frames; below zero where it is not born yet."""
        age = now - self.born.birth
        return age % self.clock.length if self.values["goes_round"] and not self.always else age

    def placed(self, age: np.ndarray, now: float) -> np.ndarray:
        """Return where particles of these ages are in space, (n, 3), before the cloud is turned."""
        values = self.values
        away = self.born.off + self._flown(age) + self._wandered(age, now)
        if self.always:
            away = self._kept_in(away)
        free = 1 - self._gathered()
        if not values["gather_bands"]:
            # Each comes to its place in its band.
            away = self.born.off + (away - self.born.off) * free[:, None]
        else:
            away = away * free[:, None]
        flat = self.born.home + away
        pull = values["pull"] / 100
        if pull:
            flat = flat + (np.array(values["pull_to"]) - flat) * pull
        return np.column_stack([flat, self.born.depth * free])

    def _flown(self, age: np.ndarray) -> np.ndarray:
        """Return the way by speed, fall, wind and drag, (n, 2): the solution of v' = a - k (v - w)."""
        values, even = self.values, self.even
        seconds = np.maximum(age, 0.0) / self.clock.rate
        pace = values["speed"] * (1 + values["speed_vary"] / 100 * (2 * even[:, _SPEED] - 1))
        angle = np.radians(values["direction"] + values["spread"] * (even[:, _WAY] - 0.5))
        speed = np.column_stack([np.cos(angle) * pace, np.sin(angle) * pace])
        fall, wind, drag = np.array((0.0, values["fall"])), np.array(values["wind"]), values["drag"]
        t = seconds[:, None]
        if self.always:
            # It never ends, so it does not get faster either; going round it comes back where it was.
            way = (speed + wind) * t
            return self._whole_rounds(speed + wind, t) if values["goes_round"] else way
        if drag < 1e-6:
            return (speed + wind) * t + fall * t * t / 2
        slowed = (1 - np.exp(-drag * t)) / drag
        return speed * slowed + (wind + fall / drag) * (t - slowed)

    def _whole_rounds(self, speed: np.ndarray, t: np.ndarray) -> np.ndarray:
        """Return the way of what is always there: over the layer's length as many widths of the region as come
        nearest to the speed, so that all is as it was."""
        over = self.clock.length / self.clock.rate
        width = np.maximum(np.array(self.values["region"]), 1.0)
        return np.asarray(np.round(speed * over / width) * width * (t / over))

    def _kept_in(self, away: np.ndarray) -> np.ndarray:
        """Return ways of what is always there, folded into the region that it was born in, where that is an area."""
        values = self.values
        if values["shape"] != "area":
            return away
        width, height = (max(side, 1.0) for side in values["region"])
        size = np.array([width, height])
        return np.asarray((self.born.home + away + size / 2) % size - size / 2 - self.born.home)

    def _wandered(self, age: np.ndarray, now: float) -> np.ndarray:
        """Return how far the turbulence carries each, (n, 2)."""
        values = self.values
        if values["turbulence"] == 0:
            return np.zeros((self.count, 2))
        points = np.nan_to_num(self.born.home + self.born.off) / max(values["turbulence_size"], 1.0)
        turns = values["turbulence_turns"]
        if values["goes_round"]:
            turns = float(round(turns))
        time = np.full(self.count, (now / self.clock.length * turns % 1.0) * PERIOD)
        flow = np.empty((self.count, 2))
        kernels.curl(points, time, PERIOD, int(values["seed"]) + 31, flow)
        if not self.always:
            # It takes hold by and by, so that particles come from where they are born.
            flow *= _eased(np.clip(age / (0.4 * self.born.life), 0.0, 1.0))[:, None]
        return flow * values["turbulence"]

    def _gathered(self) -> np.ndarray:
        """Return how far each is drawn back to where it was born, 0 to 1."""
        share, vary = self.values["gather"] / 100, self.values["gather_vary"] / 100
        each = np.clip(share * (1 + vary) - vary * self.even[:, _GATHER], 0.0, 1.0)
        return _eased(each) if vary > 0 else each

    def swayed(self, places: np.ndarray) -> np.ndarray:
        """Return places (n, 3) with the cloud turned."""
        values = self.values
        x, y, z = places.T
        cos, sin = math.cos(math.radians(values["sway"])), math.sin(math.radians(values["sway"]))
        x, z = cos * x + sin * z, -sin * x + cos * z
        cos, sin = math.cos(math.radians(values["tilt"])), math.sin(math.radians(values["tilt"]))
        return np.column_stack([x, cos * y - sin * z, sin * y + cos * z])

    def seen(self, places: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
        """Return places (n, 2) as the eye sees them, and each one's enlargement (n,); 0 where it is behind the eye."""
        x, y, z = self.swayed(places).T
        eye = reach(self.clock.width, self.values["lens"])
        before = eye + z
        there = before > eye * _NEAREST
        larger = np.where(there, eye / np.where(there, before, 1.0), 0.0)
        return np.column_stack([x * larger, y * larger]), larger

    def at(self, now: float, until: float | None = None, eye: Eye | None = None) -> tuple[Swarm, np.ndarray]:
        """Return how particles are at a frame of the layer, and where they are at another: (n, 2).

        ``eye`` sees places (n, 3) in the layer's units otherwise than the layer's own lens does.
        """
        see = self.seen if eye is None else lambda places: eye(self.swayed(places))
        values, even = self.values, self.even
        age = self.ages(now)
        share = np.full(self.count, 0.5) if self.always else age / self.born.life
        alive = self.born.thin & (share >= 0) & (share < 1)
        space = self.placed(age, now)
        places, larger = see(space)
        ends = places
        if until is not None:
            # Born in between, it has not come from anywhere else yet.
            ends = see(self.placed(np.maximum(age + until - now, 0.0), until))[0]
        over_life = np.ones(self.count) if self.always else curve(values["size_life"])(share)
        opacity = np.ones(self.count) if self.always else curve(values["opacity_life"])(share)
        sizes = np.array([100.0, values["near_size"], values["far_size"]])[self.born.band] / 100
        radii = values["size"] / 2 * sizes * over_life * (1 - values["size_vary"] / 100 * even[:, _SIZE]) * larger
        opacity = opacity * self._bright(now)
        colours = self._colours(np.clip(share, 0, 1), space[:, 2])
        colours[:, 3] *= opacity
        shown = np.flatnonzero(alive & (radii > 1e-3) & (colours[:, 3] > 1e-4) & np.isfinite(places).all(axis=1))
        if values["mix"] != "add":
            # Larger is nearer, so by the enlargement; what lies equally deep keeps its order. Light adds up in any.
            shown = shown[np.argsort(larger[shown], kind="stable")]
        turns = np.radians(values["turned"] * (2 * even[:, _TURN] - 1) + self._spun(age, now))
        return Swarm(places[shown], radii[shown], turns[shown], colours[shown]), ends[shown]

    def _spun(self, age: np.ndarray, now: float) -> np.ndarray:
        spin = self.values["spin"] * (2 * self.even[:, _SPIN] - 1)
        if self.always and self.values["goes_round"]:
            over = self.clock.length / self.clock.rate
            return np.asarray(np.round(spin * over / 360) * 360 * now / self.clock.length)
        return np.asarray(spin * np.maximum(age, 0.0) / self.clock.rate)

    def _bright(self, now: float) -> np.ndarray:
        """Return each one's opacity by band and twinkling, 0 to 1."""
        values, even = self.values, self.even
        bands = np.array([100.0, values["near_opacity"], values["far_opacity"]])[self.born.band] / 100
        if values["twinkle"] == 0:
            return bands
        turns = values["twinkle_turns"] * (0.5 + even[:, _FADE])
        if values["goes_round"]:
            turns = np.maximum(np.round(turns), 1.0)
        wave = 0.5 + 0.5 * np.cos(2 * np.pi * (now / self.clock.length * turns + even[:, _TWINKLE]))
        return np.asarray(bands * (1 - values["twinkle"] / 100 * wave))

    def _colours(self, share: np.ndarray, depth: np.ndarray) -> np.ndarray:
        """Return straight colours, (n, 4); a picture has its own."""
        values = self.values
        if values["look"] == "picture":
            return np.ones((self.count, 4))
        if values["colour_by"] == "source" and self.ground is not None and len(self.ground.weights):
            return np.array(self.ground.colours[self.born.source])
        if values["colour_by"] == "life":
            along = share
        elif values["colour_by"] == "depth" and values["depth_range"] > 0:
            along = np.clip(depth / values["depth_range"] + 0.5, 0, 1)
        else:
            along = self.even[:, _TINT]
        return _ramp(values["stops"])[np.clip(along * 255, 0, 255).astype(np.intp)]


@lru_cache(maxsize=32)
def _ramp(stops: tuple[tuple[float, ...], ...]) -> np.ndarray:
    """Return 256 straight colours of a ramp."""
    table = np.array(ramp(stops, 256), dtype=np.float64)
    table[:, :3] /= np.maximum(table[:, 3:], 1e-6)
    return table
