"""What can be heard in a sound: when something begins in it, and how loud it is."""

from __future__ import annotations

import numpy as np

from spiralis.core.sound.reading import RATE

#: Samples of a look and between two looks: 43 and 5 ms.
_LOOK, _STEP = 2048, 256
#: In so many bands of pitch it is listened, so that a hiss does not drown out a tone.
_BANDS = 24
#: What is loud is heard as soon as a look reaches it, so many seconds before its middle does.
_EARLY = 0.01
#: How much louder than its surroundings an attack is, beside the largest; what is nearer to another one, in seconds,
#: is the same one.
_ABOVE, _APART = 0.08, 0.1


def attacks(samples: np.ndarray) -> np.ndarray:
    """Return when something begins in a sound, float32 (n, 2): float64 seconds, ascending.

    Peaks of the spectral flux, the rise of loudness in bands of pitch together, that stand out of the quarter of a
    second around them (S. Dixon, *Onset Detection Revisited*, 2006).
    """
    # No start pays for it.
    from scipy import ndimage, signal

    mono = samples.mean(axis=1)
    if len(mono) < _LOOK or not mono.any():
        return np.zeros(0)
    padded = np.pad(mono, (_LOOK, _LOOK))
    pitches, _, spectra = signal.stft(padded, RATE, nperseg=_LOOK, noverlap=_LOOK - _STEP, boundary=None, padded=False)
    firsts = np.searchsorted(pitches, np.geomspace(40, 16_000, _BANDS + 1))
    power = np.add.reduceat(np.square(np.abs(spectra)), firsts, axis=0)[:-1]
    loud = np.log1p(1000 * np.sqrt(power))
    rise = np.maximum(np.diff(loud, axis=1, prepend=loud[:, :1]), 0).sum(axis=0)
    rise = ndimage.gaussian_filter1d(rise, 1.5)
    if rise.max() <= 0:
        return np.zeros(0)
    rise /= rise.max()
    around = ndimage.uniform_filter1d(rise, round(0.25 * RATE / _STEP))
    peaks, _ = signal.find_peaks(rise - around, height=_ABOVE, distance=round(_APART * RATE / _STEP))
    seconds = (peaks * _STEP - _LOOK / 2) / RATE + _EARLY
    # That it is cut off at its end is no attack.
    return np.clip(seconds[seconds < len(mono) / RATE - _LOOK / RATE], 0, None)


def loudness_of(samples: np.ndarray, edges: np.ndarray) -> np.ndarray:
    """Return how loud a sound, float32 (n, 2), is between one second of ``edges`` and the next: its root mean square,
    float64 (len(edges) - 1,)."""
    sums = np.concatenate(([0.0], np.cumsum(np.square(samples.astype(np.float64)).mean(axis=1))))
    places = np.clip(np.rint(edges * RATE), 0, len(samples)).astype(np.intp)
    counts = np.maximum(np.diff(places), 1)
    return np.sqrt(np.maximum(np.diff(sums[places]), 0) / counts)
