"""Edits of chosen keys over several layers and threads. Pure functions on compositions; locked layers keep theirs."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Callable, Iterable

from attrs import evolve, frozen

from spiralis.core.editing.cutting import without_key_kept
from spiralis.core.model import Composition, Key, Layer, Track, Value
from spiralis.core.model.track import turned


@frozen
class KeyRef:
    """A key by its place: layer, property, frame."""

    layer: str
    name: str
    frame: int


def by_track(keys: Iterable[KeyRef]) -> dict[tuple[str, str], set[int]]:
    """Return the frames of the keys, by (layer, property)."""
    grouped: dict[tuple[str, str], set[int]] = defaultdict(set)
    for ref in keys:
        grouped[ref.layer, ref.name].add(ref.frame)
    return grouped


def set_at(before: Composition, after: Composition, frame: int) -> bool:
    """Whether an edit gave a thread another key at a frame, and left all its other keys: a value was set there.

    What a ready-made move writes again is another matter.
    """
    for layer in after.layers:
        old = before.find(layer.id)
        if old is None or old.properties is layer.properties or old.moves != layer.moves:
            continue
        for name in layer.animated():
            was, now = ({key.frame: key.value for key in of.track(name).keys} for of in (old, layer))
            if {at for at in was.keys() | now.keys() if was.get(at) != now.get(at)} == {frame} and frame in now:
                return True
    return False


def fewer_keys(
    before: Composition, after: Composition, chosen: Iterable[KeyRef] = (), landed: Iterable[KeyRef] = ()
) -> int:
    """Return how many keys the threads of layers that are in both compositions lost, where others came to lie.

    Args:
        before: the composition as it was.
        after: the same after an edit of keys.
        chosen: the keys that were moved or copied, where they were.
        landed: where the edit put keys.
    """
    count = 0
    for layer in after.layers:
        old = before.find(layer.id)
        if old is None or old.properties is layer.properties:
            continue
        for name in old.animated():
            count += max(len(old.track(name).keys) - len(layer.track(name).keys), 0)
    return max(count, _given_way(before, after, set(chosen), landed))


def _given_way(before: Composition, after: Composition, chosen: set[KeyRef], landed: Iterable[KeyRef]) -> int:
    """Return how many other keys lay where keys were put, and were otherwise than those."""
    count = 0
    for (layer_id, name), frames in by_track(set(landed) - chosen).items():
        layer = before.find(layer_id)
        old = {key.frame: key for key in layer.track(name).keys} if layer is not None and layer.has(name) else {}
        new = {key.frame: key for key in after.layer(layer_id).track(name).keys}
        count += sum(1 for frame in frames if frame in old and frame in new and old[frame].value != new[frame].value)
    return count


def fewer_keys_note(
    before: Composition, after: Composition, chosen: Iterable[KeyRef] = (), landed: Iterable[KeyRef] = ()
) -> str:
    """Return what is said of the keys that go because others lie on their frames; empty where none do."""
    count = fewer_keys(before, after, chosen, landed)
    if not count:
        return ""
    if count == 1:
        return "1 key goes, as another comes to lie on its frame"
    return f"{count} keys go, as others come to lie on their frames"


def keys_moved(
    composition: Composition, keys: frozenset[KeyRef], by: int, copying: bool
) -> tuple[Composition, set[KeyRef]]:
    """Return the composition with the keys moved (or copied) by frames, and the keys where they are now.

    Keys of locked layers stay.
    """
    chosen: set[KeyRef] = set()
    for (layer_id, name), frames in by_track(keys).items():
        layer = composition.layer(layer_id)
        if layer.locked:
            chosen |= {KeyRef(layer_id, name, frame) for frame in frames}
            continue
        track = layer.track(name)
        if copying:
            for key in [key for key in track.keys if key.frame in frames and by]:
                track = track.with_key(evolve(key, frame=key.frame + by))
        else:
            track = track.moved(frames, by)
        chosen |= {KeyRef(layer_id, name, frame + by) for frame in frames}
        composition = composition.with_layer(layer.with_track(name, track))
    return composition, chosen


def without_keys(composition: Composition, keys: Iterable[KeyRef]) -> Composition:
    """Return the composition without the keys; locked layers keep theirs. One that changes nothing in sight goes
    without changing anything."""
    for (layer_id, name), frames in by_track(keys).items():
        layer = composition.layer(layer_id)
        if layer.locked:
            continue
        track, parameter = layer.track(name), layer.parameter(name)
        inner = sorted(key.frame for key in track.keys[1:-1] if key.frame in frames)
        for frame in inner if len(track.keys) > len(frames) else ():
            track = without_key_kept(track, parameter, frame)
        track = track.without_keys(frames)
        composition = composition.with_layer(layer.with_track(name, track))
    return composition


def keys_with_value(
    composition: Composition, keys: Iterable[KeyRef], change: Callable[[Layer, Value], Value]
) -> Composition:
    """Return the composition where the keys have other values; locked layers keep theirs.

    Args:
        composition: where the keys are.
        keys: which of them change.
        change: the layer and a key's value to its new one.
    """
    for (layer_id, name), frames in by_track(keys).items():
        layer = composition.layer(layer_id)
        track = layer.track(name)
        if not layer.locked:
            changed = tuple(
                evolve(key, value=change(layer, key.value)) if key.frame in frames else key for key in track.keys
            )
            composition = composition.with_layer(layer.with_track(name, evolve(track, keys=changed)))
    return composition


def _each(composition: Composition, keys: Iterable[KeyRef], change: Callable[[Track, set[int]], Track],
          chosen: Callable[[set[int]], set[int]]) -> tuple[Composition, set[KeyRef]]:  # fmt: skip
    """Change the chosen keys of each thread; ``chosen`` says on which frames they are then."""
    found: set[KeyRef] = set()
    for (layer_id, name), frames in by_track(keys).items():
        layer = composition.layer(layer_id)
        landed = frames if layer.locked else chosen(frames)
        if not layer.locked:
            composition = composition.with_layer(layer.with_track(name, change(layer.track(name), frames)))
        found |= {KeyRef(layer_id, name, frame) for frame in landed}
    return composition, found


def _placed(track: Track, moving: dict[int, Key]) -> Track:
    """Return the track where keys of some frames (by their old ones) are replaced; they win over what they land on."""
    landed = {key.frame: key for key in moving.values()}
    staying = [key for key in track.keys if key.frame not in moving and key.frame not in landed]
    return evolve(track, keys=(*staying, *landed.values()))


def keys_stretched(
    composition: Composition, keys: frozenset[KeyRef], anchor: int, factor: float
) -> tuple[Composition, set[KeyRef]]:
    """Return the composition with the keys' times stretched about a frame, rounded to frames; and where they are now.

    ``factor`` is 0 or more; keys that fall together become the later one.
    """

    def to(frame: int) -> int:
        return anchor + round((frame - anchor) * factor)

    def change(track: Track, frames: set[int]) -> Track:
        return _placed(track, {k.frame: evolve(k, frame=to(k.frame)) for k in track.keys if k.frame in frames})

    return _each(composition, keys, change, lambda frames: {to(frame) for frame in frames})


def keys_reversed(composition: Composition, keys: Iterable[KeyRef]) -> tuple[Composition, set[KeyRef]]:
    """Return the composition with the keys played backwards within the time that all of them take together."""
    refs = list(keys)
    if not refs:
        return composition, set()
    whole = min(ref.frame for ref in refs) + max(ref.frame for ref in refs)

    def change(track: Track, frames: set[int]) -> Track:
        run = [key for key in track.keys if key.frame in frames]
        backwards = turned(run, lambda frame: whole - frame)
        rest = evolve(track, keys=tuple(key for key in track.keys if key.frame not in frames))
        for key in backwards:
            rest = rest.with_key(key)
        return rest

    return _each(composition, refs, change, lambda frames: {whole - frame for frame in frames})


def keys_mirrored(composition: Composition, keys: Iterable[KeyRef]) -> tuple[Composition, set[KeyRef]]:
    """Return the composition where each thread's keys are followed by their mirror: A B becomes A B A."""
    refs = list(keys)
    if not refs:
        return composition, set()
    last = max(ref.frame for ref in refs)

    def change(track: Track, frames: set[int]) -> Track:
        run = [key for key in track.keys if key.frame in frames]
        backwards = turned(run, lambda frame: 2 * last - frame)
        if backwards[0].frame == last:
            track = track.with_key(evolve(run[-1], easing=backwards[0].easing, handle_out=backwards[0].handle_out))
            backwards = backwards[1:]
        for key in backwards:
            track = track.with_key(key)
        return track

    return _each(composition, refs, change, lambda frames: frames | {2 * last - frame for frame in frames})


def keys_aligned(composition: Composition, keys: Iterable[KeyRef], last: bool) -> tuple[Composition, set[KeyRef]]:
    """Return the composition where every thread's first chosen key (or ``last``) lies on the same frame.

    The earliest of the first ones, or the latest of the last ones, stays where it is; each thread moves as a whole.
    """
    threads = by_track(keys)
    if not threads:
        return composition, set()
    ends = {thread: max(frames) if last else min(frames) for thread, frames in threads.items()}
    goal = max(ends.values()) if last else min(ends.values())
    found: set[KeyRef] = set()
    for (layer_id, name), frames in threads.items():
        refs = frozenset(KeyRef(layer_id, name, frame) for frame in frames)
        composition, landed = keys_moved(composition, refs, goal - ends[layer_id, name], False)
        found |= landed
    return composition, found


def gap_closed(composition: Composition, keys: Iterable[KeyRef]) -> Composition:
    """Return the composition without the keys; later keys of each thread move up to where the first of them was."""
    for (layer_id, name), frames in by_track(keys).items():
        layer = composition.layer(layer_id)
        if layer.locked:
            continue
        track = layer.track(name)
        later = [key.frame for key in track.keys if key.frame > max(frames) and key.frame not in frames]
        track = track.without_keys(frames)
        if later:
            track = track.moved({key.frame for key in track.keys if key.frame >= later[0]}, min(frames) - later[0])
        composition = composition.with_layer(layer.with_track(name, track))
    return composition
