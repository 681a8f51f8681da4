"""Effects beside copying a frame: a blur of any width, colours, and an effect layer over a whole piece."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from benchmarks.measure import alternate, figure
from spiralis.core.cache import BUDGET
from spiralis.core.effects.job import EffectJob
from spiralis.core.model import Composition, Layer, Project
from spiralis.core.model.blocks import effect_kind
from spiralis.core.raster.raster import Raster
from spiralis.core.render.frame import render_frame

WIDTH, HEIGHT = 1080, 1350


def run() -> Iterator[str]:
    """Yield the figures."""
    pixels = np.random.default_rng(3).random((HEIGHT, WIDTH, 4), dtype=np.float32)
    target = np.empty_like(pixels)
    job_over = (0, 0, WIDTH, HEIGHT)

    def copy() -> None:
        np.copyto(target, pixels)

    worst = 0.0
    for sigma in (1.0, 2.0, 4.0, 5.0, 8.0, 12.0, 24.0, 80.0, 300.0):
        values = {"across": sigma, "down": sigma, "edge": "repeat"}
        job = EffectJob(Raster(pixels), job_over, values)
        ours, copying = alternate(lambda job=job: effect_kind("gaussian-blur").run(job), copy, 7)
        worst = max(worst, ours / copying)
    yield figure("Gaussian blur of a full frame, the dearest of sigmas 1 to 300 / copying it", worst, 8.0)
    values = {"saturation": 140.0, "brightness": 90.0, "contrast": 120.0}
    job = EffectJob(Raster(pixels), job_over, values)
    ours, copying = alternate(lambda: effect_kind("grade").run(job), copy)
    yield figure("saturation, brightness and contrast of a full frame / copying it", ours / copying, 3.0)
    ground = Layer("Ground", "backdrop", 0, 10).with_values(position=(WIDTH / 2, HEIGHT / 2), style="linear")
    grade = Layer("Grade", "effect", 0, 10).with_values(position=(WIDTH / 2, HEIGHT / 2), **values)
    plain, graded = (
        Project("P", (Composition("C", WIDTH, HEIGHT, 25, 10, id="c", layers=layers),))
        for layers in ((ground,), (grade, ground))
    )
    with_it, without = alternate(lambda: render_frame(graded, "c", 0), lambda: render_frame(plain, "c", 0))
    yield figure(
        "an effect layer of colours alone over a gradient, what it adds / copying", (with_it - without) / copying, 3.0
    )

    def fresh() -> None:
        BUDGET.clear()
        render_frame(soft, "c", 0)

    blur = Layer("Soft", "effect", 0, 10).with_values(position=(WIDTH / 2, HEIGHT / 2), softness=24.0)
    soft = Project("P", (Composition("C", WIDTH, HEIGHT, 25, 10, id="c", layers=(blur, ground)),))
    first, again = alternate(fresh, lambda: render_frame(soft, "c", 0), 5)
    yield figure("a softened frame, kept / drawn anew", again / first, None)
