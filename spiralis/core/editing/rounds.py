"""Write the rounds of a thread that repeats as keys, as far as a frame, with nothing changed in sight."""

from __future__ import annotations

import math
from collections.abc import Iterable

import numpy as np
from attrs import evolve

from spiralis.core.animation.easing import HOLD, LINEAR, Steps
from spiralis.core.animation.tracks import value_at
from spiralis.core.editing.cutting import with_key_kept
from spiralis.core.model import Key, Kind, Parameter, Track, Value
from spiralis.core.model.track import Extend, Rule, turned

#: More keys than this are not written.
_MOST = 1000
_REPEATING = (Rule.REPEAT, Rule.PING_PONG, Rule.ACCUMULATE)


def with_rounds_written(track: Track, parameter: Parameter, frame: int) -> Track:
    """Return the track with whole rounds as keys, so that a frame on which it repeats lies between two of its keys.

    Values on whole frames are as before, further rounds among them: what is repeated is several rounds now. Where
    that cannot be (a limit holds values back, both ends follow different rules) the track is returned as it is.
    """
    keys = track.keys
    if len(keys) < 2 or keys[0].frame <= frame < keys[-1].frame:
        return track
    earlier = frame < keys[0].frame
    extend, other = (track.before, track.after) if earlier else (track.after, track.before)
    if extend.rule not in _REPEATING or not (other.rule not in _REPEATING or other == Extend(extend.rule)):
        return track
    length = keys[-1].frame - keys[0].frame
    far = (frame - keys[0].frame) // length
    if extend.count:
        if other.rule in _REPEATING or abs(far) > extend.count:
            return track
        far = int(math.copysign(extend.count, far))
    if (abs(far) + 1) * len(keys) > _MOST:
        return track
    numbers = range(far, 1) if earlier else range(far + 1)
    holds = all(key.easing == HOLD for key in keys[:-1])
    mixed = (parameter.numeric or parameter.kind is Kind.ART) and not holds
    written = _mixed(track, parameter, extend.rule, numbers) if mixed else _switched(track, parameter, numbers)
    if written is None:
        return track
    made = evolve(track, keys=written)
    if extend.count:
        made = evolve(made, before=Extend()) if earlier else evolve(made, after=Extend())
    return made


def _mixed(track: Track, parameter: Parameter, rule: Rule, numbers: Iterable[int]) -> tuple[Key, ...] | None:
    """Return the keys of rounds between whose keys values are mixed; None where a limit is in the way, a step whose
    turned round jumps a frame earlier, or colours that grow."""
    first, last = track.keys[0], track.keys[-1]
    if rule is Rule.PING_PONG and any(isinstance(key.easing, Steps) for key in track.keys[:-1]):
        return None
    length = last.frame - first.frame
    grows = parameter.numeric and (rule is Rule.ACCUMULATE or _goes_round(parameter, first, last))
    if grows and parameter.kind is Kind.COLOUR and first.value != last.value:
        return None  # Two colours with something added do not give what they gave with that added.
    rounds = []
    for number in numbers:
        run = list(track.keys)
        if rule is Rule.PING_PONG and number % 2:
            run = turned(run, lambda frame: first.frame + last.frame - frame)
        if grows:
            rise = parameter.to_array(last.value) - parameter.to_array(first.value)
            run = [evolve(key, value=_risen(parameter, key, number * rise)) for key in run]
            if any(key.value is None for key in run):
                return None
        rounds.append([evolve(key, frame=key.frame + number * length) for key in run])
    written = rounds[0]
    for onward in rounds[1:]:
        *before, end = written
        start = evolve(onward[0], handle_in=end.handle_in)
        if end.value != start.value:
            # A round that does not end as it begins shows its end up to the last frame before the next one.
            before, start = _held_to_the_end(parameter, written), evolve(start, handle_in=None)
        written = [*before, start, *onward[1:]]
    return tuple(written)


def _goes_round(parameter: Parameter, first: Key, last: Key) -> bool:
    """Whether a round ends as it begins but for whole turns, say, which are lost at its end."""
    if parameter.period is None or first.value == last.value:
        return False
    return bool(np.abs(parameter.apart(first.value, last.value)).max() < 1e-9)


def _risen(parameter: Parameter, key: Key, by: np.ndarray) -> Value:
    wanted = parameter.to_array(key.value) + by
    value = parameter.from_array(wanted)
    return value if np.array_equal(parameter.to_array(value), wanted) else None


def _held_to_the_end(parameter: Parameter, keys: list[Key]) -> list[Key]:
    edge = keys[-1].frame - 1
    cut = with_key_kept(Track(keys[0].value, tuple(keys)), parameter, edge)
    return [evolve(key, easing=HOLD, handle_out=None) if key.frame == edge else key for key in cut.keys[:-1]]


def _switched(track: Track, parameter: Parameter, numbers: range) -> tuple[Key, ...]:
    """Return the keys of rounds of what holds from key to key: one wherever it shows something else."""
    first, last = track.keys[0].frame, track.keys[-1].frame
    easing = HOLD if parameter.numeric else LINEAR
    start, end = (first + number * (last - first) for number in (numbers[0], numbers[-1] + 1))
    written = [Key(start, value_at(track, parameter, start), easing)]
    for frame in range(start + 1, end):
        value = value_at(track, parameter, frame)
        if value != written[-1].value:
            written.append(Key(frame, value, easing))
    return (*written, Key(end, _last_value(track, parameter, end), easing))


def _last_value(track: Track, parameter: Parameter, end: int) -> Value:
    """Return the value of the last key of the last round: where that is followed by its beginning, its own."""
    last = track.keys[-1]
    return last.value if end == last.frame or track.after == Extend(Rule.REPEAT) else value_at(track, parameter, end)
