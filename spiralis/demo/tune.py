"""The demo's tune: plucked strings over a soft bass, as long as its piece and without a seam."""

from __future__ import annotations

import io
from fractions import Fraction
from typing import Any

import av
import numpy as np

RATE = 48_000
#: What is plucked on each eighth of the tune, in half tones above A; None rests. Twenty-four of them go round once.
_PLUCKED = (0, 7, 12, None, 4, 7, 16, 12, -3, 4, 9, None, 4, 9, 16, 9, -5, 2, 7, None, 2, 7, 14, 11)
#: Under which a bass lies, eight eighths each.
_BASS = (-24, -27, -29)


def _string(pitch: float, seconds: float, bright: float) -> np.ndarray:
    """Return a plucked string: harmonics, the higher the shorter and softer."""
    gone = np.arange(round(seconds * RATE)) / RATE
    parts = (np.exp(-gone * (2.2 + 1.5 * n)) * np.sin(2 * np.pi * pitch * n * gone) / n**bright for n in range(1, 7))
    begun = np.minimum(gone / 0.004, 1.0)
    return begun * sum(parts, np.zeros(len(gone)))


def tune(seconds: float) -> np.ndarray:
    """Return the tune, float64 (n,); what rings on at its end is heard at its beginning."""
    whole = np.zeros(round(seconds * RATE))
    step = len(whole) / len(_PLUCKED)

    def add(place: int, half_tones: int, note: np.ndarray) -> None:
        where = (round(place * step) + np.arange(len(note))) % len(whole)
        np.add.at(whole, where, note)

    for place, half_tones in enumerate(_PLUCKED):
        if half_tones is not None:
            loud = 0.2 if place % 4 == 0 else 0.12
            add(place, half_tones, loud * _string(220.0 * 2 ** (half_tones / 12), 2.0, 1.4))
    for place, half_tones in enumerate(_BASS):
        add(8 * place, half_tones, 0.25 * _string(220.0 * 2 ** (half_tones / 12), 2.5, 2.2))
    return np.asarray(whole / np.abs(whole).max() * 0.7)


def tune_file(seconds: float) -> bytes:
    """Return the tune as Opus in an Ogg file, the same bytes each time."""
    samples = tune(seconds).astype(np.float32)
    buffer = io.BytesIO()
    with av.open(buffer, "w", format="ogg", options={"fflags": "+bitexact"}) as output:
        stream: Any = output.add_stream("libopus", rate=RATE, layout="mono")
        stream.bit_rate = 64_000
        frame = av.AudioFrame.from_ndarray(samples[None], format="flt", layout="mono")
        frame.sample_rate, frame.pts, frame.time_base = RATE, 0, Fraction(1, RATE)
        output.mux(stream.encode(frame))
        output.mux(stream.encode(None))
    return buffer.getvalue()
