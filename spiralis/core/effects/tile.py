"""Tile: the layer again and again, side by side, for ever or in rows and columns."""

from __future__ import annotations

import math

import numpy as np

from spiralis.core.effects.job import EffectJob, anywhere, nothing_around
from spiralis.core.effects.remapping import remapped
from spiralis.core.model.blocks import EFFECT, EffectKind, register_effect
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


def _run(job: EffectJob) -> Raster:
    values, (x, y) = job.values, job.places()
    left, top, right, bottom = job.box
    width, height = max(right - left, 1e-6), max(bottom - top, 1e-6)
    middle_x, middle_y, size = (left + right) / 2, (top + bottom) / 2, values["size"] / 100
    cos, sin = math.cos(math.radians(-values["angle"])), math.sin(math.radians(-values["angle"]))
    dx, dy = (x - middle_x) / size, (y - middle_y) / size
    across = (cos * dx - sin * dy) / width + 0.5
    down = (sin * dx + cos * dy) / height + 0.5
    rows = down - values["offset"][1] / 100
    row = np.floor(rows)
    columns = across - values["offset"][0] / 100 - np.where(np.mod(row, 2) == 1, values["stagger"] / 100, 0.0)
    column = np.floor(columns)
    inside = _among(across, round(values["columns"])) & _among(down, round(values["rows"]))
    u, v = columns - column, rows - row
    if values["mirrored"]:
        u = np.where(np.mod(column, 2) == 1, 1 - u, u)
        v = np.where(np.mod(row, 2) == 1, 1 - v, v)
    # Where two tiles meet no pixel takes half of what lies outside of the layer.
    half_x, half_y = 0.5 / job.scale[0], 0.5 / job.scale[1]
    u = np.clip(left + u * width, left + half_x, max(right - half_x, left + half_x))
    v = np.clip(top + v * height, top + half_y, max(bottom - half_y, top + half_y))
    made = remapped(job, u, v)
    return Raster(made.data * inside[..., None].astype(np.float32), made.space, made.corner)


def _among(place: np.ndarray, count: int) -> np.ndarray:
    """Return where places, in tiles from the layer's own, lie among so many about it."""
    return np.abs(place - 0.5) <= count / 2 if count else np.ones(place.shape, dtype=bool)


register_effect(
    EffectKind(
        "tile", "Tile", "The layer again and again, side by side", "Repeat", EFFECT, PARAMETERS, _run, anywhere,
        nothing_around, whole=True, neutral=lambda values: False,
    )
)  # fmt: skip
