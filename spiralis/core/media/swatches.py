"""Colours drawn out of a picture: the few that say most about it."""

from __future__ import annotations

import numpy as np
from PIL import Image

from spiralis.core.colour import Colour, to_oklch

_SIDE = 160


def palette_of(pixels: np.ndarray, count: int = 6) -> tuple[Colour, ...]:
    """Return up to ``count`` colours of a picture, dark to light.

    ``pixels`` are uint8 (h, w, 4) with straight alpha; what is mostly clear does not count. Pillow's median cut with
    three rounds of k-means chooses them; a colour under half a percent of the picture is left out.
    """
    step = max(1, int(max(pixels.shape[:2]) / _SIDE))
    small = pixels[::step, ::step]
    solid = small[small[..., 3] > 127][:, :3]
    if not len(solid):
        return ()
    reduced = Image.fromarray(solid[None]).quantize(count, method=Image.Quantize.MEDIANCUT, kmeans=3)
    table = np.array((reduced.getpalette() or [])[: 3 * count], dtype=np.float64).reshape(-1, 3) / 255
    counts = np.bincount(np.asarray(reduced).reshape(-1), minlength=len(table))
    kept = [tuple(row) for row, uses in zip(table.tolist(), counts, strict=False) if uses > 0.005 * len(solid)]
    colours = {(round(r, 6), round(g, 6), round(b, 6), 1.0) for r, g, b in kept}
    return tuple(sorted(colours, key=lambda colour: to_oklch(colour)[0]))
