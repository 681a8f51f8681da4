"""The colours of a ramp, as a table that pixels are looked up in."""

from __future__ import annotations

from functools import lru_cache

import numpy as np

from spiralis.core.colour import mix


@lru_cache(maxsize=64)
def ramp(stops: tuple[tuple[float, ...], ...], entries: int = 1024) -> np.ndarray:
    """Return the colours of a ramp, float32 (entries, 4) premultiplied; between stops mixed in OKLab."""
    ordered = np.array(sorted(stops, key=lambda stop: stop[0]), dtype=np.float64)
    places = np.linspace(0.0, 1.0, entries)
    right = np.clip(np.searchsorted(ordered[:, 0], places, side="right"), 1, len(ordered) - 1)
    low, high = ordered[right - 1], ordered[right]
    gap = high[:, 0] - low[:, 0]
    share = np.clip((places - low[:, 0]) / np.where(gap > 0, gap, 1.0), 0.0, 1.0)
    colours = mix(low[:, 1:], high[:, 1:], share)
    colours[:, :3] *= colours[:, 3:]
    table = np.ascontiguousarray(colours, dtype=np.float32)
    table.flags.writeable = False
    return table
