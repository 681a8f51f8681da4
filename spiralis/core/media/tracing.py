"""Find where an area of one picture lies in the pictures before or after it.

Where it may be is told by corners and textures followed since the picture before (B. Lucas and T. Kanade, 1981, in a
pyramid: J.-Y. Bouguet, 2000), by how it went on until then, or by a search for it. From the likeliest of these on the
new picture is laid over the first one until the two correlate best (G. Evangelidis and E. Psarakis, 2008): edges and
shades count along with corners, light may change, and errors of many pictures do not add up. What differs too much,
as something passes in front, is left out.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator

import cv2
import numpy as np
from attrs import frozen

#: How an area may move, by a shift, a turn and one scale, or as a plane seen in perspective: which of OpenCV's motions
#: are fitted in turn.
FITS = {"turn": ("AFFINE", "AFFINE"), "corners": ("AFFINE", "HOMOGRAPHY", "HOMOGRAPHY")}

#: An area is compared in a picture of so many pixels at most, with so many steps.
_COMPARED, _STEPS = 50_000, 60
#: How much, of 255 squared a pixel, light has to change along every direction for an area to be told from its
#: surroundings: more than dither does.
_HOLD = 1.0
#: What is off by more than so many levels, or so many times the middle of all, does not belong to it.
_OFF, _TIMES = 24.0, 4.0
_NARROW, _BROAD = (np.ones((side, side), dtype=np.uint8) for side in (3, 7))
#: Below which correlation, and with which share that belongs to it, it is lost; below which it is looked at anew.
_LEAST, _LEAST_SHARE, _ANEW = 0.5, 0.3, 0.9
#: By how much it may have grown or shrunk until then, and from one picture to the next.
_GROWN, _GROWS = 1.25, 1.3
#: What share of it has to lie in the picture to tell how it leans, and to be seen at all.
_WHOLE, _IN_SIGHT = 0.85, 0.4
#: A pixel of the area may stand for so many of a picture, across and down.
_COARSEST = 16.0
#: It is looked for anywhere in pictures of so many pixels.
_SMALL = 360


@frozen
class _Seen:
    """The area as it is looked for: its part of a picture, made smaller, and where in it the area lies; the map from
    the part to that picture's pixels, and from the first picture to them."""

    part: np.ndarray
    mask: np.ndarray
    place: np.ndarray
    matrix: np.ndarray


def traced(pictures: Iterable[np.ndarray], area: np.ndarray, motion: str) -> Iterator[np.ndarray]:
    """Give for each picture after the first the map from the first one into it, until the area is no longer seen.

    Args:
        pictures: grey pictures of one size as uint8 (height, width), the first being the one the area is marked in.
        area: the corners of the area in it, in pixels, float (4, 2).
        motion: how it may move, a name in ``FITS``.

    Yields:
        float64 (3, 3) matrices of homogeneous pixels. Nothing where there is too little to hold on to.
    """
    rest = iter(pictures)
    before = next(rest)
    matrix = earlier = np.eye(3)
    seen = _seen(before, area, matrix)
    if seen is None:
        return
    for pixels in rest:
        found = _found(seen, before, pixels, area, (earlier, matrix), motion)
        if found is None:
            return
        earlier, matrix, before = matrix, found[0], pixels
        yield matrix
        grown = _length(_mapped(matrix, area)) / max(_length(_mapped(seen.matrix, area)), 1e-6)
        if found[1] < _ANEW or not 1 / _GROWN < grown < _GROWN:
            # It looks otherwise by now: from here on it is looked for as it is.
            seen = _seen(pixels, _mapped(matrix, area), matrix) or seen


def _seen(pixels: np.ndarray, area: np.ndarray, matrix: np.ndarray) -> _Seen | None:
    """Return an area of a picture as it is to be looked for; None where nothing in it can be held on to."""
    height, width = pixels.shape
    left, top = np.floor(np.clip(area.min(axis=0), 0, (width, height))).astype(int)
    right, bottom = np.ceil(np.clip(area.max(axis=0), 0, (width, height))).astype(int)
    if min(right - left, bottom - top) < 4:
        return None
    scale = min(1.0, float(np.sqrt(_COMPARED / ((right - left) * (bottom - top)))))
    size = (max(round((right - left) * scale), 4), max(round((bottom - top) * scale), 4))
    across, down = (right - left) / size[0], (bottom - top) / size[1]
    # Pixels are counted by their middles.
    place = np.array([[across, 0, left + across / 2 - 0.5], [0, down, top + down / 2 - 0.5], [0, 0, 1]])
    part = cv2.resize(pixels[top:bottom, left:right], size, interpolation=cv2.INTER_AREA).astype(np.float32)
    mask = np.zeros(part.shape, dtype=np.uint8)
    cv2.fillConvexPoly(mask, np.round(_mapped(np.linalg.inv(place), area)).astype(np.int32), 1)
    return _Seen(part, mask, place, matrix) if _holds(part, mask > 0) else None


def _holds(part: np.ndarray, inside: np.ndarray) -> bool:
    """Whether light changes along every direction (C. Harris and M. Stephens, 1988)."""
    if not inside.any():
        return False
    x, y = (np.asarray(cv2.Scharr(part, cv2.CV_32F, *way, scale=1 / 32))[inside] for way in ((1, 0), (0, 1)))
    changes = np.array([[(x * x).mean(), (x * y).mean()], [(x * y).mean(), (y * y).mean()]])
    return bool(np.linalg.eigvalsh(changes)[0] > _HOLD)


def _mapped(matrix: np.ndarray, places: np.ndarray) -> np.ndarray:
    return cv2.perspectiveTransform(places.reshape(1, -1, 2).astype(np.float64), matrix)[0].astype(np.float32)


def _length(corners: np.ndarray) -> float:
    """Return the side of a square as large as what corners enclose."""
    return float(np.sqrt(cv2.contourArea(corners.astype(np.float32))))


def _found(
    seen: _Seen, before: np.ndarray, pixels: np.ndarray, area: np.ndarray, way: tuple[np.ndarray, np.ndarray],
    motion: str,
) -> tuple[np.ndarray, float] | None:  # fmt: skip
    """Return the map from the first picture into one, and how like the area is; None where it is not found.

    ``way`` holds the maps into the two pictures before.
    """
    earlier, matrix = way
    here = _mapped(matrix, area)
    on = matrix @ np.linalg.inv(earlier)
    steps = (_followed(before, pixels, here), on, np.eye(3), _jumped(before, pixels, here))
    likely = [step @ matrix for step in steps if step is not None]
    best = max(likely, key=lambda guess: _likeness(seen, _laid_back(seen, pixels, guess))[0])
    found = _aligned(seen, pixels, best, motion)
    if found is None:
        return None
    grows = _length(_mapped(found[0], area)) / max(_length(here), 1e-6)
    return found if 1 / _GROWS < grows < _GROWS else None


def _laid_back(seen: _Seen, pixels: np.ndarray, matrix: np.ndarray) -> np.ndarray:
    """Return a picture laid back over the area as it is looked for, under a map from the first picture; what lies
    beyond the picture's edge is no number."""
    into = matrix @ np.linalg.inv(seen.matrix) @ seen.place
    height, width = seen.part.shape
    own = np.array([[0, 0], [width, 0], [width, height], [0, height]])
    step = min(_length(_mapped(into, own)) / _length(own), _COARSEST)
    # What is made smaller is softened first, so that fine texture does not shimmer.
    soft = cv2.GaussianBlur(pixels, (0, 0), step / 2) if step > 1.2 else pixels
    flags = cv2.INTER_LINEAR | cv2.WARP_INVERSE_MAP
    level = np.asarray(soft).astype(np.float32)
    return np.asarray(cv2.warpPerspective(level, into, (width, height), flags=flags, borderValue=(np.nan,)))


def _likeness(seen: _Seen, back: np.ndarray) -> tuple[float, np.ndarray]:
    """Return how what was laid back correlates with the area, -1 to 1, where they belong together; and where."""
    there = inside = (seen.mask > 0) & np.isfinite(back)
    if inside.sum() < 16:
        return -1.0, inside
    for _ in range(2):
        was, now = seen.part[inside], back[inside]
        spread = float(was.std()) * float(now.std())
        if spread < 1e-3:
            return -1.0, inside
        gain = float(was.std() / now.std())
        off = np.abs(seen.part - (was.mean() + gain * (back - now.mean())))
        far = (off > max(_OFF, _TIMES * float(np.median(off[inside])))).astype(np.uint8)
        # Edges that do not lie on one another yet are what tells where it is: only what is broad is something else.
        far = np.asarray(cv2.morphologyEx(cv2.morphologyEx(far, cv2.MORPH_CLOSE, _NARROW), cv2.MORPH_OPEN, _BROAD))
        near = there & (far == 0)
        if near.sum() < 16:
            return -1.0, inside
        inside = near
    was, now = seen.part[inside], back[inside]
    spread = float(was.std()) * float(now.std())
    like = float(((was - was.mean()) * (now - now.mean())).mean()) / spread if spread > 1e-3 else -1.0
    return like * (1.0 if inside.sum() > _LEAST_SHARE * seen.mask.sum() else 0.1), inside


def _aligned(seen: _Seen, pixels: np.ndarray, guess: np.ndarray, motion: str) -> tuple[np.ndarray, float] | None:
    """Return a guess made exact, and how like the area is then; None where it is not there."""
    ends = (cv2.TERM_CRITERIA_EPS | cv2.TERM_CRITERIA_COUNT, _STEPS, 1e-5)
    back = _laid_back(seen, pixels, guess)
    like, belongs = _likeness(seen, back)
    if np.isfinite(back[seen.mask > 0]).mean() < _WHOLE:
        # Some edges of what is partly out of the picture do not tell how it leans.
        motion = "turn"
    for name in FITS[motion]:
        kind, warp = getattr(cv2, f"MOTION_{name}"), np.eye(3 if name == "HOMOGRAPHY" else 2, 3, dtype=np.float32)
        try:
            _, found = cv2.findTransformECC(
                seen.part, np.nan_to_num(back), warp, kind, ends, belongs.astype(np.uint8), 3
            )
        except cv2.error:
            # It does not come together.
            continue
        step = _shape_kept(np.asarray(found, dtype=np.float64), seen.mask, motion)
        next_guess = guess @ np.linalg.inv(seen.matrix) @ seen.place @ step @ np.linalg.inv(seen.place) @ seen.matrix
        next_back = _laid_back(seen, pixels, next_guess)
        next_like, next_belongs = _likeness(seen, next_back)
        # A step that went astray is not taken.
        if next_like > like:
            guess, back, like, belongs = next_guess, next_back, next_like, next_belongs
    return (guess, like) if like > _LEAST and np.isfinite(back[seen.mask > 0]).mean() > _IN_SIGHT else None


def _shape_kept(warp: np.ndarray, mask: np.ndarray, motion: str) -> np.ndarray:
    """Return what an area went by as a whole map: the nearest turn and scale where its shape is to be kept."""
    if motion == "corners":
        return warp if len(warp) == 3 else np.vstack([warp, (0.0, 0.0, 1.0)])
    y, x = (float(places.mean()) for places in np.nonzero(mask))
    linear = warp[:, :2]
    cos, sin = (linear[0, 0] + linear[1, 1]) / 2, (linear[1, 0] - linear[0, 1]) / 2
    kept = np.array([[cos, -sin], [sin, cos]])
    middle = np.array([x, y])
    shift = linear @ middle + warp[:, 2] - kept @ middle
    return np.vstack([np.column_stack([kept, shift]), (0.0, 0.0, 1.0)])


def _followed(before: np.ndarray, pixels: np.ndarray, area: np.ndarray) -> np.ndarray | None:
    """Return how what can be told in an area went from one picture to the next, as a turn and a scale, or None.

    Places that do not come back to where they began are left out (Z. Kalal and others, 2010), and the motion is what
    most of the rest agree on (M. Fischler and R. Bolles, 1981).
    """
    mask = np.zeros(before.shape, dtype=np.uint8)
    cv2.fillConvexPoly(mask, np.round(area).astype(np.int32), 255)
    found = cv2.goodFeaturesToTrack(before, 200, 0.02, 5, mask=mask)
    if found is None or len(found) < 5:
        return None
    old = np.asarray(found, dtype=np.float32).reshape(-1, 2)
    new, well, _ = cv2.calcOpticalFlowPyrLK(before, pixels, old, old.copy(), winSize=(21, 21), maxLevel=4)
    back, also, _ = cv2.calcOpticalFlowPyrLK(pixels, before, new, old.copy(), winSize=(21, 21), maxLevel=4)
    sure = (np.hypot(*(np.asarray(back) - old).T) < 1.0) & (np.ravel(well) > 0) & (np.ravel(also) > 0)
    if sure.sum() < 5:
        return None
    pair = old[sure], np.asarray(new)[sure]
    part, _ = cv2.estimateAffinePartial2D(*pair, method=cv2.RANSAC, ransacReprojThreshold=2.0)
    return np.vstack([part, (0.0, 0.0, 1.0)]) if part is not None else None


def _jumped(before: np.ndarray, pixels: np.ndarray, area: np.ndarray) -> np.ndarray | None:
    """Return the shift by which what an area showed is likest found again anywhere (J. Lewis, 1995), or None."""
    height, width = pixels.shape
    scale = min(1.0, _SMALL / max(height, width))
    left, top = (np.clip(area.min(axis=0), 0, (width, height)) * scale).astype(int)
    right, bottom = np.ceil(np.clip(area.max(axis=0), 0, (width, height)) * scale).astype(int)
    size = (round(width * scale), round(height * scale))
    small, now = (np.asarray(cv2.resize(p, size, interpolation=cv2.INTER_AREA)) for p in (before, pixels))
    part = small[top:bottom, left:right]
    if min(part.shape) < 4:
        return None
    _, _, _, (x, y) = cv2.minMaxLoc(cv2.matchTemplate(now, part, cv2.TM_CCOEFF_NORMED))
    return np.array([[1, 0, (x - left) / scale], [0, 1, (y - top) / scale], [0, 0, 1]], dtype=np.float64)
