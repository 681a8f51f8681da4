"""Edits that close a loop: threads that end as they begin, that go round, and a piece as long as its keys."""

from __future__ import annotations

from collections.abc import Iterable

import numpy as np
from attrs import evolve

from spiralis.core.animation.tracks import value_at
from spiralis.core.editing.edits import with_length
from spiralis.core.editing.shaping import ends_as_it_begins, flatten, smooth_through
from spiralis.core.model import Composition, Extend, Key, Rule, Track, Value
from spiralis.core.model.parameter import Parameter


def going_round(track: Track, parameter: Parameter, length: int, rounds: int = 1) -> Track | None:
    """Return a thread that goes on before and after its keys so that it comes round in a loop of so many frames.

    What takes less time than the loop rests until it begins again; what takes more is of ``rounds`` rounds, each of
    which comes round by itself. None where that closes nothing: the keys end elsewhere than they begin, or do not fit.
    """
    if len(track.keys) < 2 or not ends_as_it_begins(track, parameter):
        return None
    first, last = track.keys[0], track.keys[-1]
    taken = last.frame - first.frame
    if taken < length:
        track = track.with_key(Key(first.frame + length, last.value))
    elif length * rounds % taken:
        return None
    rule = Extend(Rule.REPEAT if last.value == first.value else Rule.ACCUMULATE)
    return evolve(track, before=rule, after=rule)


def still_round(piece: Composition, before: Track, after: Track, parameter: Parameter) -> Track:
    """Return a thread whose keys moved in time, going on around the seam where they come to lie beyond it.

    That is done where the composition loops, the keys lay within it ``before``, and end as they begin.
    """
    begin, end = piece.span
    inside, moved = (all(begin <= key.frame <= end for key in track.keys) for track in (before, after))
    plain = before.before.rule is Rule.ONCE and before.after.rule is Rule.ONCE
    if not piece.loop or not plain or not inside or moved or len(before.keys) != len(after.keys):
        return after
    return going_round(after, parameter, end - begin) or after


def loop_closed(piece: Composition, threads: Iterable[tuple[str, str]], smooth: bool = False) -> Composition:
    """Return the composition where each thread ends on exactly the value it began with.

    The last key within the play span, where it lies within its last two frames, comes to lie on the frame after it
    (which *is* its first frame) with the value of the beginning; else such a key is added. Keys after the span stay.
    What looks the same after each period ends on the nearest such value: a round stays a round.
    With ``smooth`` the speed matches too: what turns back at the seam, or begins later, comes to rest there, and what
    passes it goes through with one speed.
    """
    for layer_id, name in threads:
        layer = piece.layer(layer_id)
        track = layer.track(name)
        if layer.locked or len(track.keys) < 2:
            continue
        begin, end = piece.span
        within = tuple(key for key in track.keys if key.frame <= end)
        later = tuple(key for key in track.keys if key.frame > end)
        if not within:
            continue
        first, last = within[0], within[-1]
        kept = within[:-1] if last.frame >= end - 2 else within
        parameter = layer.parameter(name)
        value = first.value if first.frame >= begin else value_at(track, parameter, begin)
        value = _nearest_round(parameter, value, last.value)
        closing = Key(end, value, first.easing, last.handle_in if last.frame >= end - 2 else None, first.handle_out)
        made = evolve(track, keys=(*kept, closing, *later))
        if smooth:
            made = _matched(made, parameter, first.frame, (begin, end))
        piece = piece.with_layer(layer.with_track(name, made))
    return piece


def _nearest_round(parameter: Parameter, value: Value, last: Value) -> Value:
    """Return the value, some periods on, that is nearest to the last one."""
    if parameter.period is None:
        return value
    here = parameter.to_array(value)
    rounds = np.round((parameter.to_array(last) - here) / parameter.period)
    return parameter.from_array(here + rounds * parameter.period)


def _matched(track: Track, parameter: Parameter, first: int, span: tuple[int, int]) -> Track:
    """Let the thread leave its first key as it comes to the span's end: along one handle in space, with one speed."""
    begin, end = (next(key for key in track.keys if key.frame == frame) for frame in (first, span[1]))
    if begin.handle_out is not None:
        track = track.with_key(evolve(end, handle_in=(-begin.handle_out[0], -begin.handle_out[1])))
    if parameter.numeric and first == span[0] and track.keys[-1].frame == span[1]:
        return smooth_through(track, parameter, first, span)
    return flatten(flatten(track, first), span[1])


def trimmed_to_loop(piece: Composition) -> Composition:
    """Return the composition as long as its latest key: the frame of that key is frame 0 again."""

    frames = [key.frame for layer in piece.layers for track in layer.properties.values() for key in track.keys]
    latest = max((frame for frame in frames if frame > 0), default=piece.length)
    return with_length(piece, min(max(latest, 1), 200_000))
