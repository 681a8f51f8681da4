"""Backdrop: the whole frame in one colour or a gradient, in float so that nothing bands."""

from __future__ import annotations

import math
from collections.abc import Mapping

import numpy as np

from spiralis.core.geometry import Affine, Box
from spiralis.core.model.kinds import LayerKind, register_kind
from spiralis.core.model.parameter import Kind, Parameter, Value
from spiralis.core.raster.layer_image import Gradient, LayerImage, Scene
from spiralis.core.raster.ramp_grips import RAMP_GRIPS
from spiralis.core.raster.ramps import ramp

_RAMP = ("linear", "radial", "conic")
_STOPS = ((0.0, 0.16, 0.20, 0.36, 1.0), (1.0, 0.93, 0.62, 0.45, 1.0))

PARAMETERS = (
    Parameter("style", "Style", Kind.CHOICE, "flat", "One colour, or a ramp of colours",
              choices=("flat", *_RAMP)),
    Parameter("colour", "Colour", Kind.COLOUR, (0.15, 0.17, 0.30, 1.0), "The colour of the frame",
              needs=("style", ("flat",))),
    Parameter("stops", "Gradient", Kind.STOPS, _STOPS, "The colours of the ramp and where they stand",
              needs=("style", _RAMP)),
    Parameter("angle", "Angle", Kind.NUMBER, 90.0, "Direction of the ramp: 0 points right, 90 down", "°",
              needs=("style", ("linear", "conic")), period=360.0),
    Parameter("centre", "Centre", Kind.PAIR, (50.0, 50.0), "Where the ramp is anchored", "%", -1000, 1000,
              needs=("style", _RAMP)),
    Parameter("reach", "Reach", Kind.NUMBER, 100.0, "Length of the ramp beside the frame", "%", 1, 1000,
              needs=("style", ("linear", "radial"))),
)  # fmt: skip


def _flat(colour: tuple[float, ...]) -> np.ndarray:
    r, g, b, a = colour
    return np.array([(r * a, g * a, b * a, a)] * 2, dtype=np.float32)


def _box(values: Mapping[str, Value], scene: Scene) -> Box:
    return 0.0, 0.0, float(scene.width), float(scene.height)


def _draw(values: Mapping[str, Value], scene: Scene, matrix: Affine, clip: Box) -> LayerImage | None:
    box = _box(values, scene)
    width, height = scene.width, scene.height
    if values["style"] == "flat":
        return Gradient(_flat(values["colour"]), Affine(), box, flat=True)
    centre = Affine.shift(-width * values["centre"][0] / 100, -height * values["centre"][1] / 100)
    reach = values["reach"] / 100
    if values["style"] == "radial":
        radius = reach * math.hypot(width, height) / 2
        return Gradient(ramp(values["stops"]), Affine.scaling(1 / radius, 1 / radius) @ centre, box, radial=True)
    if values["style"] == "conic":
        return Gradient(ramp(values["stops"]), Affine.rotation(-values["angle"]) @ centre, box, conic=True)
    angle = math.radians(values["angle"])
    length = reach * (abs(width * math.cos(angle)) + abs(height * math.sin(angle)))
    turned = Affine.scaling(1 / length, 1) @ Affine.rotation(-values["angle"]) @ centre
    return Gradient(ramp(values["stops"]), Affine.shift(0.5, 0) @ turned, box)


register_kind(
    LayerKind(
        "backdrop", "Backdrop", "The whole frame in a colour or gradient", PARAMETERS, _box, _draw, fills_frame=True,
        grips=RAMP_GRIPS,
    )
)
