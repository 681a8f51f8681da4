"""One palette for a whole piece, and frames drawn with it by an ordered dither that stands still."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from attrs import frozen
from PIL import Image

from spiralis.core.compositing.kernels import quantising

_BITS = 6
_SAMPLES = 250_000


@frozen(eq=False)
class Palette:
    """Up to 256 colours.

    ``colours`` uint8 (n, 3); ``transparent`` is the index of the see-through entry or -1; ``lookup`` uint8
    (64 * 64 * 64,) gives the nearest colour of the six upper bits; ``spacing`` is the mean distance of a
    colour from its nearest neighbour, in levels of 255.
    """

    colours: np.ndarray
    transparent: int
    lookup: np.ndarray
    spacing: float


def build(frames: Sequence[np.ndarray], colours: int) -> Palette:
    """Return the palette of sampled frames, each straight uint8 (h, w, 4).

    Median cut with k-means refinement (Pillow). A piece with fewer colours keeps them exactly.
    """
    pixels = np.concatenate([_sampled(frame, _SAMPLES // max(len(frames), 1)) for frame in frames])
    clear = pixels[:, 3] < 128
    solid = pixels[~clear, :3]
    room = colours - 1 if clear.any() else colours
    chosen = _choose(solid, room) if len(solid) else np.zeros((1, 3), dtype=np.uint8)
    transparent = len(chosen) if clear.any() else -1
    lookup = quantising.nearest_table(chosen.astype(np.float32), 1 << _BITS)
    return Palette(chosen, transparent, lookup, _spacing(chosen))


def _sampled(frame: np.ndarray, most: int) -> np.ndarray:
    flat = frame.reshape(-1, 4)
    step = max(1, len(flat) // max(most, 1))
    # A step that shares no factor with the width walks over all columns.
    while step > 1 and np.gcd(step, frame.shape[1]) > 1:
        step += 1
    return flat[::step]


def _choose(solid: np.ndarray, room: int) -> np.ndarray:
    unique, counts = np.unique(solid, axis=0, return_counts=True)
    if len(unique) <= room:
        return unique
    image = Image.fromarray(solid[None, :, :])
    quantised = image.quantize(room, method=Image.Quantize.MEDIANCUT, kmeans=2)
    chosen = np.array(quantised.getpalette(), dtype=np.uint8).reshape(-1, 3)[:room]
    # Flat areas keep their exact colour: the commonest colours replace the entries nearest to them.
    for index in np.argsort(counts)[::-1][: max(2, room // 8)]:
        if counts[index] < len(solid) // 200:
            break
        distances = np.sum((chosen.astype(np.int32) - unique[index].astype(np.int32)) ** 2, axis=1)
        chosen[int(np.argmin(distances))] = unique[index]
    return np.unique(chosen, axis=0)


def _spacing(colours: np.ndarray) -> float:
    if len(colours) < 2:
        return 0.0
    values = colours.astype(np.float32)
    squares = np.sum((values[:, None] - values[None]) ** 2, axis=2)
    np.fill_diagonal(squares, np.inf)
    return float(np.mean(np.sqrt(squares.min(axis=1))))


def index_frame(rgba: np.ndarray, palette: Palette, dither: float) -> np.ndarray:
    """Return uint8 (h, w) palette indices of a straight uint8 (h, w, 4) frame.

    ``dither`` 0..1 is the strength of an ordered dither; pixels that hit a palette colour are left alone.
    """
    out = np.empty(rgba.shape[:2], dtype=np.uint8)
    quantising.index_pixels(
        rgba, palette.colours, palette.transparent, palette.lookup, np.float32(1.6 * dither * palette.spacing), out
    )
    return out
