"""Fields of smooth noise over a grid of places, drawn by as many threads as the frame may take."""

from __future__ import annotations

import numpy as np

from spiralis.core.raster.kernels import noise as noise_kernels
from spiralis.core.rows import by_rows

#: So many places take longer than handing half of them to another thread, by far.
_WORTH_TWO = 20_000


def fractal_noise(
    shape: tuple[int, int], place: tuple[float, float, float, float], octaves: int, gain: float, z: float, period: int,
    seed: int,
) -> np.ndarray:  # fmt: skip
    """Return float32 (height, width) noise of about -1 to 1, as ``kernels.noise.fractal`` describes it."""
    out, where = np.empty(shape, dtype=np.float32), np.array(place)

    def fill(first: int, last: int) -> None:
        noise_kernels.fractal(out[first:last], first, where, octaves, gain, z, period, seed)

    by_rows(shape[0], fill, worth=out.size > _WORTH_TWO)
    return out
