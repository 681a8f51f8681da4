"""The outline of a sound: how loud it is at its loudest, piece by piece."""

from __future__ import annotations

import numpy as np

from spiralis.core.cache import CacheSection
from spiralis.core.model import Composition, Layer
from spiralis.core.model.heard import Heard
from spiralis.core.model.source import Source
from spiralis.core.sound.mixing import gone_of, loudness, places_in
from spiralis.core.sound.reading import RATE, samples_of

#: Pieces a second that are looked at.
FINE = 200
_outlines: CacheSection[np.ndarray] = CacheSection(lambda peaks: peaks.nbytes, stays=True)


def peaks_of(source: Source) -> np.ndarray:
    """Return the loudest of each 5 ms of a source, float32 (n,), 0 to 1 and more."""

    def make() -> np.ndarray:
        step = RATE // FINE
        loud = np.abs(samples_of(source)).max(axis=1)
        loud = np.pad(loud, (0, -len(loud) % step))
        return loud.reshape(-1, step).max(axis=1) if len(loud) else np.zeros(0, dtype=np.float32)

    return _outlines.get(source.digest, make)


def heights(peaks: np.ndarray, heard: Heard, piece: Composition, layer: Layer, moments: np.ndarray) -> np.ndarray:
    """Return how loud a layer is at evenly spaced moments, in frames of its composition: float64, 0 to 1 and more.

    ``peaks`` are those of its file; between two moments nothing loud is passed over.
    """
    places, inside = places_in(heard, len(peaks), FINE, gone_of(piece, layer, heard, moments))
    if not inside.any():
        return np.zeros(len(moments))
    step = float(moments[1] - moments[0]) if len(moments) > 1 else 1.0
    over = _loudest(peaks, max(round(step / float(piece.rate) * heard.speed * FINE), 1))
    found = np.zeros(len(moments))
    found[inside] = over[places[inside].astype(np.intp)]
    return found * loudness(piece, layer, moments)


def _loudest(peaks: np.ndarray, count: int) -> np.ndarray:
    """Return the loudest of each of the peaks and the ``count`` - 1 that follow it, by runs of twice the length."""
    loudest, run = peaks, 1
    while run < count:
        step = min(run, count - run)
        loudest = np.maximum(loudest, np.append(loudest[step:], np.zeros(min(step, len(loudest)), loudest.dtype)))
        run += step
    return loudest
