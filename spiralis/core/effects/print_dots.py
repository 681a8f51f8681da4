"""Print dots: dots or lines that are as large as it is dark, a halftone."""

from __future__ import annotations

import math
from collections.abc import Mapping
from functools import lru_cache

import numpy as np

from spiralis.core.compositing.kernels import screens
from spiralis.core.effects.colour_steps import LUMA
from spiralis.core.effects.job import EffectJob, Margins, even, nothing_around
from spiralis.core.model.blocks import EFFECT, EffectKind, register_effect
from spiralis.core.model.parameter import Kind, Parameter, Value
from spiralis.core.raster.blurring import reach, softened
from spiralis.core.raster.raster import Raster

FORMS, TONES, INKS = ("dots", "lines"), ("dark", "bright"), ("one colour", "its own colours")
#: Brightness is taken from around a place, by a Gaussian of this share of the distance between dots.
_AROUND = 0.3

PARAMETERS = (
    Parameter("size", "Size", Kind.NUMBER, 16.0, "From one dot, or line, to the next", "px", 2, 2000),
    Parameter("form", "Form", Kind.CHOICE, FORMS[0], "Dots, or lines", choices=FORMS),
    Parameter("angle", "Angle", Kind.NUMBER, 45.0, "How far their rows are turned", "°", -36_000, 36_000, period=180.0),
    Parameter("tone", "Large where", Kind.CHOICE, TONES[0], "Whether they are large where it is dark, or bright",
              choices=TONES),
    Parameter("inks", "Printed in", Kind.CHOICE, INKS[0], "One colour, or what the layer shows", choices=INKS),
    Parameter("ink", "Ink", Kind.COLOUR, (0.08, 0.07, 0.12, 1.0), "The colour of dots", needs=("inks", INKS[:1])),
    Parameter("paper", "Paper", Kind.COLOUR, (1.0, 1.0, 1.0, 1.0), "The colour between them; clear where it is clear"),
)  # fmt: skip


def _reads(values: Mapping[str, Value], scale: tuple[float, float]) -> Margins:
    return even(*(reach(values["size"] * s * _AROUND) for s in scale))


@lru_cache(maxsize=1)
def _heights() -> np.ndarray:
    """Return the heights (257,) above which the hills of a screen have 0, 1/256 ... of their area."""
    wave = np.cos(np.pi * (np.arange(512) + 0.5) / 512)
    hills = (wave[:, None] + wave[None, :]) / 2
    return np.quantile(hills, 1 - np.linspace(0, 1, 257))


def _phases(job: EffectJob) -> tuple[np.ndarray, np.ndarray]:
    """Return cosine and sine of the phases of two waves across one another, of the columns (4, w) and rows (4, h)."""
    (x, y), angle = job.places(), math.radians(job.values["angle"])
    cos, sin = (2 * math.pi / job.values["size"] * part for part in (math.cos(angle), math.sin(angle)))
    columns, rows = ((x[0] * cos, -x[0] * sin), (y[:, 0] * sin, y[:, 0] * cos))
    across, down = (
        np.array([turn(phase) for phase in held for turn in (np.cos, np.sin)], dtype=np.float32)
        for held in (columns, rows)
    )
    return across, down


def _run(job: EffectJob) -> Raster:
    values = job.values
    source = job.source_over(_reads(values, job.scale))
    across, down = (values["size"] * s * _AROUND for s in job.scale)
    around = softened(source.as_float, across, down, source.corner)
    near = Raster(around, source.space, source.corner).spread_over(job.region).data
    pixels = source.spread_over(job.region).as_float
    dots = values["form"] == FORMS[0]
    shape = np.array((0.5, 0.5) if dots else (0.0, 1.0), dtype=np.float32)
    heights = (_heights() if dots else np.cos(np.pi * np.linspace(0, 1, 257))).astype(np.float32)
    tone = np.array([*LUMA, 0.0 if values["tone"] == TONES[1] else 1.0], dtype=np.float32)
    ink, paper = (np.array([*values[name][:3], 1.0], dtype=np.float32) * np.float32(values[name][3])
                  for name in ("ink", "paper"))  # fmt: skip
    columns, rows = _phases(job)
    out, pixel, own = np.empty_like(pixels), np.float32(1 / min(job.scale) / values["size"]), values["inks"] == INKS[1]
    screens.print_screen(pixels, near, columns, rows, shape, heights, pixel, own, tone, ink, paper, out)
    return job.result(out, job.region[:2])


register_effect(
    EffectKind(
        "print-dots", "Print dots", "Dots or lines, large where it is dark: a halftone", "Break up", EFFECT, PARAMETERS,
        _run, nothing_around, _reads, placed=True, neutral=lambda values: False,
    )
)  # fmt: skip
