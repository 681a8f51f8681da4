"""Show layers in turn, one after another or in a random order that a seed decides, by keys."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from spiralis.core.animation.easing import HOLD, LINEAR
from spiralis.core.model import Composition, Key, Layer, Track

#: How one layer gives way to the next: both fade at once, as cut-out pictures need it, or the nearer of the two fades,
#: in or out, over the other one, so that nothing shines through what fills the frame.
FADES = ("both at once", "the nearer over the other")


def random_turns(count: int, first: int, last: int, least: int, most: int, seed: int) -> list[tuple[int, int]]:
    """Return (frame, which) of a random sequence over frames first to last: each stays ``least`` to ``most`` frames.

    None comes twice in a row; the sequence begins and ends with the same one, so that it loops. Philox by seed.
    """
    random = np.random.Generator(np.random.Philox(seed))
    least, most = max(1, least), max(least, most, 1)
    turns = [(first, int(random.integers(count)))]
    frame = first
    while True:
        frame += int(random.integers(least, most + 1))
        if frame > last - least:
            break
        choices = [i for i in range(count) if i != turns[-1][1]]
        turns.append((frame, int(random.choice(choices)) if choices else 0))
    opening = turns[0][1]
    if turns[-1][1] != opening and len(turns) > 1:
        last_frame = turns.pop()[0]
        if turns[-1][1] != opening:
            turns.append((last_frame, opening))
    return turns


def in_random_turn(piece: Composition, ids: Sequence[str], least: int, most: int, seed: int) -> Composition:
    """Return the composition where the layers show one at a time in random order, by hold keys on Shown.

    Raises nothing: with fewer than two free layers it comes back as it is.
    """
    layers = [layer for layer in piece.layers if layer.id in set(ids) and not layer.locked]
    if len(layers) < 2:
        return piece
    turns = random_turns(len(layers), *piece.span, least, most, seed)
    return _taking_turns(piece, layers, turns, 0, FADES[0])


def in_turn(
    piece: Composition, ids: Sequence[str], stay: float, fade: float = 0.0, how: str = FADES[0]
) -> Composition:
    """Return the composition where layers show one after another, in the order of ``ids``, until its span is over.

    Turns begin on whole frames. Without a fade they are hold keys on Shown, else keys on Opacity, between nothing and
    the most that it was; what fades does so at the beginning of each turn, and around the seam of a loop as well.

    Args:
        piece: what holds the layers.
        ids: those to show; locked ones stay as they are.
        stay: frames that each shows for, at least 1.
        fade: frames, no more than the shortest turn.
        how: one of FADES.

    Raises nothing: with fewer than two free layers it comes back as it is.
    """
    layers = [piece.layer(layer_id) for layer_id in ids if not piece.layer(layer_id).locked]
    if len(layers) < 2:
        return piece
    starts = _starts(*piece.span, max(stay, 1.0))
    turns = [(start, number % len(layers)) for number, start in enumerate(starts)]
    ends = [*starts[1:], piece.span[1]]
    fade = min(round(fade), *(end - start for start, end in zip(starts, ends, strict=True)))
    return _taking_turns(piece, layers, turns, fade, how)


def _taking_turns(
    piece: Composition, layers: Sequence[Layer], turns: Sequence[tuple[int, int]], fade: int, how: str
) -> Composition:
    """Return the composition where each of some layers shows in its turns: (frame, which)."""
    name = "opacity" if fade > 0 else "visible"
    for index, layer in enumerate(layers):
        before = layer.track(name)
        shown = max((key.value for key in before.keys), default=before.value) if fade > 0 else True
        fades = [how == FADES[0] or piece.place_of[layer.id] < piece.place_of[other.id] for other in layers]
        keys = _turn_keys(turns, index, fades, shown, fade, piece.loop)
        piece = piece.with_layer(layer.with_track(name, Track(keys[0].value, keys)))
    return piece


def _starts(first: int, last: int, stay: float) -> list[int]:
    """Return the frames from ``first`` on, before ``last``, at which turns begin; the last one ends with the span."""
    count = max(round((last - first) / stay), 1)
    return [first + round(number * stay) for number in range(count) if first + round(number * stay) < last]


def _turn_keys(
    turns: Sequence[tuple[int, int]], index: int, fades: Sequence[bool], shown: object, fade: int, round_: bool
) -> tuple[Key, ...]:
    """Return the keys of one layer: ``fades`` tells beside which others it does."""
    hidden = 0.0 if fade > 0 else False
    first, opening = turns[0]
    keys = {first: Key(first, shown if index == opening else hidden, HOLD)}
    previous = turns[-1][1] if round_ else opening
    for start, who in turns:
        if who != previous and index in (who, previous):
            before, after, other = (hidden, shown, previous) if index == who else (shown, hidden, who)
            if fade > 0 and fades[other]:
                keys[start] = Key(start, before, LINEAR)
                keys[start + fade] = Key(start + fade, after, HOLD)
            else:
                # What goes beneath another one stays until that one is there.
                till = start + fade if index == previous else start
                keys[start] = Key(start, shown, HOLD)
                keys[till] = Key(till, after, HOLD)
        previous = who
    return tuple(keys[frame] for frame in sorted(keys))
