"""Colour field: two to eight movable points whose colours flow into one another over the whole frame."""

from __future__ import annotations

from collections.abc import Mapping
from functools import lru_cache

import numpy as np

from spiralis.core.colour import oklab_to_srgb, parse_hex, srgb_to_oklab
from spiralis.core.geometry import Affine, Box
from spiralis.core.model.adding import AddEntry, Grip, Grips, Point
from spiralis.core.model.kinds import LayerKind, register_kind
from spiralis.core.model.parameter import Kind, Parameter, Value
from spiralis.core.raster.framed import framed
from spiralis.core.raster.layer_image import LayerImage, Scene
from spiralis.core.raster.raster import Raster, clear_rim

MOST = 8
#: Cells along the longer side: the field is smooth, so it is worked out coarsely and enlarged as it is sampled.
_CELLS = 160
_MARGIN = 3
_PLACES = ((18, 20), (82, 24), (24, 82), (80, 78), (50, 50), (50, 8), (6, 50), (94, 50))
_COLOURS = ("#f5b23d", "#e2506a", "#2f7f86", "#58508c", "#fcf4e4", "#7bd0c1", "#ee604c", "#241f4e")


def _points() -> tuple[Parameter, ...]:
    made = []
    for number in range(1, MOST + 1):
        needs = ("points", tuple(float(count) for count in range(number, MOST + 1)))
        place = (float(_PLACES[number - 1][0]), float(_PLACES[number - 1][1]))
        made += [
            Parameter(f"place_{number}", f"Place {number}", Kind.PAIR, place, "Where the colour sits in the frame", "%",
                      -200, 300, needs=needs),
            Parameter(f"colour_{number}", f"Colour {number}", Kind.COLOUR, parse_hex(_COLOURS[number - 1]),
                      "The colour there", needs=needs),
        ]  # fmt: skip
    return tuple(made)


PARAMETERS = (
    Parameter("points", "Points", Kind.NUMBER, 4.0, "How many colours there are", "", 2, MOST),
    Parameter("softness", "Softness", Kind.NUMBER, 50.0, "How wide each colour spreads before it meets the others", "%",
              0, 100),
    *_points(),
)  # fmt: skip


def _box(values: Mapping[str, Value], scene: Scene) -> Box:
    return 0.0, 0.0, float(scene.width), float(scene.height)


def _draw(values: Mapping[str, Value], scene: Scene, matrix: Affine, clip: Box) -> LayerImage | None:
    count = int(min(max(round(values["points"]), 2), MOST))
    points = tuple((*values[f"place_{n}"], *values[f"colour_{n}"]) for n in range(1, count + 1))
    cell = max(scene.width, scene.height) / _CELLS
    pixels = field_pixels(points, values["softness"], scene.width, scene.height)
    whole = Raster(pixels, Affine(cell, 0, 0, cell, -_MARGIN * cell, -_MARGIN * cell))
    return framed(whole, (scene.width, scene.height), matrix, clip)


def _grips(values: Mapping[str, Value], width: float, height: float) -> list[Grip]:
    count = int(min(max(round(values["points"]), 2), MOST))
    places = ((n, values[f"place_{n}"]) for n in range(1, count + 1))
    return [Grip("point", n, (width * x / 100, height * y / 100), values[f"colour_{n}"]) for n, (x, y) in places]


def _moved(
    values: Mapping[str, Value], width: float, height: float, grip: Grip, here: Point, even: bool
) -> Mapping[str, Value]:
    return {f"place_{grip.index}": (round(100 * here[0] / width, 2), round(100 * here[1] / height, 2))}


@lru_cache(maxsize=24)
def field_pixels(points: tuple[tuple[float, ...], ...], softness: float, width: int, height: int) -> np.ndarray:
    """Return float32 premultiplied cells of a field over a frame, a margin and a clear ring around it.

    Each cell mixes the colours in OKLab, weighted by inverse distance (Shepard, *A two-dimensional interpolation
    function*, 1968) to a power between 1.5 (soft) and 5 (hard). ``points`` are rows of x %, y %, red, green, blue,
    alpha.
    """
    cell = max(width, height) / _CELLS
    rows, columns = round(height / cell) + 2 * _MARGIN, round(width / cell) + 2 * _MARGIN
    y, x = np.mgrid[0:rows, 0:columns].astype(np.float64)
    x, y = (x + 0.5 - _MARGIN) * cell, (y + 0.5 - _MARGIN) * cell
    table = np.array(points)
    lab = srgb_to_oklab(table[:, 2:5])
    power = 5.0 - 3.5 * softness / 100
    distance = np.stack([np.hypot(x - px * width / 100, y - py * height / 100) for px, py in table[:, :2]])
    weight = (np.maximum(distance, 1e-6) / max(width, height)) ** -power
    weight /= weight.sum(axis=0)
    # Rounded to what float32 holds, so that solid colours stay exactly solid.
    alpha = np.round(np.tensordot(table[:, 5], weight, axes=(0, 0)), 9)
    mixed = np.tensordot(table[:, 5:6] * lab, weight, axes=(0, 0)) / np.maximum(alpha, 1e-9)
    colour = np.clip(oklab_to_srgb(np.moveaxis(mixed, 0, -1)), 0.0, 1.0)
    pixels = np.zeros((rows, columns, 4), dtype=np.float32)
    pixels[..., :3], pixels[..., 3] = colour * alpha[..., None], alpha
    clear_rim(pixels)
    return pixels


register_kind(
    LayerKind(
        "field", "Colour field", "Colours that flow into one another", PARAMETERS, _box, _draw, fills_frame=True,
        adds=(AddEntry("Colour field", 200, behind=True),), grips=Grips(_grips, _moved),
    )
)
