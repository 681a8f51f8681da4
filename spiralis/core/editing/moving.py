"""Write ready-made moves as ordinary keys, change them as one thing, take them away or apart."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator

import numpy as np
from attrs import evolve, frozen

from spiralis.core.animation.easing import HOLD
from spiralis.core.animation.placing import is_separate
from spiralis.core.animation.tracks import value_at
from spiralis.core.editing.looping import going_round
from spiralis.core.errors import ModelError
from spiralis.core.geometry import Affine
from spiralis.core.model import Composition, Extend, Key, Layer, MoveUse, Project, Track, Value
from spiralis.core.moves import Point, Room, move, points_of
from spiralis.core.raster.spreading_letters import WAYS
from spiralis.core.render.layers import Evaluated

#: Keys that differ by less than this share of how far they lead are as they were written.
_NEARLY = 0.02
_SPREAD = ("spread_by", "spread", "spread_place", "spread_scale", "spread_turn", "spread_opacity", "spread_softness",
           "spread_slant", "spread_at_once", "wave", "wave_way")  # fmt: skip


@frozen
class _Moved:
    """One property that a move writes: its departures from rest as a value of a point and the rest."""

    name: str
    value: Callable[[Point, Value], Value]
    departs: Callable[[Point], bool]


def _moved(layer: Layer, to_parent: Affine) -> Iterator[_Moved]:
    def shifted(point: Point) -> tuple[float, float]:
        return to_parent.apply_direction(*point.place)

    if is_separate(layer):
        yield _Moved("position_x", lambda p, rest: rest + shifted(p)[0], lambda p: abs(shifted(p)[0]) > 1e-9)
        yield _Moved("position_y", lambda p, rest: rest + shifted(p)[1], lambda p: abs(shifted(p)[1]) > 1e-9)
    else:
        yield _Moved("position", lambda p, rest: _plus(rest, shifted(p)), lambda p: p.place != (0.0, 0.0))
    yield _Moved("scale", lambda p, rest: (rest[0] * p.scale[0], rest[1] * p.scale[1]), lambda p: p.scale != (1, 1))
    yield _Moved("rotation", lambda p, rest: rest + p.turn, lambda p: p.turn != 0)
    yield _Moved("opacity", lambda p, rest: rest * min(max(p.opacity, 0), 1), lambda p: p.opacity != 1)
    yield _Moved("skew", lambda p, rest: _slanted(rest, p.skew), lambda p: p.skew != (0.0, 0.0))
    yield _Moved("position_z", lambda p, rest: rest + p.deep, lambda p: p.deep != 0)
    yield _Moved("turn_x", lambda p, rest: rest + p.tip, lambda p: p.tip != 0)
    yield _Moved("turn_y", lambda p, rest: rest + p.swing, lambda p: p.swing != 0)


def _plus(first: Value, second: Value) -> Value:
    return first[0] + second[0], first[1] + second[1]


def _slanted(rest: Value, by: Value) -> Value:
    x, y = _plus(rest, by)
    return min(max(x, -89.0), 89.0), min(max(y, -89.0), 89.0)


def rest_frame(use: MoveUse) -> int:
    """Return the frame on which the layer is as if there were no move."""
    return use.last if move(use.name).family == "entrance" else use.first


def room_of(project: Project, piece: Composition, layer: Layer, use: MoveUse) -> Room:
    """Return what a move of this layer measures itself by."""
    at = Evaluated(project, piece, float(rest_frame(use)))
    return Room((float(piece.width), float(piece.height)), at.matrix(layer).box(at.box(layer)))


def by_parts(layer: Layer, use: MoveUse) -> bool:
    """Whether the move runs over a text's letters, words or lines."""
    return use.part != "whole" and layer.has("spread_by") and move(use.name).by_parts


def with_move(project: Project, piece: Composition, layer: Layer, use: MoveUse) -> Layer:
    """Return the layer with the keys of a move, and with its record.

    Raises:
        ModelError: a value that it needs is driven, or has keys of its own in that time; it is in depth and the
            layer is not.
        UnknownName: no such move.
    """
    if move(use.name).in_depth and not layer.track("depth").value:
        raise ModelError(f"“{layer.name}” lies flat; switch In depth on, then take the move.")
    points = points_of(use, room_of(project, piece, layer, use))
    at = Evaluated(project, piece, float(rest_frame(use)))
    if by_parts(layer, use):
        changed, names = _spread(layer, use, points, at), [_keyed_by(use)]
    else:
        changed, names = layer, []
        for moved in _moved(layer, _to_parent(at, layer)):
            if any(moved.departs(point) for point in points):
                track = _written(layer, moved, use, points, _to_parent(at, layer))
                changed = changed.with_track(moved.name, track)
                names.append(moved.name)
    begin, end = piece.span
    for name in names if _goes_on(piece, use) else ():
        round_ = going_round(changed.track(name), layer.parameter(name), end - begin, use.times)
        if round_ is not None and not layer.track(name).keys:
            changed = changed.with_track(name, round_)
    return evolve(changed, moves=(*layer.moves, use))


def _goes_on(piece: Composition, use: MoveUse) -> bool:
    """Whether a loop that takes the whole of a looping piece begins elsewhere than that: it goes on around the seam."""
    begin, end = piece.span
    shifted = use.first != begin and use.length >= end - begin
    return move(use.name).family == "loop" and piece.loop and shifted


def _to_parent(at: Evaluated, layer: Layer) -> Affine:
    parent = at.composition.find(layer.parent) if layer.parent else None
    return (at.matrix(parent).inverse() or Affine()) if parent is not None else Affine()


def _frames(use: MoveUse, points: tuple[Point, ...]) -> list[int]:
    return [use.first + round(point.at * use.length) for point in points]


def _written(layer: Layer, moved: _Moved, use: MoveUse, points: tuple[Point, ...], to_parent: Affine) -> Track:
    track, parameter = layer.track(moved.name), layer.parameter(moved.name)
    rest = value_at(track, parameter, float(rest_frame(use)))
    _refuse(layer, moved.name, track, use)
    family, frames = move(use.name).family, _frames(use, points)
    made: dict[int, Key] = {}
    for frame, point in zip(frames, points, strict=True):
        handles = {}
        if moved.name == "position" and (point.into or point.out):
            handles = {
                "handle_in": to_parent.apply_direction(*point.into) if point.into else None,
                "handle_out": to_parent.apply_direction(*point.out) if point.out else None,
            }
        made[frame] = Key(frame, parameter.check(moved.value(point, rest)), point.ease, **handles)
    held = {key.frame: key for key in track.keys}
    if use.last in held and family != "exit":
        # What follows this move keeps its own ease.
        made[use.last] = evolve(made[use.last], easing=held[use.last].easing, handle_out=held[use.last].handle_out)
    if use.first in held and family != "entrance":
        made[use.first] = evolve(made[use.first], handle_in=held[use.first].handle_in)
    keys = {**held, **made}
    return evolve(track, value=rest, keys=tuple(keys[frame] for frame in sorted(keys)))


def _refuse(layer: Layer, name: str, track: Track, use: MoveUse) -> None:
    """Refuse a move over keys that are there already; a key at the end that is at rest may stay."""
    label = layer.parameter(name).label
    if track.driver is not None:
        raise ModelError(f"{label} of “{layer.name}” follows something else; bake it to keys, then take the move.")
    family = move(use.name).family
    low = use.first if family == "entrance" else use.first + 1
    high = use.last if family == "exit" else use.last - 1
    if any(low <= key.frame <= high for key in track.keys):
        raise ModelError(
            f"{label} of “{layer.name}” has keys between frames {use.first} and {use.last}; choose another time."
        )
    ends = {key.frame: key.value for key in track.keys if key.frame in (use.first, use.last)}
    if family == "loop" and len(set(ends.values())) > 1 and layer.parameter(name).period is None:
        raise ModelError(f"{label} of “{layer.name}” changes between frames {use.first} and {use.last}.")


def _spread(layer: Layer, use: MoveUse, points: tuple[Point, ...], at: Evaluated) -> Layer:
    """Write a move over parts of a text: what it departs by, and two keys on how much has arrived.

    A loop keys the wave instead: it goes over the parts once a round.
    """
    leaves, goes_round = move(use.name).family == "exit", move(use.name).family == "loop"
    away = max(points, key=_departure) if goes_round else points[-1] if leaves else points[0]
    own = at.matrix(layer).inverse() or Affine()
    name = _keyed_by(use)
    track = layer.track(name)
    _refuse(layer, name, track, use)
    start, end = (100.0, 0.0) if leaves else (0.0, 100.0 * use.times)
    keys = {key.frame: key for key in track.keys}
    keys[use.first], keys[use.last] = Key(use.first, start), Key(use.last, end)
    place = own.apply_direction(*away.place)
    changed = layer.with_values(
        spread_by=use.part, spread_place=place, spread_scale=100.0 * min(away.scale), spread_turn=away.turn,
        spread_opacity=100.0 * away.opacity, spread_slant=away.skew[0], spread_softness=use.softness,
        spread_at_once=not goes_round and any(point.ease == HOLD for point in points[:-1]),
    )  # fmt: skip
    keyed = evolve(track, value=0.0 if goes_round else 100.0, keys=tuple(keys[f] for f in sorted(keys)))
    if goes_round:
        both = any(_opposite(point, away) for point in points)
        changed = changed.with_values(wave_way=WAYS[1] if both else WAYS[0])
        if not layer.track("spread").animated:
            changed = changed.with_values(spread=100.0)
    return changed.with_track(name, keyed)


def _keyed_by(use: MoveUse) -> str:
    """Return which property a move by parts sets keys on."""
    return "wave" if move(use.name).family == "loop" else "spread"


def _departure(point: Point) -> float:
    """Return how far a point is from rest: a number to compare points of one move by."""
    scale = max(abs(share - 1) for share in point.scale)
    return math.hypot(*point.place) + 100 * scale + abs(point.turn) + 100 * abs(1 - point.opacity) + abs(point.skew[0])


def _opposite(point: Point, away: Point) -> bool:
    """Whether a point lies beyond rest as seen from another, about as far."""
    pairs = [*zip(point.place, away.place, strict=True), (point.turn, away.turn), (point.skew[0], away.skew[0])]
    return sum(a * b for a, b in pairs) < -0.25 * sum(b * b for _, b in pairs)


def without_move(project: Project, piece: Composition, layer: Layer, index: int) -> Layer:
    """Return the layer without a move and its keys; raises IndexError where there is no such move."""
    use = layer.moves[index]
    others = (*layer.moves[:index], *layer.moves[index + 1 :])
    bare = evolve(layer, moves=others)
    if by_parts(layer, use):
        name = _keyed_by(use)
        beside = tuple(other for other in others if by_parts(layer, other) and _keyed_by(other) == name)
        bare = bare.with_track(name, _cleared(layer, name, use, [use.first, use.last], beside))
        if bare.track("spread").keys or bare.track("wave").keys:
            return bare
        return evolve(bare, properties={k: v for k, v in bare.properties.items() if k not in _SPREAD})
    frames = _frames(use, points_of(use, room_of(project, piece, layer, use)))
    sharing = {other: _names(project, piece, layer, other) for other in others}
    for name in _names(project, piece, layer, use):
        beside = tuple(other for other, names in sharing.items() if name in names)
        bare = bare.with_track(name, _cleared(layer, name, use, frames, beside))
    return bare


def _names(project: Project, piece: Composition, layer: Layer, use: MoveUse) -> list[str]:
    """Return which properties a move writes."""
    if by_parts(layer, use):
        return [_keyed_by(use)]
    to_parent = _to_parent(Evaluated(project, piece, float(rest_frame(use))), layer)
    points = points_of(use, room_of(project, piece, layer, use))
    return [moved.name for moved in _moved(layer, to_parent) if any(map(moved.departs, points))]


def _cleared(layer: Layer, name: str, use: MoveUse, frames: list[int], others: tuple[MoveUse, ...]) -> Track:
    """Return the track without a move's keys; a key that another move stands on as well stays."""
    track = layer.track(name)
    rest = value_at(track, layer.parameter(name), float(rest_frame(use)))
    shared = {frame for other in others for frame in (other.first, other.last)}
    gone = {frame for frame in frames if frame not in shared}
    keys = tuple(key for key in track.keys if key.frame not in gone)
    # How it goes on belongs to its keys, and goes with the last of them.
    return evolve(track, value=rest, keys=keys) if keys else evolve(
        track, value=rest, keys=(), before=Extend(), after=Extend())  # fmt: skip


def with_move_changed(project: Project, piece: Composition, layer: Layer, index: int, use: MoveUse) -> Layer:
    """Return the layer with a move written anew in another way; raises as ``with_move`` does."""
    bare = without_move(project, piece, layer, index)
    changed = with_move(project, piece.with_layer(bare), bare, use)
    moves = list(changed.moves[:-1])
    moves.insert(index, use)
    return evolve(changed, moves=tuple(moves))


def set_by_hand(project: Project, piece: Composition, layer: Layer, index: int) -> list[str]:
    """Return the labels of the properties where a hand changed keys that a move wrote, and that it would write anew."""
    try:
        fresh = with_move_changed(project, piece, layer, index, layer.moves[index])
    except ModelError:
        return []  # It cannot be written anew, so nothing of it goes.
    names = [name for name in layer.animated() if not _alike(layer, fresh, name)]
    return [layer.parameter(name).label for name in names]


def _alike(layer: Layer, fresh: Layer, name: str) -> bool:
    """Whether two layers have the same keys of a property, but for the pixel by which a move begins beside the frame,
    which no format scales."""
    held, written = layer.track(name).keys, fresh.track(name).keys
    if [(key.frame, key.easing) for key in held] != [(key.frame, key.easing) for key in written]:
        return False
    parameter = layer.parameter(name)
    if not parameter.numeric:
        return held == written

    def row(key: Key) -> np.ndarray:
        return np.concatenate([parameter.to_array(key.value), key.handle_in or (0, 0), key.handle_out or (0, 0)])

    old, new = (np.array([row(key) for key in keys]) for keys in (held, written))
    return bool(np.allclose(old, new, rtol=0, atol=1e-6 + _NEARLY * float(np.ptp(old, axis=0).max())))


def taken_apart(layer: Layer, index: int) -> Layer:
    """Return the layer with the move's keys as plain keys that belong to nothing."""
    return evolve(layer, moves=(*layer.moves[:index], *layer.moves[index + 1 :]))
