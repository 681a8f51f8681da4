"""Poses: capture what chosen layers look like, and write a strip of such looks as ordinary keys."""

from __future__ import annotations

from collections.abc import Callable, Container, Iterable

from attrs import evolve

from spiralis.core.animation.easing import HOLD, from_softness
from spiralis.core.errors import ModelError
from spiralis.core.model import Composition, Key, Kind, Layer, Track, Value
from spiralis.core.model.poses import Pose, PoseStrip
from spiralis.core.render.layers import Evaluated


def captured(at: Evaluated, ids: Iterable[str]) -> tuple[tuple[str, str, Value], ...]:
    """Return every value of these layers that carries keys or could, as it is at that moment; none that is driven."""
    found = []
    for layer_id in ids:
        layer = at.composition.layer(layer_id)
        values = at.values(layer)
        for parameter in layer.parameters:
            if not parameter.steady and layer.track(parameter.name).driver is None and parameter.name in values:
                found.append((layer_id, parameter.name, values[parameter.name]))
    return tuple(found)


def with_captured(piece: Composition, at: Evaluated, ids: Iterable[str], index: int | None = None) -> Composition:
    """Return the piece with one more pose, or the pose at ``index`` captured anew, and the keys that follow from it.

    Raises:
        ModelError: no layer is chosen.
    """
    strip, values = piece.poses, captured(at, ids)
    if not values:
        raise ModelError("Choose the layers whose look is to be a pose.")
    if index is None:
        poses = (*strip.poses, Pose(f"Pose {len(strip.poses) + 1}", values))
    else:
        old = strip.poses[index]
        look = old.look() | {(layer, name): value for layer, name, value in values}
        new = evolve(old, values=tuple((layer, name, value) for (layer, name), value in look.items()))
        poses = (*strip.poses[:index], new, *strip.poses[index + 1 :])
    return with_strip(piece, evolve(strip, poses=poses))


def with_strip(piece: Composition, strip: PoseStrip) -> Composition:
    """Return the piece with another strip, its keys written in place of those of the strip before; threads for which
    both say the same stay as they are."""
    old, new = _written(piece, piece.poses), _written(piece, strip)
    for thread in {**old, **new}:
        layer_id, name = thread
        layer = piece.layer(layer_id)
        track = layer.track(name)
        if thread in new and new[thread] != old.get(thread):
            track = evolve(track, value=new[thread][0].value, keys=new[thread])
        elif thread not in new:
            rest = old[thread][0].value
            track = evolve(track, value=strip.poses[0].look().get(thread, rest) if strip.poses else rest, keys=())
        piece = piece.with_layer(layer.with_track(name, track))
    return evolve(piece, poses=strip)


def changed_strip(piece: Composition, change: Callable[[PoseStrip], PoseStrip]) -> Composition:
    """Return the piece with its strip changed in something else than its looks: a pose whose key was set otherwise by
    hand, on the frame that it begins on, is as that key says."""
    piece = evolve(piece, poses=_as_keyed(piece))
    return with_strip(piece, change(piece.poses))


def _as_keyed(piece: Composition) -> PoseStrip:
    strip, threads = piece.poses, _differing(piece, piece.poses)
    poses = []
    for begin, pose in zip(strip.begins, strip.poses, strict=False):
        look = pose.look()
        for thread in threads.keys() & look.keys():
            track = piece.layer(thread[0]).track(thread[1])
            index = track.index_at(begin)
            look[thread] = track.keys[index].value if index is not None else look[thread]
        poses.append(evolve(pose, values=tuple((layer, name, value) for (layer, name), value in look.items())))
    return evolve(strip, poses=tuple(poses))


def overwritten(before: Composition, after: Composition) -> list[str]:
    """Return where keys went, layer and property by name, that no strip had written but a hand, or a move."""
    known = [_written(before, before.poses), _written(before, _as_keyed(before))]
    told = []
    for layer_id, name in _written(after, after.poses):
        layer = before.find(layer_id)
        if layer is None:
            continue
        strips = {key for written in known for key in written.get((layer_id, name), ())}
        left = set(after.layer(layer_id).track(name).keys)
        if any(key not in strips and key not in left for key in layer.track(name).keys):
            told.append(f"{layer.name}: {layer.parameter(name).label}")
    return told


def poses_mapped(
    piece: Composition, change: Callable[[Layer], Layer], ids: Container[str] | None = None
) -> PoseStrip:
    """Return the piece's strip with looks as ``change`` makes layers of it (these or all), which maps what they have:
    places, sizes, lengths."""
    strip, poses = piece.poses, []
    for pose in strip.poses:
        look = pose.look()
        posed = {owner for owner, _ in look}
        for layer in [y for y in piece.layers if y.id in posed and (ids is None or y.id in ids)]:
            names = [name for owner, name in look if owner == layer.id and layer.has(name)]
            still = evolve(layer, properties={**layer.properties, **{n: Track(look[layer.id, n]) for n in names}})
            moved = change(still)
            look |= {(layer.id, name): moved.track(name).value for name in names}
        poses.append(evolve(pose, values=tuple((layer, name, value) for (layer, name), value in look.items())))
    return evolve(strip, poses=tuple(poses)) if poses else strip


def _written(piece: Composition, strip: PoseStrip) -> dict[tuple[str, str], tuple[Key, ...]]:
    """Return the keys that a strip writes, by layer and property."""
    rows = _differing(piece, strip)
    return {thread: _keys(piece.layer(thread[0]), thread[1], row, strip) for thread, row in rows.items()}


def _differing(piece: Composition, strip: PoseStrip) -> dict[tuple[str, str], list[Value]]:
    """Return the values of each property that is not alike in all poses; a pose without it keeps the one before's."""
    if len(strip.poses) < 2:
        return {}
    looks = [pose.look() for pose in strip.poses]
    rows: dict[tuple[str, str], list[Value]] = {}
    for thread in dict.fromkeys(thread for look in looks for thread in look):
        layer = piece.find(thread[0])
        if layer is None or layer.track(thread[1]).driver is not None:
            continue
        last = next(look[thread] for look in looks if thread in look)
        row = []
        for look in looks:
            last = look.get(thread, last)
            row.append(layer.parameter(thread[1]).check(last))
        if any(value != row[0] for value in row):
            rows[thread] = row
    return rows


def _keys(layer: Layer, name: str, row: list[Value], strip: PoseStrip) -> tuple[Key, ...]:
    parameter = layer.parameter(name)
    soft = from_softness(strip.softness, strip.softness)
    eases = parameter.numeric or parameter.kind is Kind.ART
    keys: dict[int, Key] = {}
    for begin, pose, value in zip(strip.begins, strip.poses, row, strict=False):
        keys[begin] = Key(begin, value, HOLD)
        leaves = begin + pose.stay - 1
        keys[leaves] = Key(leaves, value, soft if eases else HOLD)
    if strip.returns:
        back = strip.begins[-1]
        keys[back] = Key(back, row[0])
    return tuple(keys[frame] for frame in sorted(keys))


def changed_pose(piece: Composition, index: int, change: Callable[[Pose], Pose]) -> Composition:
    """Return the piece with a pose's name, stay or in-betweens changed, and its keys in their new places."""

    def changed(strip: PoseStrip) -> PoseStrip:
        poses = list(strip.poses)
        poses[index] = change(poses[index])
        return evolve(strip, poses=tuple(poses))

    return changed_strip(piece, changed)


def without_pose(piece: Composition, index: int) -> Composition:
    """Return the piece without a pose."""
    return changed_strip(piece, lambda strip: evolve(strip, poses=(*strip.poses[:index], *strip.poses[index + 1 :])))


def moved_pose(piece: Composition, index: int, to: int) -> Composition:
    """Return the piece with a pose at another place in the strip."""

    def moved(strip: PoseStrip) -> PoseStrip:
        poses = list(strip.poses)
        poses.insert(to, poses.pop(index))
        return evolve(strip, poses=tuple(poses))

    return changed_strip(piece, moved)


def fitted_to_strip(piece: Composition) -> Composition:
    """Return the piece as long as its strip, so that the first pose comes again where the piece begins again.

    Raises:
        ModelError: the strip does not begin on frame 0 or has fewer than two poses.
    """
    strip = piece.poses
    if len(strip.poses) < 2 or strip.first != 0:
        raise ModelError("A piece fits a strip of two poses or more that begins on frame 0.")
    last = strip.begins[-1] if strip.returns else strip.begins[-1] - strip.poses[-1].between
    layers = tuple(evolve(y, last=last) if y.last in (piece.length, last) else y for y in piece.layers)
    span = piece.play_span if piece.play_span and piece.play_span[1] <= last else None
    return evolve(piece, length=last, layers=layers, play_span=span)
