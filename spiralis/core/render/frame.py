"""Render one frame, to float32 or straight to what a screen or an encoder takes.

The same project, composition, frame and scale give the same bits in any thread, process or order.
"""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from spiralis.core.compositing.kernels import bands
from spiralis.core.compositing.kernels import output as output_kernels
from spiralis.core.geometry import WholeBox
from spiralis.core.model import Project
from spiralis.core.render.plan import plan_frame
from spiralis.core.render.table import FramePlan
from spiralis.core.rows import by_rows, shared_by

_NO_FLOATS = np.empty(0, dtype=np.float32)
_NO_RGBA = np.empty((0, 0, 4), dtype=np.uint8)
_NO_PLANE = np.empty((0, 0), dtype=np.uint8)
Planes = tuple[np.ndarray, np.ndarray, np.ndarray]


def render_frame(
    project: Project, composition_id: str, frame: float, scale: float = 1.0, threads: int = 1
) -> np.ndarray:
    """Return a frame as float32 (height, width, 4), premultiplied, sRGB-encoded.

    Args:
        project: the version to draw.
        composition_id: an id or a name.
        frame: a frame number; fractions are allowed, numbers outside wrap in a looping composition.
        scale: output size beside the composition's.
        threads: how many threads share the work on the frame, 1 or 2.

    Raises:
        UnknownName: no such composition.
    """
    with shared_by(threads):
        plan = plan_frame(project, composition_id, frame, scale)
        out = np.empty(plan.width * plan.height * 4, dtype=np.float32)
        _draw(plan, bands.OUT_FLOAT, out=out)
    return out.reshape(plan.height, plan.width, 4)


def render_rgba8(
    project: Project, composition_id: str, frame: float, scale: float = 1.0, threads: int = 1,
    stops: Callable[[], bool] = lambda: False,
) -> np.ndarray:  # fmt: skip
    """Return a frame as dithered uint8 (height, width, 4), premultiplied; arguments as ``render_frame``.

    Raises:
        Cancelled: ``stops()`` said so, between two layers.
    """
    with shared_by(threads):
        return rgba8_of(plan_frame(project, composition_id, frame, scale, stops))


def render_region8(
    project: Project, composition_id: str, frame: float, scale: float, region: WholeBox
) -> np.ndarray:
    """Return a region of a frame as ``render_rgba8`` does; left, top, right and bottom are in output pixels."""
    return rgba8_of(plan_frame(project, composition_id, frame, scale, region=region))


def rgba8_of(plan: FramePlan) -> np.ndarray:
    """Return what a plan draws as dithered uint8 (height, width, 4), premultiplied."""
    rgba = np.empty((plan.height, plan.width, 4), dtype=np.uint8)
    _draw(plan, bands.OUT_RGBA, rgba=rgba)
    return rgba


def render_yuv420(project: Project, composition_id: str, frame: float, scale: float = 1.0, threads: int = 1) -> Planes:
    """Return a frame as dithered BT.709 limited range Y, Cb, Cr planes over black, of even size."""
    with shared_by(threads):
        plan = plan_frame(project, composition_id, frame, scale)
        height, width = plan.height + plan.height % 2, plan.width + plan.width % 2
        luma = np.empty((height, width), dtype=np.uint8)
        cb, cr = (np.empty((height // 2, width // 2), dtype=np.uint8) for _ in range(2))
        _draw(plan, bands.OUT_YUV, planes=(luma, cb, cr))
    return luma, cb, cr


def render_straight8(
    project: Project, composition_id: str, frame: float, scale: float = 1.0, dither: bool = True
) -> np.ndarray:
    """Return a frame as uint8 (height, width, 4) with straight alpha, as picture files hold it."""
    pixels = render_frame(project, composition_id, frame, scale)
    height, width = pixels.shape[:2]
    result = np.empty((height, width, 4), dtype=np.uint8)
    output_kernels.store_rgba(pixels.reshape(-1), 0, result, 0, height, width, dither, True)
    return result


def _draw(
    plan: FramePlan,
    kind: int,
    out: np.ndarray = _NO_FLOATS,
    rgba: np.ndarray = _NO_RGBA,
    planes: Planes = (_NO_PLANE, _NO_PLANE, _NO_PLANE),
) -> None:
    def rows(first: int, last: int) -> None:
        bands.draw_bands(
            plan.operations, plan.background, plan.area, first, last, kind, out, rgba, *planes
        )

    by_rows(plan.height, rows, bands.BAND)
