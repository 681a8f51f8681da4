"""Light: shades the layers in depth by how they are turned to it, and shows the shadows that they throw on a ground."""

from __future__ import annotations

import math
from collections.abc import Mapping
from typing import Any

from spiralis.core.geometry import Affine, Box
from spiralis.core.model.adding import AddEntry, Grip, Grips, Point
from spiralis.core.model.kinds import LayerKind, register_kind
from spiralis.core.model.parameter import Kind, Parameter, Value
from spiralis.core.raster.layer_image import LayerImage, Scene

GROUNDS = ("none", "floor", "wall")
_LAID = ("ground", GROUNDS[1:])

PARAMETERS = (
    Parameter("angle", "Shines to", Kind.NUMBER, 60.0,
              "Which way it shines across the frame: 0° to the right, 90° down", "°", period=360.0),
    Parameter("steepness", "Steepness", Kind.NUMBER, 50.0,
              "How steeply it shines into the frame: 0° along it, 90° straight away from the viewer", "°", -90, 90),
    Parameter("strength", "Strength", Kind.NUMBER, 70.0, "How bright a face is that is turned to it", "%", 0, 1000),
    Parameter("colour", "Colour", Kind.COLOUR, (1.0, 1.0, 1.0, 1.0), "The colour of the light"),
    Parameter("ambient", "All around", Kind.NUMBER, 45.0, "How bright every face is already", "%", 0, 1000),
    Parameter("ground", "Ground", Kind.CHOICE, "none", "What shadows fall on: a level floor, or an upright wall",
              choices=GROUNDS),
    Parameter("ground_y", "Floor at y", Kind.NUMBER, 900.0, "How far down the floor lies", "px",
              needs=("ground", ("floor",)), measures="level"),
    Parameter("ground_z", "Wall at z", Kind.NUMBER, 300.0, "How far behind the frame's plane the wall stands", "px",
              needs=("ground", ("wall",)), measures="depth"),
    Parameter("shadow", "Shadow", Kind.COLOUR, (0.05, 0.02, 0.1, 0.5), "The shadow's colour, with its density",
              needs=_LAID),
    Parameter("softness", "Softness", Kind.NUMBER, 18.0, "How soft the shadow is: the sigma of a Gaussian", "px", 0,
              500, needs=_LAID),
)  # fmt: skip

#: How long the arrow is that shows where it shines to, in px.
_ARM = 120.0


def _box(values: Mapping[str, Value], scene: Scene) -> Box:
    return -40.0, -40.0, 40.0, 40.0


def _draw(values: Mapping[str, Value], scene: Scene, matrix: Affine, clip: Box) -> LayerImage | None:
    return None


def _added(width: int, height: int) -> Mapping[str, Any]:
    side = min(width, height)
    return {"ground_y": float(round(0.8 * height)), "ground_z": float(round(0.2 * side)),
            "softness": float(round(side / 60))}  # fmt: skip


def _grips(values: Mapping[str, Any], width: float, height: float) -> list[Grip]:
    turn, far = math.radians(values["angle"]), _ARM * math.cos(math.radians(values["steepness"]))
    return [Grip("way", 0, (far * math.cos(turn), far * math.sin(turn)))]


def _moved(
    values: Mapping[str, Any], width: float, height: float, grip: Grip, here: Point, even: bool
) -> Mapping[str, Any]:
    """Return the way that an arrow shows: as long as it is along the frame, the shorter the steeper."""
    angle, far = math.degrees(math.atan2(here[1], here[0])), min(math.hypot(*here) / _ARM, 1.0)
    steep = math.copysign(math.degrees(math.acos(far)), values["steepness"])
    step = 15.0 if even else 0.1
    # The turn that is nearest to the one it had, so that going round does not jump back.
    angle += 360.0 * round((values["angle"] - angle) / 360.0)
    return {"angle": round(angle / step) * step, "steepness": round(steep / step) * step}


register_kind(
    LayerKind("light", "Light", "Shades layers in depth, and shows their shadows where it lies among the layers",
              PARAMETERS, _box, _draw, unseen=True, lights=True, adds=(AddEntry("Light", 304, values=_added),),
              grips=Grips(_grips, _moved, "Light"))
)  # fmt: skip
