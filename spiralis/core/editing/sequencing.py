"""Show layers in turn, in a random order that a seed decides, by hold keys."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from spiralis.core.animation.easing import HOLD
from spiralis.core.model import Composition, Key, Track


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
    first, last = piece.span
    turns = random_turns(len(layers), first, last, least, most, seed)
    for index, layer in enumerate(layers):
        keys = [Key(first, turns[0][1] == index, HOLD)]
        for frame, which in turns[1:]:
            if (which == index) != keys[-1].value:
                keys.append(Key(frame, which == index, HOLD))
        piece = piece.with_layer(layer.with_track("visible", Track(keys[0].value, tuple(keys))))
    return piece
