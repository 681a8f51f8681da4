"""A sound that is cut off where the loop begins anew, so that it clicks."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from spiralis.core.checks.findings import Cause
from spiralis.core.checks.seam.case import JUMP, Case, Finder, register_finder, said
from spiralis.core.sound.mixing import alone_of
from spiralis.core.sound.reading import RATE

#: So many seconds are listened to before the seam and after it.
_LOOK = 0.1
#: Less than this part of the loudest there can be is no click, nor what is less than so many times the largest step
#: from one sample to the next around it.
_LEAST, _STEPS = 0.02, 2.0


def _find(case: Case) -> Iterator[Cause]:
    for layer in case.piece.layers:
        if layer.reference:
            continue
        seconds = min(_LOOK, case.length / float(case.piece.rate) / 2)
        count, frames = round(seconds * RATE), seconds * float(case.piece.rate)
        heard = [alone_of(case.project, case.piece, layer, first, count) for first in (case.end - frames, case.begin)]
        before, after = (np.zeros((count, 2)) if samples is None else samples for samples in heard)
        size = float(np.abs(after[0] - before[-1]).max())
        steps = max(float(np.abs(np.diff(samples, axis=0)).max(initial=0.0)) for samples in (before, after))
        if size > max(_LEAST, _STEPS * steps):
            sentence = (
                f"{layer.name}: its sound is cut off where the loop begins anew and jumps by {said(100 * size, '%')}, "
                "which is heard as a click."
            )
            mends = ("fade-sound",) if layer.has("fades") else ()
            yield Cause("sound-jump", JUMP, case.piece.id, layer.id, "volume", 100 * size, "%", sentence, mends)


register_finder(Finder("sound-jump", "Sounds that are cut off", _find, order=190))
