"""Compile every kernel, or load it from its cache: ``python -m spiralis.core.warm``."""

from __future__ import annotations

import os
from fractions import Fraction
from typing import TYPE_CHECKING

import numpy as np

if TYPE_CHECKING:
    from spiralis.core.media.palette import Palette


def warm_easing() -> None:
    """Load the one kernel that drawing curves asks for; where another thread loads kernels it would wait for those."""
    from spiralis.core.animation.easing import CubicBezier

    CubicBezier(0.4, 0.0, 0.6, 1.0).solve(np.array([0.5]))


def warm() -> None:
    """Run each kernel once on tiny arrays of the types that the program uses."""
    from spiralis.core.compositing.blend import blend
    from spiralis.core.compositing.kernels import light, smear
    from spiralis.core.effects.job import EffectJob
    from spiralis.core.media import palette, pixels
    from spiralis.core.model import Composition, Layer, Project
    from spiralis.core.model.blocks import effect_kinds
    from spiralis.core.raster import blurring
    from spiralis.core.raster.kernels import noise
    from spiralis.core.raster.raster import Raster
    from spiralis.core.render import frame

    tiny = np.zeros((4, 4, 4), dtype=np.float32)
    solid = np.full((4, 4, 4), 255, dtype=np.uint8)
    pixels.visible_box(solid)
    blurring.blurred(solid, 1.0, 1.0)
    noise.fractal(np.empty((2, 2), dtype=np.float32), np.zeros(6), 1, 0.5, 0.0, 4, 1)
    pixels.halved(pixels.premultiplied(solid))
    blend("normal", tiny, tiny)
    composition = Composition("warm", 8, 8, Fraction(25), 2, layers=(Layer("flat", "backdrop", 0, 2),))
    project = Project(compositions=(composition,))
    frame.render_frame(project, composition.id, 0)
    frame.render_rgba8(project, composition.id, 0)
    frame.render_yuv420(project, composition.id, 0)
    frame.render_straight8(project, composition.id, 0)
    linear = np.zeros(64, dtype=np.float32)
    light.decode_premultiplied(np.zeros(64, dtype=np.uint8), np.float32(1 / 255), linear)
    light.decode_premultiplied(linear, np.float32(1), linear)
    smear.smear(linear, 4, 4, np.zeros((1, 6)), np.ones(1), 0, 0, tiny)
    for kind in effect_kinds():
        values = {parameter.name: parameter.default for parameter in kind.own_parameters}
        kind.run(EffectJob(Raster(tiny), (0, 0, 4, 4), values, box=(0.0, 0.0, 4.0, 4.0)))
    _warm_gif(palette.build([np.zeros((4, 4, 4), np.uint8)], 4))


def _warm_gif(colours: Palette) -> None:
    import io

    from spiralis.core.media.dithering import indexed
    from spiralis.core.media.gif_file import GifWriter

    writer, pixels = GifWriter(io.BytesIO(), (4, 4), colours, False), np.zeros((4, 4, 4), dtype=np.uint8)
    for pattern in ("none", "diffusion"):
        writer.add(indexed(pixels, colours, pattern, 1.0, 1.0, writer.shown), 4, pixels)


if __name__ == "__main__":
    os.environ.setdefault("OMP_WAIT_POLICY", "passive")
    warm()
