"""Moves that a person keeps: what a layer's keys do, beside its rest, to be taken by any other layer."""

from __future__ import annotations

from typing import Any

import numpy as np
from attrs import evolve, frozen

from spiralis.core.animation.easing import LINEAR, Easing
from spiralis.core.animation.placing import is_separate
from spiralis.core.errors import ModelError
from spiralis.core.model import Composition, Key, Layer, Project
from spiralis.core.moves import FAMILIES, MOVES, Move, Point
from spiralis.core.moves.base import How, Pair
from spiralis.core.render.layers import Evaluated

PREFIX = "own: "
MOST_POINTS = 2000
#: Where keys of several properties do not agree, a point every so many frames is kept.
_STEP = 2


@frozen
class KeptMove:
    """A move of a person's own. ``points`` are departures in px of a frame whose shorter side is ``side``."""

    name: str
    family: str
    seconds: float
    side: float
    points: tuple[Point, ...]

    def as_move(self) -> Move:
        """Return it as one of the moves that can be chosen."""

        def shape(how: How) -> tuple[Point, ...]:
            reach = how.strength * min(how.room.frame) / self.side
            return tuple(_stronger(point, how.strength, reach) for point in self.points)

        help = "Your own; it becomes ordinary keys"
        return Move(PREFIX + self.name, self.name, self.family, help, shape, None, self.seconds, False)


def _stronger(point: Point, strength: float, reach: float) -> Point:
    def times(pair: Pair, factor: float) -> Pair:
        return pair[0] * factor, pair[1] * factor

    (across, down), into, out = point.scale, point.into, point.out
    return evolve(
        point, place=times(point.place, reach), scale=(1 + (across - 1) * strength, 1 + (down - 1) * strength),
        turn=point.turn * strength, opacity=max(1 + (point.opacity - 1) * strength, 0.0),
        skew=times(point.skew, strength),
        into=times(into, reach) if into is not None else None, out=times(out, reach) if out is not None else None,
    )  # fmt: skip


def offer_kept(kept: tuple[KeptMove, ...]) -> None:
    """Offer these moves beside the shipped ones, and no others of a person's own."""
    for each in MOVES.all():
        if each.name.startswith(PREFIX):
            MOVES.withdraw(each.name)
    for own in kept:
        MOVES.register(PREFIX + own.name, own.as_move())


def kept_move(project: Project, piece: Composition, layer: Layer, name: str, family: str) -> KeptMove:
    """Return what all keys of a layer's place, size, turn, slant and opacity do, as a move.

    An entrance is at rest on its last key, a loop and an exit on their first.

    Raises:
        ModelError: there are no keys, they take no time, or a loop does not come back.
    """
    tracks = ("position_x", "position_y") if is_separate(layer) else ("position",)
    keyed = {n: layer.track(n).keys for n in (*tracks, "scale", "rotation", "opacity", "skew") if layer.track(n).keys}
    frames = sorted({key.frame for keys in keyed.values() for key in keys})
    if len(frames) < 2:
        raise ModelError(f"“{layer.name}” has no two keys of its place, size, turn or opacity that could be kept.")
    first, last = frames[0], frames[-1]
    together = _together(keyed, frames)
    if together is None:
        frames = [*range(first, last, _STEP), last]
    if len(frames) > MOST_POINTS:
        raise ModelError(f"The motion of “{layer.name}” has over {MOST_POINTS} moments; keep a shorter one.")
    seen = {frame: Evaluated(project, piece, float(frame)).values(layer) for frame in frames}
    rest = seen[last if family == "entrance" else first]
    points = [
        evolve(_beside(seen[frame], rest, tracks), at=(frame - first) / (last - first), ease=ease)
        for frame, ease in zip(frames, [*(together or [LINEAR] * (len(frames) - 1)), LINEAR], strict=True)
    ]
    if together is not None and tracks == ("position",) and "position" in keyed:
        points = [_bent(p, {k.frame: k for k in keyed["position"]}.get(f)) for p, f in zip(points, frames, strict=True)]
    if family == "loop" and not _same(points[0], points[-1]):
        raise ModelError(f"“{layer.name}” does not come back to where it began, so it is no loop.")
    side = float(min(piece.width, piece.height))
    return KeptMove(name, family, (last - first) / float(piece.rate), side, tuple(points))


def _together(keyed: dict[str, tuple[Key, ...]], frames: list[int]) -> list[Easing] | None:
    """Return the ease from each frame to the next where all that changes there shares it; else None."""
    eases = []
    for left, right in zip(frames, frames[1:], strict=False):
        here: set[Easing] = set()
        for keys in keyed.values():
            at = {key.frame: key for key in keys}
            over = [key for key in keys if key.frame <= left][-1:], [key for key in keys if key.frame >= right][:1]
            still = not over[0] or not over[1] or over[0][0].value == over[1][0].value
            if left in at and right in at:
                here |= {at[left].easing} if not still or at[left].handle_out else set()
            elif not still:
                return None
        if len(here) > 1:
            return None
        eases.append(here.pop() if here else LINEAR)
    return eases


def _beside(values: Any, rest: Any, tracks: tuple[str, ...]) -> Point:
    def place(of: Any) -> Pair:
        return (of["position_x"], of["position_y"]) if len(tracks) == 2 else of["position"]

    (x, y), (x0, y0) = place(values), place(rest)
    scale = tuple(s / r if r else 1.0 for s, r in zip(values["scale"], rest["scale"], strict=True))
    skew = tuple(s - r for s, r in zip(values["skew"], rest["skew"], strict=True))
    opacity = values["opacity"] / rest["opacity"] if rest["opacity"] else 1.0
    return Point(
        0.0, place=(x - x0, y - y0), scale=(scale[0], scale[1]), turn=values["rotation"] - rest["rotation"],
        opacity=opacity, skew=(skew[0], skew[1]),
    )  # fmt: skip


def _bent(point: Point, key: Key | None) -> Point:
    return point if key is None else evolve(point, into=key.handle_in, out=key.handle_out)


def _same(one: Point, other: Point) -> bool:
    names = ("place", "scale", "opacity", "skew")
    near = all(np.allclose(getattr(one, n), getattr(other, n), atol=1e-6) for n in names)
    return near and abs((one.turn - other.turn) % 360.0) < 1e-6


# -- kept in files ---------------------------------------------------------------------------------------


def as_row(kept: KeptMove) -> dict[str, Any]:
    """Return a move as JSON values."""
    points = [
        {"at": p.at, "ease": p.ease.css(), "place": p.place, "scale": p.scale, "turn": p.turn, "opacity": p.opacity,
         "skew": p.skew, "into": p.into, "out": p.out}
        for p in kept.points
    ]  # fmt: skip
    return {"name": kept.name, "family": kept.family, "seconds": kept.seconds, "side": kept.side, "points": points}


def from_row(row: dict[str, Any]) -> KeptMove:
    """Read a move; raises ValueError, KeyError, TypeError or ModelError where it is none."""
    points = tuple(_point(each) for each in row["points"][:MOST_POINTS])
    shares = [point.at for point in points]
    seconds, side, family = float(row["seconds"]), float(row["side"]), str(row["family"])
    fine = len(points) > 1 and shares == sorted(set(shares)) and shares[0] == 0 and shares[-1] == 1
    if not fine or family not in FAMILIES or not (0 < seconds < 1e5 and 0 < side < 1e6):
        raise ValueError("no move")
    return KeptMove(str(row["name"])[:40], family, seconds, side, points)


def _point(row: dict[str, Any]) -> Point:
    def pair(name: str) -> Pair | None:
        if row.get(name) is None:
            return None
        x, y = (float(part) for part in row[name])
        if not (abs(x) < 1e7 and abs(y) < 1e7):
            raise ValueError(name)
        return x, y

    turn, opacity = float(row["turn"]), float(row["opacity"])
    if not (abs(turn) < 1e7 and 0 <= opacity <= 1e4):
        raise ValueError("out of range")
    return Point(
        float(row["at"]), Easing.from_css(str(row["ease"])), pair("place") or (0.0, 0.0), pair("scale") or (1.0, 1.0),
        turn, opacity, pair("skew") or (0.0, 0.0), pair("into"), pair("out"),
    )  # fmt: skip
