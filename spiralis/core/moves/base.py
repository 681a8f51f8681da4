"""What a move is: a layer's departures from its rest at shares of a time, and the registry of moves.

A file of this folder describes one move. An entrance brings its exit along: the same way back, mirrored in time and
direction, under a name of its own.
"""

from __future__ import annotations

import math
from collections.abc import Callable
from typing import Any

import numpy as np
from attrs import evolve, frozen

from spiralis.core.animation.easing import LINEAR, CubicBezier, Easing, from_softness
from spiralis.core.model.moves import MoveUse
from spiralis.core.registry import Registry

FAMILIES = ("entrance", "loop", "exit")
Pair = tuple[float, float]


@frozen
class Point:
    """Where a layer is beside its rest at a share of the time, 0 to 1, and the ease to the next point.

    ``place`` in px, ``scale`` and ``opacity`` as factors, ``turn`` and ``skew`` in degrees; ``into`` and ``out`` bend
    the way, in px beside the place. In depth it is so much farther (``deep``, px), and turned about its level (``tip``)
    and its upright (``swing``).
    """

    at: float
    ease: Easing = LINEAR
    place: Pair = (0.0, 0.0)
    scale: Pair = (1.0, 1.0)
    turn: float = 0.0
    opacity: float = 1.0
    skew: Pair = (0.0, 0.0)
    into: Pair | None = None
    out: Pair | None = None
    deep: float = 0.0
    tip: float = 0.0
    swing: float = 0.0


REST = Point(0.0)


@frozen
class Room:
    """What a move measures itself by, in px: the frame, and the layer's box as it stands in the frame."""

    frame: Pair
    box: tuple[float, float, float, float]


@frozen
class How:
    """A move's numbers, ready to use: ``strength`` as a factor, ``way`` as a unit vector, a soft ease each way."""

    strength: float
    way: Pair
    arriving: CubicBezier
    leaving: CubicBezier
    both: CubicBezier
    room: Room

    def along(self, distance: float) -> Pair:
        """Return so many px along the direction."""
        return self.way[0] * distance, self.way[1] * distance

    @property
    def reach(self) -> float:
        """A distance that reads well: an eighth of the frame's shorter side, times the strength."""
        return min(self.room.frame) / 8 * self.strength

    @property
    def out_of_frame(self) -> float:
        """How far against the direction the layer's box just leaves the frame."""
        (width, height), (left, top, right, bottom) = self.room.frame, self.room.box
        x, y = self.way
        across = (right if x > 0 else width - left) / abs(x) if abs(x) > 1e-9 else math.inf
        down = (bottom if y > 0 else height - top) / abs(y) if abs(y) > 1e-9 else math.inf
        return max(min(across, down), 0.0) + 1.0


Shape = Callable[[How], tuple[Point, ...]]


@frozen
class Move:
    """One move. ``direction`` is where it goes by default, None where that means nothing; ``length`` in seconds.

    One ``in_depth`` is for layers that stand in depth. Words go by such a ``part`` unless somebody says otherwise.
    """

    name: str
    label: str
    family: str
    help: str
    shape: Shape
    direction: float | None
    length: float
    by_parts: bool
    in_depth: bool = False
    part: str = "whole"


MOVES: Registry[Move] = Registry("move", "spiralis.core.moves")


def move(name: str) -> Move:
    """Return a move by name; raises UnknownName listing the known ones."""
    return MOVES.get(name)


def moves(family: str | None = None) -> tuple[Move, ...]:
    """Return all moves, or those of a family."""
    return tuple(each for each in MOVES.all() if family in (None, each.family))


def entrance(
    name: str, label: str, help: str, leave: tuple[str, str, str], shape: Shape, direction: float | None = None,
    length: float = 0.8, by_parts: bool = True, in_depth: bool = False, part: str = "whole",
) -> None:  # fmt: skip
    """Register an entrance, whose last point is at rest, and its exit (its name, label and help)."""
    told = (direction, length, by_parts, in_depth, part)
    MOVES.register(name, Move(name, label, "entrance", help, shape, *told))

    def back(how: How) -> tuple[Point, ...]:
        return mirrored(shape(evolve(how, way=(-how.way[0], -how.way[1]))))

    MOVES.register(leave[0], Move(leave[0], leave[1], "exit", leave[2], back, *told))


def loop(
    name: str, label: str, help: str, shape: Shape, direction: float | None = None, length: float = 2.0,
    by_parts: bool = True, in_depth: bool = False,
) -> None:  # fmt: skip
    """Register a loop, whose first and last points are at rest, or a whole number of turns from it.

    By parts each goes to the loop's farthest point and comes back, so that no turn may be left.
    """
    MOVES.register(name, Move(name, label, "loop", help, shape, direction, length, by_parts, in_depth))


def mirrored(points: tuple[Point, ...]) -> tuple[Point, ...]:
    """Return the points backwards in time, each ease too."""
    eases = [_backwards(point.ease) for point in points[:-1]]
    return tuple(
        evolve(point, at=1 - point.at, ease=ease, into=point.out, out=point.into)
        for point, ease in zip(reversed(points), [*reversed(eases), LINEAR], strict=True)
    )


def _backwards(ease: Easing) -> Easing:
    # A hold stays a hold: what it holds backwards is the next point, and such moves are made of equal steps.
    return ease.reversed_in_time() if isinstance(ease, CubicBezier) else ease


def points_of(use: MoveUse, room: Room) -> tuple[Point, ...]:
    """Return the points of a move as it is used, all rounds of a loop in one."""
    made, softness = move(use.name), use.softness
    angle = math.radians(use.direction)
    how = How(
        use.strength / 100, (math.cos(angle), math.sin(angle)), from_softness(0.0, softness),
        from_softness(softness, 0.0), from_softness(softness * 0.7, softness * 0.7), room,
    )  # fmt: skip
    once = made.shape(how)
    if use.times == 1 or made.family != "loop":
        return once
    turn, tip = once[-1].turn, once[-1].tip
    rounds = [
        evolve(point, at=(round_ + point.at) / use.times, turn=point.turn + turn * round_, tip=point.tip + tip * round_)
        for round_ in range(use.times)
        for point in (once[:-1] if round_ < use.times - 1 else once)
    ]
    if once[0].out is not None:
        rounds = [evolve(p, into=once[-1].into) if p.place == once[0].place and p.at > 0 else p for p in rounds]
    return tuple(rounds)


def between(points: tuple[Point, ...], share: float) -> Point:
    """Return where a layer is at a share of the time; ways between points are taken straight."""
    share = min(max(share, 0.0), 1.0)
    for left, right in zip(points, points[1:], strict=False):
        if share <= right.at:
            span = right.at - left.at
            eased = float(left.ease.solve(np.array([(share - left.at) / span]))[0]) if span > 0 else 1.0

            def mix(a: Any, b: Any, eased: float = eased) -> Any:
                if isinstance(a, tuple):
                    return tuple(mix(x, y) for x, y in zip(a, b, strict=True))
                return a + (b - a) * eased

            values = {name: mix(getattr(left, name), getattr(right, name)) for name in _MIXED}
            return Point(share, **values)
    return points[-1]


_MIXED = ("place", "scale", "turn", "opacity", "skew", "deep", "tip", "swing")
