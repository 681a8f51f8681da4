"""An alpha matte solved where it is not known, by the colours around it; and drawn larger along a larger picture.

Sources: Levin, Lischinski, Weiss, *A Closed-Form Solution to Natural Image Matting* (2008); He, Sun, *Fast Guided
Filter* (2015) where there is too much to solve.
"""

from __future__ import annotations

from itertools import count
from typing import Any

import cv2
import numpy as np

from spiralis.core.media.steps import Stops, go_on, never, part_of

_EPSILON = 1e-5
_MOST_UNKNOWN = 250_000
_TURNS = 1500
#: So many windows make equations together.
_WINDOWS = 60_000
#: Up to so many unknown pixels a guided filter begins the search.
_COARSE = 12_000
#: So many rows of a picture are worked on together.
_ROWS = 256


def solved(rgb: np.ndarray, known: np.ndarray, stops: Stops = never) -> np.ndarray:
    """Return float32 (h, w): a matte solved where it is not known (NaN), by the closed form.

    What is solved at half the size is where the search begins; where there is too much to solve, it is the matte,
    enlarged along the picture.

    Args:
        rgb: uint8 (h, w, 3).
        known: float32 (h, w), 0 to 1 or NaN.
        stops: told how much is done.
    """
    unknown = np.isnan(known)
    if not unknown.any():
        return known
    if min(rgb.shape[:2]) < 3:
        return np.where(unknown, np.float32(0.5), known)
    many = int(unknown.sum())
    if many > _COARSE and min(rgb.shape[:2]) > 32:
        small, less = _halved(rgb, known)
        begun = enlarged(small, solved(small, less, part_of(stops, 0, 0.3)), rgb)
        if many > _MOST_UNKNOWN:
            return np.where(unknown, begun, known)
    else:
        begun = np.clip(_guided(rgb.astype(np.float32) / 255, np.where(unknown, np.float32(0.5), known), 8), 0, 1)
    return _searched(rgb, known, begun, part_of(stops, 0.3, 1))


def _halved(rgb: np.ndarray, known: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """Return a picture and what is known of its matte at half the size; what is known in part is not known."""
    size = (-(-rgb.shape[1] // 2), -(-rgb.shape[0] // 2))
    small = np.asarray(cv2.resize(rgb, size, interpolation=cv2.INTER_AREA))
    # NaN in any of the pixels makes a mean of them NaN.
    return small, np.asarray(cv2.resize(known, size, interpolation=cv2.INTER_AREA))


def _searched(rgb: np.ndarray, known: np.ndarray, begun: np.ndarray, stops: Stops) -> np.ndarray:
    """Return the matte by conjugate gradients from where they begin."""
    # Every start would load it for what is done now and then.
    from scipy import sparse
    from scipy.sparse.linalg import cg

    unknown = np.isnan(known)
    matrix, right = _equations(rgb, known, unknown)
    go_on(stops, 0.3)
    diagonal = np.maximum(matrix.diagonal(), 1e-9)
    turns = count(1)

    def ask(_: np.ndarray) -> None:
        go_on(stops, 0.3 + 0.7 * next(turns) / _TURNS)

    start = begun[unknown].astype(np.float64)
    found, _ = cg(matrix, right, x0=start, rtol=1e-5, maxiter=_TURNS, M=sparse.diags(1 / diagonal), callback=ask)
    made = known.copy()
    made[unknown] = np.clip(found, 0, 1)
    return made


def _equations(rgb: np.ndarray, known: np.ndarray, unknown: np.ndarray) -> tuple[Any, np.ndarray]:
    """Return the matting Laplacian between unknown pixels, sparse (n, n), and what the known ones add, (n,).

    All windows of 3 by 3 pixels that touch the unknown count (Levin et al., eq. 12).
    """
    from scipy import sparse

    width = unknown.shape[1]
    number = np.full(unknown.size, -1, dtype=np.int32)
    total = int(unknown.sum())
    number[unknown.reshape(-1)] = np.arange(total, dtype=np.int32)
    near = cv2.dilate(unknown.astype(np.uint8), np.ones((3, 3), np.uint8))
    centres = np.flatnonzero(np.pad(near[1:-1, 1:-1], 1))
    steps = np.array([y * width + x for y in (-1, 0, 1) for x in (-1, 0, 1)])
    right = np.zeros(total)
    held = np.where(unknown, 0, known).reshape(-1).astype(np.float64)
    matrix = sparse.csr_matrix((total, total))
    for first in range(0, len(centres), _WINDOWS):
        index = centres[first : first + _WINDOWS, None] + steps
        values = np.eye(9) - _affinities(rgb.reshape(-1, 3)[index] / 255.0)
        rows, columns = np.broadcast_arrays(number[index][:, :, None], number[index][:, None, :])
        free = (rows >= 0) & (columns >= 0)
        right -= np.bincount(
            rows[:, :, 0][rows[:, :, 0] >= 0],
            (values * held[index][:, None, :]).sum(axis=2)[rows[:, :, 0] >= 0], total,
        )  # fmt: skip
        part = sparse.coo_matrix((values[free], (rows[free], columns[free])), shape=(total, total))
        matrix = matrix + part.tocsr()
    return matrix + 1e-8 * sparse.identity(total, format="csr"), right


def _affinities(window: np.ndarray) -> np.ndarray:
    """Return (n, 9, 9): how alike the pixels of windows are, their colours (n, 9, 3) from 0 to 1."""
    offset = window - window.mean(axis=1, keepdims=True)
    covariance = offset.transpose(0, 2, 1) @ offset / 9
    inverse = np.linalg.inv(covariance + _EPSILON / 9 * np.eye(3))
    return np.asarray((1 + offset @ inverse @ offset.transpose(0, 2, 1)) / 9)


def _coefficients(guide: np.ndarray, values: np.ndarray, radius: int) -> tuple[np.ndarray, np.ndarray]:
    """Return the means of the linear models of the guided filter for a colour guide: a (h, w, 3) and b (h, w)."""
    box = (2 * radius + 1, 2 * radius + 1)

    def mean(picture: np.ndarray) -> np.ndarray:
        return np.asarray(cv2.blur(picture, box))

    average, target = mean(guide), mean(values)
    covariance = mean(guide * values[..., None]) - average * target[..., None]
    spread = {
        (i, j): mean(guide[..., i] * guide[..., j]) - average[..., i] * average[..., j] + (1e-4 if i == j else 0.0)
        for i in range(3) for j in range(i, 3)
    }  # fmt: skip
    a = _divided(covariance, spread)
    b = target - (a * average).sum(axis=-1)
    return mean(a.astype(np.float32)), mean(b.astype(np.float32))


def _divided(values: np.ndarray, by: dict[tuple[int, int], np.ndarray]) -> np.ndarray:
    """Return (h, w, 3) divided by symmetric matrices, given by their upper halves, pixel by pixel (Cramer's rule)."""
    xx, xy, xz, yy, yz, zz = (by[place].astype(np.float64) for place in sorted(by))
    first, second, third = yy * zz - yz * yz, xz * yz - xy * zz, xy * yz - xz * yy
    fourth, fifth, sixth = xx * zz - xz * xz, xy * xz - xx * yz, xx * yy - xy * xy
    over = 1 / (xx * first + xy * second + xz * third)
    x, y, z = (values[..., channel] for channel in range(3))
    rows = ((first, second, third), (second, fourth, fifth), (third, fifth, sixth))
    return np.stack([(a * x + b * y + c * z) * over for a, b, c in rows], axis=-1).astype(np.float32)


def _guided(guide: np.ndarray, values: np.ndarray, radius: int) -> np.ndarray:
    a, b = _coefficients(guide, values, radius)
    return (a * guide).sum(axis=-1) + b


def enlarged(small: np.ndarray, alpha: np.ndarray, rgb: np.ndarray, stops: Stops = never) -> np.ndarray:
    """Return float32 (h, w): a matte at the size of a whole picture, its edge drawn by the picture itself.

    Args:
        small: uint8 (m, n, 3), the picture that the matte was solved on.
        alpha: float32 (m, n), its matte.
        rgb: uint8 (h, w, 3) or (h, w, 4), the whole picture; read some rows at a time.
    """
    a, b = _coefficients(small.astype(np.float32) / 255, alpha, 2)
    # The models and the matte itself as one picture, so that they are enlarged together.
    models = np.concatenate([a, b[..., None], alpha[..., None]], axis=-1).astype(np.float32)
    height = rgb.shape[0]
    made = np.empty(rgb.shape[:2], dtype=np.float32)
    for top in range(0, height, _ROWS):
        go_on(stops, top / height)
        rows = slice(top, min(top + _ROWS, height))
        part = _rows_of(models, rows, rgb.shape[:2])
        flat = part[..., 4]
        found = np.einsum("yxc,yxc->yx", part[..., :3], rgb[rows, :, :3].astype(np.float32)) / 255 + part[..., 3]
        # What is sure stays so.
        made[rows] = np.where((flat <= 0) | (flat >= 1), flat, np.clip(found, 0, 1))
    return made


def _rows_of(small: np.ndarray, rows: slice, size: tuple[int, int]) -> np.ndarray:
    """Return some rows of a picture enlarged bilinearly to a height and width, without the others."""
    height, width = size
    at = np.clip((np.arange(rows.start, rows.stop) + 0.5) * small.shape[0] / height - 0.5, 0, small.shape[0] - 1)
    above = np.floor(at).astype(int)
    below = np.minimum(above + 1, small.shape[0] - 1)
    share = (at - above).astype(np.float32)[:, None, None]
    between = small[above] + (small[below] - small[above]) * share
    # cv2 enlarges up to four channels at once.
    across = [
        cv2.resize(between[..., first : first + 4], (width, len(at)), interpolation=cv2.INTER_LINEAR)
        for first in range(0, small.shape[2], 4)
    ]
    return np.concatenate([part if part.ndim == 3 else part[..., None] for part in across], axis=-1)
