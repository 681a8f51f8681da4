"""Churn: smooth moving distortion by noise, which can loop."""

from __future__ import annotations

import math
from collections.abc import Mapping

import numpy as np

from spiralis.core.effects.job import EffectJob, Margins, even
from spiralis.core.effects.remapping import EDGE, moved, where_clear
from spiralis.core.model.blocks import EFFECT, EffectKind, register_effect
from spiralis.core.model.parameter import Kind, Parameter, Value
from spiralis.core.raster.noise import fractal_noise
from spiralis.core.raster.raster import Raster

#: How many cells of noise lie between one evolution and the next, until it comes back.
_PERIOD = 6
#: How finely the finest grain is worked out; between its places the movement is mixed.
_PLACES = 6

PARAMETERS = (
    Parameter("strength", "Strength", Kind.NUMBER, 40.0, "How far points move at the most", "px", 0, 2000),
    Parameter("grain", "Grain", Kind.NUMBER, 160.0, "How large the swirls are", "px", 4, 10_000),
    Parameter("detail", "Detail", Kind.NUMBER, 2.0, "How many finer swirls lie over the large ones", "", 1, 6),
    Parameter("drift", "Drift", Kind.PAIR, (0.0, 0.0), "Where the swirls have drifted", "px", -1e6, 1e6),
    Parameter("evolution", "Evolution", Kind.NUMBER, 0.0, "How far the swirls have changed; after 100 % they are back",
              "%", -1e6, 1e6, period=100.0),
    Parameter("seed", "Seed", Kind.NUMBER, 1.0, "Another number, other swirls", "", 0, 9999, steady=True),
    EDGE,
)  # fmt: skip


def _reads(values: Mapping[str, Value], scale: tuple[float, float]) -> Margins:
    return even(values["strength"] * scale[0] + 2, values["strength"] * scale[1] + 2)


def field(job: EffectJob, grain: float, detail: int, drift: tuple[float, float], evolution: float, seed: int,
          ) -> np.ndarray:  # fmt: skip
    """Return noise over the region: float32 (h, w), about -1 to 1, smooth over ``grain`` layer units.

    It is worked out on a coarse grid that belongs to the layer and mixed in between, so that every part of a picture
    gets the very same.
    """
    x, y = job.places()
    step = grain / 2 ** (detail - 1) / _PLACES
    if step * min(job.scale) <= 1.5:
        step = 1.0 / max(job.scale)
    first_x, first_y = math.floor(float(x[0, 0]) / step) - 1, math.floor(float(y[0, 0]) / step) - 1
    columns = math.floor(float(x[0, -1]) / step) + 3 - first_x
    rows = math.floor(float(y[-1, 0]) / step) + 3 - first_y
    # The kernel takes the middles of its cells; places of the coarse grid are whole multiples of the step.
    share = step / grain
    place = (share, share, (first_x - 0.5) * share - drift[0] / grain, (first_y - 0.5) * share - drift[1] / grain)
    z = evolution / 100 % 1 * _PERIOD
    coarse = fractal_noise((rows, columns), place, detail, 0.5, z, _PERIOD, seed)
    return between(coarse, (x[0] / step).astype(np.float64) - first_x, (y[:, 0] / step).astype(np.float64) - first_y)


def between(coarse: np.ndarray, x: np.ndarray, y: np.ndarray) -> np.ndarray:
    """Return float32 (m, n): a table (h, w) mixed linearly at columns ``x`` (n,) and rows ``y`` (m,)."""
    column, row = np.floor(x).astype(np.intp), np.floor(y).astype(np.intp)
    fx, fy = (x - column).astype(np.float32), (y - row).astype(np.float32)[:, None]
    across = coarse[:, column] * (1 - fx) + coarse[:, column + 1] * fx
    return np.asarray(across[row] * (1 - fy) + across[row + 1] * fy)


def _run(job: EffectJob) -> Raster:
    values = job.values
    moves = [
        field(job, values["grain"], round(values["detail"]), values["drift"], values["evolution"],
              2 * int(values["seed"]) + axis) * np.float32(values["strength"])
        for axis in (0, 1)
    ]  # fmt: skip
    return moved(job, moves[0], moves[1], values["edge"])


register_effect(
    EffectKind(
        "churn", "Churn", "Smooth moving distortion by noise", "Bend", EFFECT, PARAMETERS,
        _run, where_clear(_reads), _reads, placed=True, holds=True, neutral=lambda values: values["strength"] == 0,
    )
)  # fmt: skip
