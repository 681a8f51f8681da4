"""Cut a subject out of a picture: a rough selection by graph cuts, its edge solved as an alpha matte.

Sources: Rother, Kolmogorov, Blake, *GrabCut* (2004), from OpenCV; Levin, Lischinski, Weiss, *A Closed-Form Solution to
Natural Image Matting* (2008); He, Sun, *Fast Guided Filter* (2015) where a picture is too large to solve it whole.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any

import cv2
import numpy as np
from attrs import evolve

from spiralis.core.errors import Cancelled, ModelError
from spiralis.core.model.touching import DROP, INSIDE, KEEP, SOFT, Stroke, Touched

#: The longer side at which the rough selection is made, and that at which its edge is solved, in px.
_ROUGH, _FINE = 480, 1400
#: How far from the rough edge the matte is solved, beside the longer side; by strokes farther.
_BAND = 1 / 160
_EPSILON = 1e-5
_MOST_UNKNOWN = 250_000
Stops = Callable[[], bool]


def painted(size: tuple[int, int], strokes: Sequence[Stroke], scale: float = 1.0) -> np.ndarray:
    """Return uint8 (h, w), 255 where any of the strokes touches; ``size`` is width and height."""
    mask = np.zeros((size[1], size[0]), dtype=np.uint8)
    for stroke in strokes:
        points = np.round(np.array(stroke.points) * scale * 8).astype(np.int32)
        width = max(round(2 * stroke.radius * scale), 1)
        if len(points) == 1:
            centre = (int(points[0][0]), int(points[0][1]))
            cv2.circle(mask, centre, max(round(stroke.radius * scale * 8), 4), 255, -1, cv2.LINE_8, 3)
        else:
            cv2.polylines(mask, [points[:, None, :]], False, 255, width, cv2.LINE_8, 3)
    return mask


def within(size: tuple[int, int], strokes: Sequence[Stroke], scale: float = 1.0) -> np.ndarray | None:
    """Return bool (h, w): what outlines go around, holes left out; None where there is no outline."""
    around = [np.round(np.array(s.points) * scale * 16).astype(np.int32) for s in strokes if s.kind == INSIDE]
    if not around:
        return None
    mask = np.zeros((size[1], size[0]), dtype=np.uint8)
    # Half a pixel back: the whole numbers of OpenCV are the middles of pixels.
    cv2.fillPoly(mask, [points - 8 for points in around], 1, cv2.LINE_8, 4)
    return mask.astype(bool)


def _fitted(pixels: np.ndarray, longest: int) -> tuple[np.ndarray, float]:
    height, width = pixels.shape[:2]
    scale = min(longest / max(height, width), 1.0)
    if scale == 1.0:
        return pixels, 1.0
    size = (max(round(width * scale), 1), max(round(height * scale), 1))
    return cv2.resize(pixels, size, interpolation=cv2.INTER_AREA), scale


def rough_selection(pixels: np.ndarray, touched: Touched) -> np.ndarray:
    """Return bool (h, w) at a small size: what belongs to the subject by box and strokes; (h, w, 3) uint8 pixels.

    Raises:
        ModelError: there is neither a box nor a stroke, or nothing in the picture to choose from.
    """
    small, scale = _fitted(pixels, _ROUGH)
    height, width = small.shape[:2]
    outlined = within((width, height), touched.strokes, scale)
    if outlined is not None:
        for kind, kept in ((KEEP, True), (DROP, False)):
            outlined[painted((width, height), [s for s in touched.strokes if s.kind == kind], scale) > 0] = kept
        return outlined
    marks = np.full((height, width), cv2.GC_PR_BGD, dtype=np.uint8)
    if touched.box is not None:
        left, top, right, bottom = (round(side * scale) for side in touched.box)
        marks[:] = cv2.GC_BGD
        marks[max(top, 0) : max(bottom, 0), max(left, 0) : max(right, 0)] = cv2.GC_PR_FGD
    for kind, mark in ((KEEP, cv2.GC_FGD), (DROP, cv2.GC_BGD)):
        marks[painted((width, height), [s for s in touched.strokes if s.kind == kind], scale) > 0] = mark
    has_front = np.isin(marks, (cv2.GC_FGD, cv2.GC_PR_FGD)).any()
    has_back = np.isin(marks, (cv2.GC_BGD, cv2.GC_PR_BGD)).any()
    if not has_front:
        raise ModelError("Draw a box around the subject, or strokes on what is to be kept.")
    if not has_back or min(height, width) < 8:
        return np.isin(marks, (cv2.GC_FGD, cv2.GC_PR_FGD))
    models = np.zeros((1, 65)), np.zeros((1, 65))
    cv2.setRNGSeed(1)
    try:
        cv2.grabCut(np.ascontiguousarray(small), marks, (0, 0, 1, 1), *models, 6, cv2.GC_INIT_WITH_MASK)
    except cv2.error:
        # One colour on one side: there is nothing to tell apart, and the marks are what is known.
        pass
    return np.isin(marks, (cv2.GC_FGD, cv2.GC_PR_FGD))


def cut_out_alpha(pixels: np.ndarray, touched: Touched, stops: Stops = lambda: False) -> np.ndarray:
    """Return float32 (h, w), 0 to 1: how much of each pixel is the subject.

    Args:
        pixels: straight uint8 (h, w, 4) of the picture.
        touched: box, strokes, feather and shift.
        stops: asked between steps; where it says True the work ends.

    Raises:
        ModelError: nothing says what the subject is. Cancelled: ``stops`` said so.
    """
    rgb = np.ascontiguousarray(pixels[..., :3])
    rough = rough_selection(rgb, touched)
    _go_on(stops)
    work, scale = _fitted(rgb, _FINE)
    height, width = work.shape[:2]
    inside = cv2.resize(rough.astype(np.uint8), (width, height), interpolation=cv2.INTER_LINEAR) > 0
    known = _trimap(inside, touched, scale)
    alpha = _solved(work, known, stops)
    _go_on(stops)
    if scale < 1.0:
        alpha = _enlarged(work, alpha, rgb)
    alpha = _edged(alpha, touched)
    if touched.inverted:
        alpha = 1 - alpha
    return (alpha * (pixels[..., 3].astype(np.float32) / 255)).astype(np.float32)


def _go_on(stops: Stops) -> None:
    if stops():
        raise Cancelled("The cut-out was stopped.")


def _trimap(inside: np.ndarray, touched: Touched, scale: float) -> np.ndarray:
    """Return float32 (h, w): 1 subject, 0 ground, NaN where it has to be solved."""
    height, width = inside.shape
    reach = max(round(_BAND * max(height, width)), 2)
    kernel = cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (2 * reach + 1, 2 * reach + 1))
    mask = inside.astype(np.uint8)
    sure, maybe = cv2.erode(mask, kernel), cv2.dilate(mask, kernel)
    known = np.where(sure > 0, 1.0, np.where(maybe > 0, np.nan, 0.0)).astype(np.float32)
    for kind, value in ((SOFT, np.nan), (KEEP, 1.0), (DROP, 0.0)):
        strokes = [stroke for stroke in touched.strokes if stroke.kind == kind]
        if strokes:
            known[painted((width, height), strokes, scale) > 0] = value
    return known


def _solved(rgb: np.ndarray, known: np.ndarray, stops: Stops) -> np.ndarray:
    """Return float32 (h, w): the matte where it is not known, by the closed form; a guided filter where it is too much
    to solve."""
    # Every start would load it for what is done now and then.
    from scipy import sparse
    from scipy.sparse.linalg import cg

    unknown = np.isnan(known)
    if not unknown.any():
        return known
    guess = np.where(unknown, 0.5, known).astype(np.float32)
    colour = rgb.astype(np.float32) / 255
    if min(rgb.shape[:2]) < 3 or unknown.sum() > _MOST_UNKNOWN:
        return np.clip(_guided(colour, guess, 8), 0, 1)
    laplacian = _laplacian(colour.astype(np.float64), unknown)
    _go_on(stops)
    flat = known.reshape(-1)
    free, held = np.flatnonzero(unknown), np.flatnonzero(~unknown)
    rows = laplacian[free]
    matrix = rows[:, free] + 1e-8 * sparse.identity(len(free), format="csr")
    right = -rows[:, held] @ flat[held].astype(np.float64)
    diagonal = np.maximum(matrix.diagonal(), 1e-9)
    start = np.clip(_guided(colour, guess, 8).reshape(-1)[free].astype(np.float64), 0, 1)
    found, _ = cg(matrix, right, x0=start, rtol=1e-5, maxiter=1500, M=sparse.diags(1 / diagonal))
    made = flat.copy()
    made[free] = np.clip(found, 0, 1)
    return made.reshape(known.shape)


def _laplacian(colour: np.ndarray, unknown: np.ndarray) -> Any:
    """Return the matting Laplacian of all windows of 3 by 3 pixels that touch the unknown (Levin et al., eq. 12)."""
    from scipy import sparse

    height, width = unknown.shape
    near = cv2.dilate(unknown.astype(np.uint8), np.ones((3, 3), np.uint8))
    centres = np.argwhere(near[1:-1, 1:-1] > 0) + 1
    steps = np.array([(y, x) for y in (-1, 0, 1) for x in (-1, 0, 1)])
    places = centres[:, None, :] + steps[None]
    index = places[..., 0] * width + places[..., 1]
    window = colour.reshape(-1, 3)[index]
    offset = window - window.mean(axis=1, keepdims=True)
    covariance = np.einsum("nki,nkj->nij", offset, offset) / 9
    inverse = np.linalg.inv(covariance + _EPSILON / 9 * np.eye(3))
    affinity = (1 + np.einsum("nki,nij,nlj->nkl", offset, inverse, offset)) / 9
    values = np.eye(9)[None] - affinity
    rows, columns = np.repeat(index, 9, axis=1).reshape(-1), np.tile(index, (1, 9)).reshape(-1)
    size = height * width
    return sparse.csr_matrix((values.reshape(-1), (rows, columns)), shape=(size, size))


def _coefficients(guide: np.ndarray, values: np.ndarray, radius: int) -> tuple[np.ndarray, np.ndarray]:
    """Return the means of the linear models of the guided filter for a colour guide: a (h, w, 3) and b (h, w)."""
    box = (2 * radius + 1, 2 * radius + 1)

    def mean(picture: np.ndarray) -> np.ndarray:
        return np.asarray(cv2.blur(picture, box))

    average, target = mean(guide), mean(values)
    covariance = mean(guide * values[..., None]) - average * target[..., None]
    spread = np.empty((*values.shape, 3, 3), dtype=np.float32)
    for i in range(3):
        for j in range(3):
            spread[..., i, j] = mean(guide[..., i] * guide[..., j]) - average[..., i] * average[..., j]
    a = np.linalg.solve(spread + 1e-4 * np.eye(3, dtype=np.float32), covariance[..., None])[..., 0]
    b = target - (a * average).sum(axis=-1)
    return mean(a.astype(np.float32)), mean(b.astype(np.float32))


def _guided(guide: np.ndarray, values: np.ndarray, radius: int) -> np.ndarray:
    a, b = _coefficients(guide, values, radius)
    return (a * guide).sum(axis=-1) + b


def _enlarged(small: np.ndarray, alpha: np.ndarray, rgb: np.ndarray) -> np.ndarray:
    """Return a matte at the size of the whole picture, its edge drawn by the picture itself, some rows at a time."""
    a, b = _coefficients(small.astype(np.float32) / 255, alpha, 2)
    height, width = rgb.shape[:2]
    made = np.empty((height, width), dtype=np.float32)
    flat = cv2.resize(alpha, (width, height), interpolation=cv2.INTER_LINEAR)
    a, b = (cv2.resize(each, (width, height), interpolation=cv2.INTER_LINEAR) for each in (a, b))
    for top in range(0, height, 512):
        rows = slice(top, min(top + 512, height))
        made[rows] = (a[rows] * (rgb[rows].astype(np.float32) / 255)).sum(axis=-1) + b[rows]
    # What is sure stays so.
    made = np.where((flat <= 0) | (flat >= 1), flat, np.clip(made, 0, 1))
    return made


def _edged(alpha: np.ndarray, touched: Touched) -> np.ndarray:
    """Return a matte with its edge moved and softened."""
    radius = round(abs(touched.shift))
    if radius:
        kernel = cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (2 * radius + 1, 2 * radius + 1))
        alpha = (cv2.dilate if touched.shift > 0 else cv2.erode)(alpha, kernel)
    if touched.feather > 0:
        alpha = cv2.GaussianBlur(alpha, (0, 0), touched.feather / 2)
    return np.clip(alpha, 0, 1)


def cleaned(pixels: np.ndarray, alpha: np.ndarray, share: float) -> np.ndarray:
    """Return uint8 (h, w, 3): the colours of the subject, without the old ground's at its soft edge.

    There the colour is that of the subject nearby, spread outwards by normalised convolution over growing widths.
    """
    rgb = pixels[..., :3].astype(np.float32)
    sure = (alpha > 0.97).astype(np.float32)
    if share <= 0 or not sure.any():
        return pixels[..., :3]
    soft = (alpha > 0) & (alpha <= 0.97)
    made, missing = rgb.copy(), soft.copy()
    sigma = 1.5
    while missing.any() and sigma < max(alpha.shape):
        weight = cv2.GaussianBlur(sure, (0, 0), sigma)
        total = cv2.GaussianBlur(rgb * sure[..., None], (0, 0), sigma)
        reached = missing & (weight > 1e-3)
        made[reached] = total[reached] / weight[reached][:, None]
        missing &= ~reached
        sigma *= 2
    mixed = rgb + np.float32(share) * (made - rgb)
    # As far as a pixel is the subject it keeps what it is.
    keep = alpha[..., None] ** 4
    result = np.where(soft[..., None], keep * rgb + (1 - keep) * mixed, rgb)
    return np.clip(np.round(result), 0, 255).astype(np.uint8)


def cut_out(pixels: np.ndarray, touched: Touched, stops: Stops = lambda: False) -> np.ndarray:
    """Return straight uint8 (h, w, 4): the subject with its matte; arguments and errors as ``cut_out_alpha``."""
    alpha = cut_out_alpha(pixels, touched, stops)
    made = np.empty_like(pixels)
    made[..., :3] = cleaned(pixels, alpha, touched.clean / 100)
    made[..., 3] = np.round(alpha * 255)
    made[made[..., 3] == 0] = 0
    return made


def preview_of(pixels: np.ndarray, touched: Touched, longest: int) -> tuple[np.ndarray, Touched]:
    """Return a picture made smaller and the strokes for it, to show quickly what a cut-out will be."""
    small, scale = _fitted(pixels, longest)
    strokes = tuple(
        evolve(s, radius=max(s.radius * scale, 0.5), points=tuple((x * scale, y * scale) for x, y in s.points))
        for s in touched.strokes
    )
    box = touched.box
    if box is not None:
        box = (box[0] * scale, box[1] * scale, box[2] * scale, box[3] * scale)
    return small, evolve(
        touched, box=box, strokes=strokes, feather=touched.feather * scale, shift=touched.shift * scale
    )
