"""Cut a subject out of a picture: a rough selection by graph cuts, its edge solved as an alpha matte.

Source: Rother, Kolmogorov, Blake, *GrabCut* (2004), from OpenCV; ``closed_form`` solves the edge.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from functools import partial

import cv2
import numpy as np

from spiralis.core.errors import ModelError
from spiralis.core.media.closed_form import enlarged, solved
from spiralis.core.media.edge_colours import cleaned
from spiralis.core.media.steps import Stops, go_on, never, part_of
from spiralis.core.media.tiles import in_tiles
from spiralis.core.model.touching import DROP, INSIDE, KEEP, SOFT, Stroke, Touched
from spiralis.core.raster.blurring import reach, softened

#: The longer side at which the rough selection is made, and that at which its edge is solved, in px.
_ROUGH, _FINE = 480, 1400
#: How far from the rough edge the matte is solved, beside the longer side; by strokes farther.
_BAND = 1 / 160
#: Edges are moved by no more than this at once: what it costs grows with the square.
_AT_ONCE = 12


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
    """Return bool (h, w) at a small size: what belongs to the subject by box and strokes; uint8 pixels (h, w, 3 or 4).

    Raises:
        ModelError: there is neither a box nor a stroke, or nothing in the picture to choose from.
    """
    small, scale = _fitted(pixels, _ROUGH)
    small = np.ascontiguousarray(small[..., :3])
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
        cv2.grabCut(small, marks, (0, 0, 1, 1), *models, 6, cv2.GC_INIT_WITH_MASK)
    except cv2.error:
        # One colour on one side: there is nothing to tell apart, and the marks are what is known.
        pass
    return np.isin(marks, (cv2.GC_FGD, cv2.GC_PR_FGD))


def cut_out_alpha(pixels: np.ndarray, touched: Touched, stops: Stops = never) -> np.ndarray:
    """Return float32 (h, w), 0 to 1: how much of each pixel is the subject.

    Args:
        pixels: straight uint8 (h, w, 4) of the picture.
        touched: box, strokes, feather and shift.
        stops: told between steps how much is done; where it says True the work ends.

    Raises:
        ModelError: nothing says what the subject is. Cancelled: ``stops`` said so.
    """
    work, scale = _fitted(pixels, _FINE)
    work = np.ascontiguousarray(work[..., :3])
    rough = rough_selection(pixels, touched)
    go_on(stops, 0.05)
    height, width = work.shape[:2]
    inside = cv2.resize(rough.astype(np.uint8), (width, height), interpolation=cv2.INTER_LINEAR) > 0
    known = _trimap(inside, touched, scale)
    alpha = solved(work, known, part_of(stops, 0.05, 0.6))
    if scale < 1.0:
        alpha = enlarged(work, alpha, pixels, part_of(stops, 0.6, 0.8))
    alpha = _edged(alpha, touched, part_of(stops, 0.8, 1.0))
    if touched.inverted:
        np.subtract(1, alpha, out=alpha)
    for row, solid in zip(alpha, pixels[..., 3], strict=True):
        row *= solid * np.float32(1 / 255)
    return alpha


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


def _edged(alpha: np.ndarray, touched: Touched, stops: Stops) -> np.ndarray:
    """Return a matte with its edge moved and softened."""
    left, turns = round(abs(touched.shift)), 0
    shift = cv2.dilate if touched.shift > 0 else cv2.erode
    all_turns = -(-left // _AT_ONCE) + 1
    while left:
        radius = min(left, _AT_ONCE)
        kernel = cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (2 * radius + 1, 2 * radius + 1))
        part = part_of(stops, turns / all_turns, (turns + 1) / all_turns)
        alpha = in_tiles(alpha, radius, partial(_morphed, shift, kernel), part)
        left, turns = left - radius, turns + 1
    if touched.feather > 0:
        sigma = touched.feather / 2
        soften = partial(_softer, sigma)
        alpha = in_tiles(alpha, reach(sigma), soften, part_of(stops, turns / all_turns, 1.0))
    return np.clip(alpha, 0, 1, out=alpha)


def _morphed(
    shift: Callable[..., np.ndarray], kernel: np.ndarray, plane: np.ndarray, corner: tuple[int, int]
) -> np.ndarray:
    return shift(plane, kernel)


def _softer(sigma: float, plane: np.ndarray, corner: tuple[int, int]) -> np.ndarray:
    return softened(plane, sigma, sigma, corner, repeat=True)


def cut_out(pixels: np.ndarray, touched: Touched, stops: Stops = never) -> np.ndarray:
    """Return straight uint8 (h, w, 4): the subject with its matte; arguments and errors as ``cut_out_alpha``."""
    alpha = cut_out_alpha(pixels, touched, part_of(stops, 0, 0.8))
    made = np.empty_like(pixels)
    made[..., :3] = cleaned(pixels, alpha, touched.clean / 100, part_of(stops, 0.8, 1))
    for row, share in zip(made, alpha, strict=True):
        row[:, 3] = np.round(share * 255)
        row[row[:, 3] == 0] = 0
    return made


def preview_of(pixels: np.ndarray, touched: Touched, longest: int) -> tuple[np.ndarray, Touched]:
    """Return a picture made smaller and the strokes for it, to show quickly what a cut-out will be."""
    small, scale = _fitted(pixels, longest)
    return small, touched.scaled(scale, scale)
