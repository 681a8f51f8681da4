"""Fill a hole in a picture from what surrounds it: thin ones by diffusion, others by patches of the same texture.

Sources: Wexler, Shechtman, Irani, *Space-Time Completion of Video* (2007), over a pyramid; Bertalmio et al.,
*Navier-Stokes, Fluid Dynamics, and Image and Video Inpainting* (2001), from OpenCV, for thin holes and to begin with.
"""

from __future__ import annotations

import math
from collections.abc import Sequence

import cv2
import numpy as np
from attrs import evolve

from spiralis.core.errors import ModelError
from spiralis.core.media.kernels import patching
from spiralis.core.media.matting import painted
from spiralis.core.media.steps import Stops, go_on, never, part_of
from spiralis.core.model.touching import AREA, COPY, Stroke, Touched

_RADIUS = 3
#: Holes that reach no farther than this from their edge are filled by diffusion, in px.
_THIN = 3.0
#: The longer side that a fill is made at; the surroundings it looks at, beside the size of the hole.
_LONGEST, _AROUND = 1100, 1.2
_COARSEST = 24


def filled_behind(pixels: np.ndarray, hole: np.ndarray, stops: Stops = never) -> np.ndarray:
    """Return straight uint8 (h, w, 4): a picture with its hole (bool (h, w)) filled; the rest stays bit for bit.

    Raises:
        ModelError: the hole is all there is. Cancelled: ``stops`` said so, between steps.
    """
    if not hole.any():
        return pixels
    if hole.all():
        raise ModelError("Nothing is left around the area to fill it from; paint less of the picture.")
    area = _around(hole)
    rgb = np.ascontiguousarray(pixels[area][..., :3])
    mask = np.ascontiguousarray(hole[area])
    depth = float(cv2.distanceTransform(mask.astype(np.uint8), cv2.DIST_L2, 3).max())
    if depth <= _THIN or min(mask.shape) < 4 * _RADIUS + 4:
        made = cv2.inpaint(rgb, mask.astype(np.uint8), 3, cv2.INPAINT_NS)
    else:
        made = _by_patches(rgb, mask, stops)
    result = pixels.copy()
    part = result[area]
    part[mask, :3] = made[mask]
    part[mask, 3] = 255
    return result


def _around(hole: np.ndarray) -> tuple[slice, slice]:
    """Return the part of a picture that a hole is filled from."""
    rows, columns = np.flatnonzero(hole.any(axis=1)), np.flatnonzero(hole.any(axis=0))
    sides = (rows[-1] - rows[0] + 1, columns[-1] - columns[0] + 1)
    more = int(_AROUND * max(sides)) + 24
    return (
        slice(max(int(rows[0]) - more, 0), min(int(rows[-1]) + more + 1, hole.shape[0])),
        slice(max(int(columns[0]) - more, 0), min(int(columns[-1]) + more + 1, hole.shape[1])),
    )


def _by_patches(rgb: np.ndarray, hole: np.ndarray, stops: Stops) -> np.ndarray:
    """Return uint8 (h, w, 3) with the hole filled, from coarse to fine."""
    scale = min(_LONGEST / max(hole.shape), 1.0)
    first = _smaller(rgb, hole, scale) if scale < 1.0 else (rgb.astype(np.float32), hole)
    levels: list[tuple[np.ndarray, np.ndarray]] = [first]
    while _depth(levels[-1][1]) > 2 * _RADIUS and min(levels[-1][1].shape) > 2 * _COARSEST:
        levels.append(_smaller(*levels[-1], 0.5))
    coarse, mask = levels[-1]
    begun = cv2.inpaint(np.clip(coarse, 0, 255).astype(np.uint8), mask.astype(np.uint8), 3, cv2.INPAINT_NS)
    picture, field = begun.astype(np.float32), np.full((*mask.shape, 2), -1, dtype=np.int32)
    for number, (own, mask) in enumerate(reversed(levels)):
        size = (mask.shape[1], mask.shape[0])
        if number:
            picture = np.asarray(cv2.resize(picture, size, interpolation=cv2.INTER_LINEAR), dtype=np.float32)
            field = 2 * cv2.resize(field.astype(np.float32), size, interpolation=cv2.INTER_NEAREST).astype(np.int32)
        picture = np.ascontiguousarray(np.where(mask[..., None], picture, own), dtype=np.float32)
        # A level costs four times what the one before it did.
        rest = len(levels) - 1 - number
        share = part_of(stops, 0.8 * 0.25 ** (rest + 1) if number else 0.0, 0.8 * 0.25**rest)
        _improve(picture, mask, field, 8 if number < 2 else 4, share)
    go_on(stops, 0.8)
    picture = _without_seams(picture, mask, field)
    made = np.clip(np.round(picture), 0, 255).astype(np.uint8)
    if scale < 1.0:
        made = np.asarray(cv2.resize(made, (hole.shape[1], hole.shape[0]), interpolation=cv2.INTER_CUBIC))
    return made


def _depth(hole: np.ndarray) -> float:
    return float(cv2.distanceTransform(hole.astype(np.uint8), cv2.DIST_L2, 3).max())


def _smaller(picture: np.ndarray, hole: np.ndarray, scale: float) -> tuple[np.ndarray, np.ndarray]:
    """Return a picture and its hole made smaller; what the hole touches counts as the hole."""
    size = (max(round(hole.shape[1] * scale), 1), max(round(hole.shape[0] * scale), 1))
    weight = cv2.resize((~hole).astype(np.float32), size, interpolation=cv2.INTER_AREA)
    small = np.empty((size[1], size[0], 3), dtype=np.float32)
    for channel in range(3):
        # One after the other: a large picture is large enough as bytes.
        plane = picture[..., channel].astype(np.float32)
        plane[hole] = 0
        small[..., channel] = cv2.resize(plane, size, interpolation=cv2.INTER_AREA)
    return small / np.maximum(weight, 1e-6)[..., None], weight < 0.5


def _improve(picture: np.ndarray, hole: np.ndarray, field: np.ndarray, times: int, stops: Stops) -> None:
    """Search and mix several times, in place; ``field`` int32 (h, w, 2) keeps where patches are taken from."""
    kernel = np.ones((2 * _RADIUS + 1, 2 * _RADIUS + 1), dtype=np.uint8)
    touched = cv2.dilate(hole.astype(np.uint8), kernel) > 0
    sources = ~touched
    sources[:_RADIUS] = sources[-_RADIUS:] = False
    sources[:, :_RADIUS] = sources[:, -_RADIUS:] = False
    if not sources.any():
        return
    targets = np.argwhere(touched).astype(np.int32)
    index = np.full(hole.shape, -1, dtype=np.int32)
    index[touched] = np.arange(len(targets), dtype=np.int32)
    places, costs = np.ascontiguousarray(field[touched]), np.zeros(len(targets), dtype=np.float32)
    depth = cv2.distanceTransform(hole.astype(np.uint8), cv2.DIST_L2, 3)
    trust = np.power(1.3, -depth).astype(np.float32)
    for turn in range(times):
        go_on(stops, turn / times)
        patching.begin(picture, targets, sources, places, costs, _RADIUS, 17 + turn)
        patching.search(picture, targets, index, sources, places, costs, _RADIUS, 2, 91 + turn)
        sigma2 = np.float32(max(float(np.percentile(costs, 75)), 1.0))
        patching.mix(picture, hole, targets, places, costs, _RADIUS, trust, sigma2)
    field[touched] = places


def _without_seams(picture: np.ndarray, hole: np.ndarray, field: np.ndarray) -> np.ndarray:
    """Return a filled picture whose hole has the gradients of where its patches come from, and meets its surroundings.

    What was taken from places of another light so flows together (Perez, Gangnet, Blake, *Poisson Image Editing*,
    2003).
    """
    # Every start would load it for what is done now and then.
    from scipy import sparse
    from scipy.sparse.linalg import cg

    height, width = hole.shape
    index = np.full(hole.shape, -1, dtype=np.int64)
    index[hole] = np.arange(int(hole.sum()))
    rows, columns = np.nonzero(hole)
    own = np.arange(len(rows))
    at = field[rows, columns]
    count = np.zeros(len(rows))
    right = np.zeros((len(rows), 3))
    pairs = []
    for dy, dx in ((0, 1), (0, -1), (1, 0), (-1, 0)):
        y, x = rows + dy, columns + dx
        inside = (y >= 0) & (y < height) & (x >= 0) & (x < width)
        y, x, mine = y[inside], x[inside], own[inside]
        there = at[inside]
        step = np.array([dy, dx])
        near = _at(picture, there + step) - _at(picture, there)
        other = index[y, x]
        free = other >= 0
        # Where both come from a place, the mean of what either place says.
        far = field[y, x]
        back = _at(picture, far) - _at(picture, far - step)
        gradient = np.where((free & (far[:, 0] >= 0))[:, None], (near + back) / 2, near)
        np.add.at(count, mine, 1.0)
        np.add.at(right, mine, -gradient)
        held = ~free
        np.add.at(right, mine[held], picture[y[held], x[held]])
        pairs.append(np.stack([mine[free], other[free]]))
    links = np.concatenate(pairs, axis=1)
    size = (len(rows), len(rows))
    joins = sparse.csr_matrix((np.full(links.shape[1], -1.0), (links[0], links[1])), shape=size)
    matrix = joins + sparse.diags(count)
    made = picture.copy()
    steady = sparse.diags(1 / np.maximum(count, 1.0))
    for channel in range(3):
        start = picture[rows, columns, channel].astype(np.float64)
        found, _ = cg(matrix, right[:, channel], x0=start, rtol=1e-4, maxiter=600, M=steady)
        made[rows, columns, channel] = found
    return np.asarray(np.clip(made, 0, 255), dtype=np.float32)


def _at(picture: np.ndarray, places: np.ndarray) -> np.ndarray:
    """Return the colours at places (n, 2) of row and column, those beyond the edge taken from it."""
    y = np.clip(places[:, 0], 0, picture.shape[0] - 1)
    x = np.clip(places[:, 1], 0, picture.shape[1] - 1)
    return np.asarray(picture[y, x], dtype=np.float64)


def copied_over(pixels: np.ndarray, strokes: Sequence[Stroke], stops: Stops = never) -> np.ndarray:
    """Return straight uint8 (h, w, 4): a picture with copying strokes done in their order, each with a soft tip."""
    copying = [stroke for stroke in strokes if stroke.kind == COPY]
    if not copying:
        return pixels
    result = pixels.copy()
    for number, stroke in enumerate(copying):
        go_on(stops, number / len(copying))
        _copy(result, stroke)
    return result


def _copy(result: np.ndarray, stroke: Stroke) -> None:
    """Copy with one stroke, in place; only what its tip reaches is worked on."""
    height, width = result.shape[:2]
    soft = max(stroke.radius / 3, 0.3)
    points = np.array(stroke.points)
    far = stroke.radius + 4 * soft + 2
    left, top = np.clip(np.floor(points.min(axis=0) - far), 0, (width, height)).astype(int)
    right, bottom = np.clip(np.ceil(points.max(axis=0) + far), 0, (width, height)).astype(int)
    if right <= left or bottom <= top:
        return
    size = (int(right - left), int(bottom - top))
    moved = evolve(stroke, points=tuple((x - left, y - top) for x, y in stroke.points))
    mask = cv2.GaussianBlur(painted(size, [moved]).astype(np.float32) / 255, (0, 0), soft)
    taken = _taken(result, (left + stroke.away[0], top + stroke.away[1]), size)
    part = result[top:bottom, left:right]
    for row, other, share in zip(part, taken, mask, strict=True):
        row[:] = np.clip(np.round(row + (other.astype(np.float32) - row) * share[:, None]), 0, 255)


def _taken(pixels: np.ndarray, corner: tuple[float, float], size: tuple[int, int]) -> np.ndarray:
    """Return uint8 (h, w, 4) of a part of a picture that begins at a corner between pixels; edges go on outside."""
    x, y = math.floor(corner[0]), math.floor(corner[1])
    rows = np.clip(np.arange(y, y + size[1] + 1), 0, pixels.shape[0] - 1)
    columns = np.clip(np.arange(x, x + size[0] + 1), 0, pixels.shape[1] - 1)
    whole = np.ascontiguousarray(pixels[rows][:, columns])
    shift = np.array([[1, 0, x - corner[0]], [0, 1, y - corner[1]]], dtype=np.float64)
    return np.asarray(cv2.warpAffine(whole, shift, size, borderMode=cv2.BORDER_REPLICATE))


def filled(pixels: np.ndarray, touched: Touched, stops: Stops = never) -> np.ndarray:
    """Return straight uint8 (h, w, 4): what strokes paint is filled, then what they copy is copied over it."""
    height, width = pixels.shape[:2]
    made = filled_behind(pixels, hole_of((width, height), touched), part_of(stops, 0, 0.9))
    return copied_over(made, touched.strokes, part_of(stops, 0.9, 1))


def hole_of(size: tuple[int, int], touched: Touched) -> np.ndarray:
    """Return bool (h, w): the area that strokes paint, width and height given."""
    return painted(size, [stroke for stroke in touched.strokes if stroke.kind == AREA]) > 0
