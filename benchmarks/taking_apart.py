"""Flat pictures taken apart: how far a matte is from the truth beside plain graph cuts, and a fill beside diffusion."""

from __future__ import annotations

import time
from collections.abc import Iterator

import cv2
import numpy as np

from benchmarks.measure import figure
from spiralis.core.media.filling import filled, filled_behind
from spiralis.core.media.matting import cut_out, cut_out_alpha, rough_selection
from spiralis.core.model.touching import AREA, CUT_OUT, FILL, Stroke, Touched
from tests.core.flat_pictures import MARKS, N, hole, subject, texture


def run() -> Iterator[str]:
    """Yield the lines."""
    for kind, touched in MARKS.items():
        pixels, truth = subject(kind)
        started = time.perf_counter()
        made = cut_out_alpha(pixels, touched)
        took = time.perf_counter() - started
        rough = rough_selection(np.ascontiguousarray(pixels[..., :3]), touched).astype(np.uint8)
        plain = cv2.resize(rough, (N, N), interpolation=cv2.INTER_NEAREST)
        error, other = (float(np.abs(each - truth).mean()) for each in (made, plain))
        told = f"mean error of alpha in %, {kind} edge ({took:.1f} s; graph cuts alone {100 * other:.2f})"
        yield figure(told, 100 * error, 2.0)
    yield from _large()
    area = hole()
    for kind in ("stripes", "bricks", "checks", "dots"):
        whole = texture(kind)
        broken = whole.copy()
        broken[area, :3] = 0
        rgb, mask = np.ascontiguousarray(broken[..., :3]), area.astype(np.uint8)
        best = min(
            float(np.abs(cv2.inpaint(rgb, mask, 5, way)[area].astype(float) - whole[area, :3]).mean())
            for way in (cv2.INPAINT_NS, cv2.INPAINT_TELEA)
        )
        error = float(np.abs(filled_behind(broken, area)[area, :3].astype(float) - whole[area, :3]).mean())
        yield figure(f"error of a fill of {kind} / the better of two by diffusion", error / best, 0.8)


def _large() -> Iterator[str]:
    """Yield what the largest pictures take, a soft edge and a filled hole a quarter as wide."""
    side, times = 8000, 8000 / N
    pixels = cv2.resize(subject("hard")[0], (side, side), interpolation=cv2.INTER_CUBIC)
    left, top, right, bottom = MARKS["hard"].box or (0, 0, 0, 0)
    cut = Touched("x", CUT_OUT, (left * times, top * times, right * times, bottom * times), feather=8.0)
    area = Stroke(AREA, side / 16, ((0.45 * side, 0.45 * side), (0.55 * side, 0.55 * side)))
    for what, work in (
        ("cut out of", lambda: cut_out(pixels, cut)),
        ("filled in", lambda: filled(pixels, Touched("x", FILL, strokes=(area,)))),
    ):
        started = time.perf_counter()
        work()
        yield figure(f"seconds till something is {what} 8000 x 8000 px", time.perf_counter() - started, 60.0)
