"""What effects cost on a full frame of 1080 by 1350, beside copying it."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from typing import Any

import numpy as np

from benchmarks.measure import alternate, figure
from spiralis.core.effects.job import EffectJob
from spiralis.core.model.blocks import effect_kind
from spiralis.core.raster.noise import fractal_noise
from spiralis.core.raster.raster import Raster
from spiralis.core.render.effecting import Step, run_steps

_WIDTH, _HEIGHT = 1080, 1350
_LIMITS = {"churn": 25.0, "displace": 8.0, "wave": 10.0, "levels": 3.0, "exposure": 3.0, "tone-curve": 5.0,
           "corner-pin": 8.0, "bloom": 20.0}  # fmt: skip
#: What the corner pin is asked to do: the corners' places in % of the layer.
_CORNERS = {"top_left": (2.0, 1.0), "top_right": (97.0, 5.0), "bottom_right": (99.0, 98.0), "bottom_left": (1.0, 95.0)}


def _job(name: str, pixels: np.ndarray, **values: Any) -> tuple[Any, EffectJob]:
    kind, source = effect_kind(name), Raster(pixels)
    height, width = pixels.shape[:2]
    whole = {p.name: p.default for p in kind.own_parameters} | values
    clouds = fractal_noise((height, width), (0.01, 0.01, 0.0, 0.0), 4, 0.5, 0.0, 4, 1)
    other = Raster(np.ascontiguousarray(np.repeat(clouds[..., None] / 2 + 0.5, 4, axis=2)))
    job = EffectJob(source, (0, 0, width, height), whole, input=lambda name, region: other.spread_over(region),
                    box=(0.0, 0.0, float(width), float(height)))  # fmt: skip
    return kind, job


def run() -> Iterator[str]:
    """Yield the figures."""
    pixels = np.random.default_rng(1).random((_HEIGHT, _WIDTH, 4), dtype=np.float32)
    pixels[..., 3] = 1
    out = np.empty_like(pixels)

    def copies(work: Callable[[], object]) -> float:
        ours, copying = alternate(work, lambda: np.copyto(out, pixels))
        return ours / copying

    given: dict[str, dict[str, Any]] = {"displace": {"map": "other"}, "corner-pin": _CORNERS}
    for name, limit in _LIMITS.items():
        kind, job = _job(name, pixels, **given.get(name, {}))
        yield figure(f"{kind.label} of a full frame / copying it", copies(lambda k=kind, j=job: k.run(j)), limit)
    colours = ("grade", "hue", "temperature", "invert", "tint")
    steps = [
        Step(effect_kind(n), {p.name: p.default for p in effect_kind(n).own_parameters}, (1.0, 1.0)) for n in colours
    ]
    source = Raster(pixels)
    chained = copies(lambda: run_steps(source, steps, (0, 0, _WIDTH, _HEIGHT)))
    yield figure("five colour effects one after another / copying the frame", chained, 6.0)
    layer = np.zeros((400, 400, 4), dtype=np.float32)
    y, x = np.mgrid[0:400, 0:400]
    layer[np.hypot(x - 200, y - 200) < 190] = (0.8, 0.4, 0.2, 1.0)
    for name in ("halo", "drop-shadow", "outline"):
        kind, job = _job(name, layer)
        taken = copies(lambda k=kind, j=job: k.run(j))
        yield figure(f"{kind.label} of a layer of 400 x 400 / copying the full frame", taken, 3.0)
