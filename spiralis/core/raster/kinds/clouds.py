"""Clouds: smooth noise in the colours of a ramp, over the whole frame, that moves and comes back."""

from __future__ import annotations

import math
from collections.abc import Mapping

import numpy as np

from spiralis.core.cache import CacheSection
from spiralis.core.geometry import Affine, Box, intersect
from spiralis.core.model.adding import AddEntry
from spiralis.core.model.kinds import LayerKind, register_kind
from spiralis.core.model.parameter import Kind, Parameter, Value
from spiralis.core.raster.framed import framed
from spiralis.core.raster.kernels import noise as noise_kernels
from spiralis.core.raster.layer_image import LayerImage, Scene
from spiralis.core.raster.noise import fractal_noise
from spiralis.core.raster.ramps import ramp
from spiralis.core.raster.raster import Raster, clear_rim
from spiralis.core.rows import by_rows

#: Cells of time in one round of the evolution.
PERIOD = 6
_STOPS = ((0.0, 0.11, 0.10, 0.24, 1.0), (1.0, 0.87, 0.82, 0.94, 1.0))

PARAMETERS = (
    Parameter("stops", "Colours", Kind.STOPS, _STOPS, "The colours from the thinnest to the thickest"),
    Parameter("scale_px", "Cloud size", Kind.PAIR, (420.0, 420.0), "Size of the largest billows across and down", "px",
              4, 20_000),
    Parameter("detail", "Detail", Kind.NUMBER, 4.0, "How many finer layers of noise lie over the largest", "", 1, 8),
    Parameter("roughness", "Roughness", Kind.NUMBER, 50.0, "How strong each finer layer is beside the one before", "%",
              0, 100),
    Parameter("contrast", "Contrast", Kind.NUMBER, 160.0, "How far apart thick and thin are", "%", 0, 1000),
    Parameter("density", "Density", Kind.NUMBER, 50.0, "How much is thick", "%", 0, 100),
    Parameter("evolution", "Evolution", Kind.NUMBER, 0.0, "Changes the clouds; after 360° they are as they were", "°",
              period=360.0),
    Parameter("drift", "Drift", Kind.PAIR, (0.0, 0.0), "Moves the clouds", "px"),
    Parameter("seed", "Seed", Kind.NUMBER, 1.0, "Other clouds", "", 0, 100_000),
)  # fmt: skip

#: So many pixels take longer than handing half of them to another thread, by far.
_WORTH_TWO = 50_000
_noise: CacheSection[np.ndarray] = CacheSection(lambda a: a.nbytes)


def _box(values: Mapping[str, Value], scene: Scene) -> Box:
    return 0.0, 0.0, float(scene.width), float(scene.height)


def _draw(values: Mapping[str, Value], scene: Scene, matrix: Affine, clip: Box) -> LayerImage | None:
    seen, inverse = intersect(matrix.box(_box(values, scene)), clip), matrix.inverse()
    if seen is None or inverse is None:
        return None
    octaves = int(min(max(round(values["detail"]), 1), 8))
    finest = min(values["scale_px"]) / 2 ** (octaves - 1)
    # The finest billows still get about five cells, or one a pixel where they are seen smaller, though never less than
    # two; the rest is smooth, so it is enlarged as it is sampled.
    seen_small = min(1 / max(*matrix.stretch(), 1e-6), finest / 2)
    step = min(max(finest / 5, 1.0, seen_small), 12.0)
    around = inverse.box((seen[0], seen[1], seen[2], seen[3]))
    # Cells of one grid whatever is cut off, so that a part looks as the whole does.
    left, top = (step * (math.floor(low / step) - 2) for low in around[:2])
    right, bottom = around[2] + 2 * step, around[3] + 2 * step
    width, height = int((right - left) / step) + 1, int((bottom - top) / step) + 1
    sx, sy = values["scale_px"]
    dx, dy = values["drift"]
    place = (step / sx, step / sy, (left - dx) / sx, (top - dy) / sy)
    z = values["evolution"] / 360 % 1 * PERIOD
    key = (place, width, height, octaves, values["roughness"], z, values["seed"])

    def make() -> np.ndarray:
        gain, seed = values["roughness"] / 100, int(values["seed"])
        return fractal_noise((height, width), place, octaves, gain, z, PERIOD, seed)

    levels, table = _noise.get(key, make), ramp(values["stops"], 512)
    contrast, density = np.float32(values["contrast"] / 100), np.float32(values["density"] / 100)
    x = left + step * (np.arange(width) + 0.5)
    y = top + step * (np.arange(height) + 0.5)
    inside_x, inside_y = (x > -step) & (x < scene.width + step), (y > -step) & (y < scene.height + step)
    pixels = np.empty((height, width, 4), dtype=np.float32)

    def fill(first: int, last: int) -> None:
        noise_kernels.shaded(levels[first:last], first, contrast, density, table, inside_x, inside_y,
                             pixels[first:last])  # fmt: skip

    by_rows(height, fill, worth=levels.size > _WORTH_TWO)
    clear_rim(pixels)
    return framed(Raster(pixels, Affine(step, 0, 0, step, left, top)), (scene.width, scene.height), matrix, clip)


register_kind(
    LayerKind("clouds", "Clouds", "Smooth moving noise in your colours", PARAMETERS, _box, _draw, fills_frame=True,
              adds=(AddEntry("Clouds", 201, behind=True),))
)
