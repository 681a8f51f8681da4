"""Spread layers in time and make repeats differ: stagger, vary, settle."""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np
from attrs import evolve, frozen

from spiralis.core.animation.easing import CubicBezier
from spiralis.core.editing.edits import moved_in_time
from spiralis.core.editing.keys import KeyRef, by_track, keys_moved
from spiralis.core.editing.looping import still_round
from spiralis.core.model import Composition, Key, Parameter, Track
from spiralis.core.render.layers import Evaluated

AS_GIVEN = "as given"
ORDERS = ("top down", "bottom up", "from the centre", "random")


def stagger_order(count: int, order: str, seed: int = 1) -> list[float]:
    """Return how many steps late each of ``count`` layers (front to back) comes.

    From the centre both neighbours of the middle come together; random orders come from Philox by seed.
    """
    places = list(range(count))
    if order == "bottom up":
        return [float(count - 1 - place) for place in places]
    if order == "from the centre":
        middle = (count - 1) / 2
        return [math.floor(abs(place - middle)) for place in places]
    if order == "random":
        return [float(v) for v in np.random.Generator(np.random.Philox(seed)).permutation(count)]
    return [float(place) for place in places]


#: Orders by where layers stand: their names, and what they are sorted by from (x, y) and the middle of all of them.
PLACE_ORDERS = ("left to right", "right to left", "downwards", "upwards", "outwards")


def ordered_by_place(at: Evaluated, ids: Sequence[str], order: str) -> list[str]:
    """Return layers in one of PLACE_ORDERS, by the middles of what is seen of them at a moment; ties as listed."""
    spots = {}
    for layer in at.composition.layers:
        if layer.id in set(ids):
            left, top, right, bottom = at.matrix(layer).box(at.box(layer))
            spots[layer.id] = ((left + right) / 2, (top + bottom) / 2)
    middle = [sum(spot[axis] for spot in spots.values()) / max(len(spots), 1) for axis in (0, 1)]

    def rank(layer_id: str) -> float:
        x, y = spots[layer_id]
        return {
            "left to right": x, "right to left": -x, "downwards": y, "upwards": -y,
        }.get(order, math.hypot(x - middle[0], y - middle[1]))  # fmt: skip

    return sorted(spots, key=rank)


def ordered(at: Evaluated, ids: Sequence[str], order: str, seed: int = 1) -> list[str]:
    """Return layers in one of ORDERS, as they lie from the front, or of PLACE_ORDERS; ties as listed."""
    if order in PLACE_ORDERS:
        return ordered_by_place(at, ids, order)
    listed = [layer.id for layer in at.composition.layers if layer.id in set(ids)]
    late = stagger_order(len(listed), order, seed)
    return [listed[place] for place in sorted(range(len(listed)), key=lambda place: late[place])]


def staggered(
    composition: Composition, ids: Sequence[str], step: float, order: str, seed: int = 1,
    keys: frozenset[KeyRef] = frozenset(),
) -> tuple[Composition, set[KeyRef]]:  # fmt: skip
    """Return the composition with layers one after another by ``step`` frames, and the chosen keys where they are now.

    With ``keys`` only those move; else each layer moves in time as a whole, span and keys. A thread all of whose keys
    move, and which closed the loop, still does. In the order ``as given`` they come as ``ids`` name them, else as they
    lie from the front.
    """
    layers = [layer for layer in composition.layers if layer.id in set(ids)]
    if order == AS_GIVEN:
        layers = [composition.layer(layer_id) for layer_id in ids]
    found: set[KeyRef] = set()
    for layer, late in zip(layers, stagger_order(len(layers), order, seed), strict=True):
        by = round(late * step)
        own = frozenset(ref for ref in keys if ref.layer == layer.id)
        if own:
            moved, landed = keys_moved(composition, own, by, False)
            composition = _still_round(composition, moved, own)
            found |= landed
        elif not keys and by and not layer.locked:
            composition = composition.with_layer(moved_in_time(layer, by))
    return composition, found


def _still_round(before: Composition, after: Composition, keys: frozenset[KeyRef]) -> Composition:
    for (layer_id, name), frames in by_track(keys).items():
        layer, was = after.layer(layer_id), before.layer(layer_id).track(name)
        if len(frames) == len(was.keys):
            track = still_round(before, was, layer.track(name), layer.parameter(name))
            after = after.with_layer(layer.with_track(name, track))
    return after


@frozen
class Variation:
    """How far repeats may differ: frames, percent of each value's change, percent points of softness."""

    frames: float = 2.0
    value: float = 8.0
    softness: float = 12.0
    seed: int = 1


def varied(composition: Composition, keys: frozenset[KeyRef], variation: Variation) -> tuple[Composition, set[KeyRef]]:
    """Return the composition with small seeded differences in time, value and softness, and where the keys are now.

    Keys on the first and last frame of composition and play span stay where they are, so that a loop stays closed, and
    a thread's first and last chosen keys keep their values. The numbers of a key come from Philox by seed, layer and
    its place.
    """
    found: set[KeyRef] = set()
    ends = (0, composition.length, *composition.span)
    ids = [layer.id for layer in composition.layers]
    for (layer_id, name), frames in sorted(by_track(keys).items()):
        layer = composition.layer(layer_id)
        if layer.locked:
            found |= {KeyRef(layer_id, name, frame) for frame in frames}
            continue
        names = [parameter.name for parameter in layer.parameters]
        place = ids.index(layer_id) * 1000 + names.index(name)
        random = np.random.Generator(np.random.Philox(key=[variation.seed, place]))
        parameter = layer.parameter(name)
        track, landed = _vary_track(layer.track(name), parameter, frames, variation, random, ends)
        found |= {KeyRef(layer_id, name, frame) for frame in landed}
        composition = composition.with_layer(layer.with_track(name, track))
    return composition, found


def _vary_track(
    track: Track, parameter: Parameter, frames: set[int], by: Variation, random: np.random.Generator,
    ends: tuple[int, ...],
) -> tuple[Track, set[int]]:
    keys = list(track.keys)
    chosen = [index for index, key in enumerate(keys) if key.frame in frames]
    landed: set[int] = set()
    for index in chosen:
        key = keys[index]
        shift, push, soft = random.uniform(-1, 1, 3)
        low = keys[index - 1].frame + 1 if index > 0 else key.frame - 10**6
        high = keys[index + 1].frame - 1 if index + 1 < len(keys) else key.frame + 10**6
        frame = key.frame
        if key.frame not in ends:
            frame = min(max(key.frame + round(shift * by.frames), low), high)
        value = key.value
        if parameter.numeric and index not in (chosen[0], chosen[-1]) and index > 0:
            before, here = parameter.to_array(keys[index - 1].value), parameter.to_array(key.value)
            if len(before) == len(here):
                value = parameter.from_array(here + push * by.value / 100 * (here - before))
        easing = key.easing
        if isinstance(easing, CubicBezier):
            change = soft * by.softness / 100
            x1, x2 = (min(max(x, 0.0), 1.0) for x in (easing.x1 + change, easing.x2 - change))
            easing = evolve(easing, x1=round(x1, 3), x2=round(x2, 3))
        keys[index] = evolve(key, frame=frame, value=value, easing=easing)
        landed.add(frame)
    return evolve(track, keys=tuple(keys)), landed


def settled(track: Track, parameter: Parameter, frame: int, amount: float, count: int, duration: int) -> Track:
    """Return the track where the value of the key on a frame is overshot and settled on in ``count`` swings.

    The first swing goes past the value by ``amount`` % of the last move; each further one is half as far and to the
    other side; they share ``duration`` frames after the key, and a last key brings the value itself. Where the next
    key comes sooner they share the frames before it, fewer of them where there is no frame for each.

    Raises nothing: a track without a key there, with none before it, or without a frame to settle in, comes back as it
    is.
    """
    index = track.index_at(frame)
    if index is None or index == 0 or not parameter.numeric or count < 1:
        return track
    before, goal = (parameter.to_array(track.keys[i].value) for i in (index - 1, index))
    if len(before) != len(goal):
        return track
    soft = CubicBezier(0.45, 0, 0.55, 1)
    base = track.keys[index]
    if index + 1 < len(track.keys):
        duration = min(duration, track.keys[index + 1].frame - frame - 1)
    if duration < 1:
        return track
    # Each swing, and the rest after them, has a frame of its own.
    count = min(count, max(duration - 1, 1))
    step = duration / (count + 1)
    made = track
    for swing in range(1, count + 1):
        reach = amount / 100 * 0.5 ** (swing - 1) * (1 if swing % 2 else -1)
        value = parameter.from_array(goal + reach * (goal - before))
        at = frame + round((swing - 1) * step)
        key = Key(at, value, soft) if swing > 1 else evolve(base, value=value, easing=soft)
        made = made.with_key(key)
    last = frame + duration
    return made.with_key(Key(last, base.value, base.easing))
