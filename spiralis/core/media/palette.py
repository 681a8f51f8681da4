"""One palette for a whole piece, and frames drawn with it by an ordered dither that stands still."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from attrs import frozen
from PIL import Image

from spiralis.core.colour import oklab_to_srgb, srgb_to_oklab
from spiralis.core.compositing.kernels import quantising
from spiralis.core.media.leeway import masking

_BITS = 6
_SAMPLES = 250_000
_ROUNDS = 10
#: How much a colour counts by how often it is there: 1 in full, 0 not at all.
_POWER = 0.75
#: What a difference in lightness counts beside one in hue or strength, in OKLab: bands of lightness are seen first.
_LIGHTNESS = np.array([2.0, 1.0, 1.0])
#: So many neighbours of a colour are compared where a cell of the table is too coarse.
_BESIDE = 12


@frozen(eq=False)
class Palette:
    """Up to 256 colours.

    ``colours`` uint8 (n, 3); ``transparent`` is the index of the see-through entry or -1; ``lookup`` uint8
    (64 * 64 * 64,) gives the nearest colour of the six upper bits; ``spacing`` is the mean distance of a
    colour from its nearest neighbour, in levels of 255; ``beside`` int32 (n + 1, 12) lists for each colour those
    nearest to it, -1 for no more.
    """

    colours: np.ndarray
    transparent: int
    lookup: np.ndarray
    spacing: float
    beside: np.ndarray


def build(frames: Sequence[np.ndarray], colours: int, fixed: np.ndarray | None = None) -> Palette:
    """Return the palette of sampled frames, each straight uint8 (h, w, 4).

    Median cut (Pillow), settled by k-means in OKLab. A piece with fewer colours keeps them exactly; ``fixed`` ones,
    uint8 (n, 3), are in the palette in any case.
    """
    most = _SAMPLES // max(len(frames), 1)
    pixels = np.concatenate([_sampled(frame.reshape(-1, 4), frame.shape[1], most) for frame in frames])
    shares = np.concatenate([_sampled(1 / masking(frame).reshape(-1), frame.shape[1], most) for frame in frames])
    clear = pixels[:, 3] < 128
    solid = pixels[~clear, :3]
    room = colours - 1 if clear.any() else colours
    chosen = _choose(solid, shares[~clear], room) if len(solid) else np.zeros((1, 3), dtype=np.uint8)
    if fixed is not None and len(fixed):
        chosen = _with_fixed(chosen, np.unique(fixed, axis=0)[:room], room)
    transparent = len(chosen) if clear.any() else -1
    lookup = quantising.nearest_table(chosen.astype(np.float32), 1 << _BITS)
    return Palette(chosen, transparent, lookup, _spacing(chosen), _beside(chosen))


def _sampled(rows: np.ndarray, across: int, most: int) -> np.ndarray:
    """Return some of a picture's pixels (n, ...), ``across`` of which make a line; up to about ``most``."""
    step = max(1, len(rows) // max(most, 1))
    # A step that shares no factor with the width walks over all columns.
    while step > 1 and np.gcd(step, across) > 1:
        step += 1
    return rows[::step]


def _choose(solid: np.ndarray, shares: np.ndarray, room: int) -> np.ndarray:
    """Return the colours for pixels uint8 (n, 3), each of which counts by its share, float (n,)."""
    unique, of, counts = _counted(solid)
    if len(unique) <= room:
        return unique
    image = Image.fromarray(solid[None, :, :])
    quantised = image.quantize(room, method=Image.Quantize.MEDIANCUT, kmeans=0)
    start = np.array(quantised.getpalette(), dtype=np.uint8).reshape(-1, 3)[:room]
    chosen = _settled(unique, np.bincount(of, weights=shares), start)
    # Flat areas keep their exact colour: the commonest colours replace the entries nearest to them.
    for index in np.argsort(counts)[::-1][: max(2, room // 8)]:
        if counts[index] < len(solid) // 200:
            break
        distances = np.sum((chosen.astype(np.int32) - unique[index].astype(np.int32)) ** 2, axis=1)
        chosen[int(np.argmin(distances))] = unique[index]
    return np.unique(chosen, axis=0)


def _counted(pixels: np.ndarray) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Return the colours among uint8 (n, 3), in their order; which of them each pixel is; how often each is there."""
    wide = pixels.astype(np.uint32)
    numbers, of, counts = np.unique(
        wide[:, 0] << 16 | wide[:, 1] << 8 | wide[:, 2], return_inverse=True, return_counts=True
    )
    return np.stack([numbers >> 16, numbers >> 8 & 255, numbers & 255], axis=1).astype(np.uint8), of, counts


def _with_fixed(chosen: np.ndarray, fixed: np.ndarray, room: int) -> np.ndarray:
    """Return the colours with the fixed ones among them: each takes the place of the nearest where there is no room."""
    free = chosen[~(chosen[:, None] == fixed[None]).all(axis=2).any(axis=1)]
    while len(free) + len(fixed) > room:
        far = np.sum((free[:, None].astype(np.int32) - fixed[None].astype(np.int32)) ** 2, axis=2).min(axis=1)
        free = np.delete(free, int(np.argmin(far)), axis=0)
    return np.unique(np.concatenate([fixed, free]), axis=0)


def _settled(unique: np.ndarray, counts: np.ndarray, start: np.ndarray) -> np.ndarray:
    """Return palette colours uint8 (n, 3) that moved to the middles of the colours nearest to them, in OKLab.

    Lloyd's iteration (k-means) on colours weighted by a power of how often they are there, so that small things count,
    less in contrast (``counts``, float (n,)); lightness counts more than hue; an entry that nothing is near to goes to
    where the worst error is.
    """
    # Colours are put together in cells of four levels: far below what one sees, and a tenth of the work.
    cells = (unique >> 2).astype(np.int32)
    _, inverse = np.unique(cells[:, 0] << 12 | cells[:, 1] << 6 | cells[:, 2], return_inverse=True)
    shares = np.bincount(inverse, weights=counts)
    means = np.stack([np.bincount(inverse, weights=counts * unique[:, c]) for c in range(3)], axis=1) / shares[:, None]
    points, weights = srgb_to_oklab(means / 255) * _LIGHTNESS, shares**_POWER
    middles = srgb_to_oklab(start.astype(np.float64) / 255) * _LIGHTNESS
    for _ in range(_ROUNDS):
        squares = np.sum(points**2, axis=1)[:, None] - 2 * points @ middles.T + np.sum(middles**2, axis=1)[None]
        nearest = np.argmin(squares, axis=1)
        total = np.bincount(nearest, weights=weights, minlength=len(middles))
        moved = np.stack(
            [np.bincount(nearest, weights=weights * points[:, c], minlength=len(middles)) for c in range(3)], axis=1
        )
        full = total > 0
        middles[full] = moved[full] / total[full, None]
        worst = np.argsort(weights * np.take_along_axis(squares, nearest[:, None], axis=1)[:, 0])[::-1]
        for place, index in zip(np.flatnonzero(~full), worst, strict=False):
            middles[place] = points[index]
    return np.clip(np.round(oklab_to_srgb(middles / _LIGHTNESS) * 255), 0, 255).astype(np.uint8)


def _beside(colours: np.ndarray) -> np.ndarray:
    found = np.full((len(colours) + 1, _BESIDE), -1, dtype=np.int32)
    values = colours.astype(np.float32)
    squares = np.sum((values[:, None] - values[None]) ** 2 * np.array([0.3, 0.5, 0.2], np.float32), axis=2)
    np.fill_diagonal(squares, np.inf)
    count = min(_BESIDE, len(colours) - 1)
    if count > 0:
        found[:-1, :count] = np.argsort(squares, axis=1)[:, :count]
    return found


def _spacing(colours: np.ndarray) -> float:
    if len(colours) < 2:
        return 0.0
    values = colours.astype(np.float32)
    squares = np.sum((values[:, None] - values[None]) ** 2, axis=2)
    np.fill_diagonal(squares, np.inf)
    return float(np.mean(np.sqrt(squares.min(axis=1))))
