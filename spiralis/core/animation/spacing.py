"""How fast a property moves: its change from frame to frame, and where along its way each frame falls."""

from __future__ import annotations

import numpy as np

from spiralis.core.animation.tracks import evaluate
from spiralis.core.model.parameter import Parameter
from spiralis.core.model.track import Track


def speeds(track: Track, parameter: Parameter, frames: np.ndarray) -> np.ndarray:
    """Return the change per frame at frames (n,), by central differences over a tenth of a frame.

    Pairs and colours give the length of the change, single numbers its signed size.
    """
    step = 0.05
    change = (evaluate(track, parameter, frames + step) - evaluate(track, parameter, frames - step)) / (2 * step)
    return change[:, 0] if change.shape[1] == 1 else np.linalg.norm(change, axis=1)


def spacing(track: Track, parameter: Parameter, first: int, last: int) -> np.ndarray:
    """Return, for each frame first..last, the share of the way travelled so far, 0 to 1, shape (n,).

    A thread that does not move at all gives zeros.
    """
    values = evaluate(track, parameter, np.arange(first, last + 1, dtype=np.float64))
    steps = np.linalg.norm(np.diff(values, axis=0), axis=1)
    way = np.concatenate([[0.0], np.cumsum(steps)])
    return way / way[-1] if way[-1] > 0 else way
