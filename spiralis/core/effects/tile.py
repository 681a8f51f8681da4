"""Tile: the layer again and again, side by side, for ever or in rows and columns."""

from __future__ import annotations

import math

import numpy as np

from spiralis.core.compositing.kernels import tiling
from spiralis.core.effects.job import EffectJob, anywhere, nothing_around
from spiralis.core.geometry import Affine, WholeBox, intersect_whole, rounded_out
from spiralis.core.model.blocks import BOX, EFFECT, EffectKind, register_effect
from spiralis.core.model.parameter import Kind, Parameter
from spiralis.core.raster.raster import Raster

PARAMETERS = (
    Parameter("columns", "Columns", Kind.NUMBER, 0.0, "How many stand beside each other; 0 for ever", "", 0, 1000),
    Parameter("rows", "Rows", Kind.NUMBER, 0.0, "How many stand below each other; 0 for ever", "", 0, 1000),
    Parameter("size", "Size", Kind.NUMBER, 100.0, "How large each is beside the layer", "%", 1, 1000),
    Parameter("offset", "Offset", Kind.PAIR, (0.0, 0.0), "How far all of them are moved; 100 % is a whole tile", "%",
              -1e6, 1e6),
    Parameter("stagger", "Stagger", Kind.NUMBER, 0.0, "How far each second row is moved", "%", -100, 100),
    Parameter("mirrored", "Mirrored", Kind.SWITCH, False, "Each second one is mirrored, so that edges meet"),
    Parameter("angle", "Angle", Kind.NUMBER, 0.0, "Turns the whole pattern", "°", -36_000, 36_000, period=360.0),
)  # fmt: skip

#: So many tiles stand on each side where they go on for ever, which is far beyond any canvas.
_FAR = 1e6


def _run(job: EffectJob) -> Raster:
    values, (sx, sy), (ox, oy), source = job.values, job.scale, job.origin, job.source
    left, top, right, bottom = job.box
    width, height = max(right - left, 1e-6), max(bottom - top, 1e-6)
    turn = math.radians(-values["angle"])
    cos, sin = math.cos(turn) / (values["size"] / 100), math.sin(turn) / (values["size"] / 100)
    # From the middles of pixels to units about the layer's middle, then turned and sized, then to tiles.
    mx, my = (left + right) / 2 * sx + ox, (top + bottom) / 2 * sy + oy
    a, b = cos / sx / width, -sin / sy / width
    c, d = sin / sx / height, cos / sy / height
    to_tiles = np.array([a, b, 0.5 - a * mx - b * my, c, d, 0.5 - c * mx - d * my])
    offset = [part / 100 for part in (*values["offset"], values["stagger"])]
    counts = np.array([float(round(values["columns"])), float(round(values["rows"]))])
    box = np.array([left * sx + ox - source.corner[0], top * sy + oy - source.corner[1], width * sx, height * sy])
    x0, y0, x1, y1 = _reached(to_tiles, counts, job.region)
    out = np.empty((y1 - y0, x1 - x0, 4), dtype=np.float32)
    pixels = source.as_float
    tiling.tile_pixels(pixels.reshape(-1), pixels.shape[1], pixels.shape[0], to_tiles, counts, np.array(offset),
                bool(values["mirrored"]), box, _whole(box, (sx, sy)), x0, y0, out)  # fmt: skip
    return Raster(out, source.space, (x0, y0))


def _reached(to_tiles: np.ndarray, counts: np.ndarray, region: WholeBox) -> WholeBox:
    """Return what of a region rows and columns of tiles reach, at least one pixel; what is for ever reaches far."""
    across, down = np.where(counts > 0, counts / 2, _FAR)
    to_grid = Affine(*to_tiles.reshape(2, 3).T.ravel()).inverse()
    if to_grid is None:
        return region
    reached = to_grid.box((0.5 - across, 0.5 - down, 0.5 + across, 0.5 + down))
    return intersect_whole(region, rounded_out(reached, 1.0)) or (*region[:2], region[0] + 1, region[1] + 1)


def _whole(box: np.ndarray, scale: tuple[float, float]) -> np.ndarray:
    """Return the middles of the outermost pixels that are wholly in a box (left, top, width, height), float64 (4,).

    An enlarged picture fades out over half a pixel of its own, which is ``scale`` times as large here.
    """
    fade = (np.maximum(scale, 1.0) - 1) / 2
    first = np.ceil(box[:2] + fade - 1e-6) + 0.5
    last = np.floor(box[:2] + box[2:] - fade + 1e-6) - 0.5
    # A box of less than a pixel has none: its middle stands for it.
    middle = box[:2] + box[2:] / 2
    narrow = last < first
    return np.concatenate([np.where(narrow, middle, first), np.where(narrow, middle, last)])


register_effect(
    EffectKind(
        "tile", "Tile", "The layer again and again, side by side", "Repeat", EFFECT, PARAMETERS, _run, anywhere,
        nothing_around, takes=BOX, neutral=lambda values: False,
    )
)  # fmt: skip
