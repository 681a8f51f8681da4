"""Particles: many bright points born from a place or from the shape of another layer, that fly, wander and gather."""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping
from typing import Any

from attrs import evolve

from spiralis.core.geometry import Affine, Box
from spiralis.core.model.adding import AddEntry, Grip, Grips, Point
from spiralis.core.model.kinds import LayerKind, register_kind
from spiralis.core.model.parameter import Kind, Parameter, Value
from spiralis.core.raster.layer_image import LayerImage, Scene
from spiralis.core.raster.lens import LENS
from spiralis.core.raster.particle_sets import GATHERING, SETS

SHAPES = ("point", "line", "area", "ring", "layer")
BORN = ("always", "evenly", "at once", "bursts")
LOOKS = ("dot", "soft", "square", "spark", "streak", "picture")
_STOPS = ((0.0, 0.98, 0.76, 0.35, 1.0), (1.0, 0.98, 0.95, 0.86, 1.0))
_ON = ("shape", ("layer",))
_LIVING = ("born", BORN[1:])
_DRAWN = ("look", LOOKS[:-1])
_STEADY = ((0.0, 1.0), (1.0, 1.0))
_IN_AND_OUT = ((0.0, 0.0), (0.15, 1.0), (0.7, 1.0), (1.0, 0.0))


def _number(name: str, label: str, default: float, help: str, unit: str = "", low: float = -1e5, high: float = 1e5,
            **more: Any) -> Parameter:  # fmt: skip
    return Parameter(name, label, Kind.NUMBER, default, help, unit, low, high, **more)


def _share(name: str, label: str, default: float, help: str, high: float = 100.0, **more: Any) -> Parameter:
    return _number(name, label, default, help, "%", 0, high, **more)


_BIRTH = (
    Parameter("shape", "Born from", Kind.CHOICE, "area", "Where particles come from", choices=SHAPES),
    Parameter("of", "Shape of", Kind.LAYER, "", "The layer whose shape they come from, wherever it is", steady=True,
              needs=_ON),
    Parameter("where", "Where on it", Kind.CHOICE, "inside", "Anywhere inside the shape, or along its edge",
              choices=("inside", "edge"), needs=_ON),
    Parameter("brightness", "More where bright", Kind.SWITCH, False, "Whether bright parts have more than dark ones",
              needs=_ON),
    _number("shape_at", "Shape at frame", 0.0, "The frame at which the shape is looked at; it is carried along as it "
            "moves", "f", needs=_ON, counts_frames=True, steady=True),
    Parameter("region", "Region", Kind.PAIR, (600.0, 600.0), "Width and height of the line, area or ring", "px",
              0, 1e5, needs=("shape", ("line", "area", "ring", "point"))),
    _number("count", "Count", 400.0, "How many there are over the layer's time", "", 0, 100_000),
    Parameter("born", "Born", Kind.CHOICE, "always", "Always there, evenly over time, all at once, or in bursts",
              choices=BORN),
    _number("bursts", "Bursts", 4.0, "How many over the layer's time", "", 1, 1000, needs=("born", ("bursts",))),
    _number("life", "Life", 50.0, "How long each lives", "f", 1, 1e5, needs=_LIVING, counts_frames=True),
    _share("life_vary", "Life varies", 30.0, "How much longer or shorter some live", needs=_LIVING),
    Parameter("goes_round", "Goes round", Kind.SWITCH, True, "Whether the layer's last frame leads to its first",
              steady=True),
    _number("course", "Course", 0.0, "How long it takes until all is as at first; 0: as long as the layer", "f", 0, 1e5,
            counts_frames=True, steady=True),
    _number("begun", "Begun before", 0.0, "How long all has been going on where the layer begins", "f", 0, 1e5,
            counts_frames=True, steady=True),
    _share("thin", "Thinned by clouds", 0.0, "How much is left out in patches"),
    _number("thin_size", "Cloud size", 240.0, "Size of the patches", "px", 4, 20_000),
    _number("seed", "Seed", 1.0, "Other chances", "", 0, 100_000),
)  # fmt: skip
_BANDS = tuple(
    parameter
    for band, label, distance in (("near", "Near", 24.0), ("far", "Far", 140.0))
    for parameter in (
        _share(f"{band}_share", f"{label}: share", 0.0, f"How many lie {band} the place of birth instead of on it"
               if band == "near" else "How many lie far from the place of birth"),
        _number(f"{band}_distance", f"{label}: distance", distance, "How far off most of them lie", "px", 0, 20_000),
        _share(f"{band}_size", f"{label}: size", 100.0, "Their size beside that of the others", 1000),
        _share(f"{band}_opacity", f"{label}: opacity", 100.0, "Their opacity beside that of the others"),
    )
)  # fmt: skip
_MOTION = (
    _number("speed", "Speed", 0.0, "How fast they fly", "px/s"),
    _share("speed_vary", "Speed varies", 40.0, "How much faster or slower some are"),
    _number("direction", "Direction", -90.0, "Which way they fly: 0 points right, 90 down", "°", period=360.0),
    _number("spread", "Spread", 360.0, "How far the directions lie apart", "°", 0, 360),
    _number("fall", "Fall", 0.0, "How much faster downwards each second", "px/s²"),
    Parameter("wind", "Wind", Kind.PAIR, (0.0, 0.0), "What carries them all", "px/s", -1e5, 1e5),
    _number("drag", "Drag", 0.0, "How fast the air slows them, or takes them along with the wind", "", 0, 100),
    _number("turbulence", "Turbulence", 0.0, "How far swirls carry them", "px"),
    _number("turbulence_size", "Swirl size", 220.0, "Size of the swirls", "px", 4, 20_000),
    _number("turbulence_turns", "Swirl changes", 1.0, "How many times the swirls change over the layer's time", "",
            0, 100),
    _share("gather", "Gather", 0.0, "Draws each back to where it was born: 100 % makes the shape again"),
    _share("gather_vary", "Gather varies", 60.0, "How far some lag behind others"),
    Parameter("gather_bands", "Gather bands too", Kind.SWITCH, True, "Whether those near and far come to the place of "
              "birth itself, or stay around it", steady=True),
    _share("pull", "Pull", 0.0, "Draws all of them to one point"),
    Parameter("pull_to", "Pull to", Kind.PAIR, (0.0, 0.0), "That point, from the layer's middle", "px"),
)  # fmt: skip
_DEPTH = (
    _number("depth_range", "Depth", 0.0, "How far they lie apart in depth", "px", 0, 1e5),
    Parameter("depth_by", "Spread in depth", Kind.CHOICE, "even", "Evenly, or most of them in the middle",
              choices=("even", "normal")),
    _number("sway", "Sway", 0.0, "Turns the cloud about its upright", "°", period=360.0),
    _number("tilt", "Tilt", 0.0, "Turns the cloud about its level", "°", period=360.0),
    _number("lens", "Lens", LENS, "Focal length on a film of 36 mm: short ones make depth strong",
            "mm", 8, 2000, needs=("depth", (False,))),
)  # fmt: skip
_EACH = (
    Parameter("look", "Look of each", Kind.CHOICE, "soft", "Dot, soft dot, square, spark, streak, or another layer",
              choices=LOOKS),
    Parameter("drawn_as", "Picture", Kind.LAYER, "", "The layer that each particle shows", steady=True,
              needs=("look", ("picture",))),
    _number("size", "Size", 8.0, "Across the largest", "px", 0, 10_000),
    _share("size_vary", "Size varies", 60.0, "How much smaller some are"),
    Parameter("size_life", "Size over life", Kind.CURVE, _STEADY, "Size from birth to end", needs=_LIVING),
    Parameter("opacity_life", "Opacity over life", Kind.CURVE, _IN_AND_OUT, "Opacity from birth to end", needs=_LIVING),
    Parameter("stops", "Colours", Kind.STOPS, _STOPS, "The colours that they may have", needs=_DRAWN),
    Parameter("colour_by", "Coloured by", Kind.CHOICE, "chance", "What decides the colour of each",
              choices=("chance", "life", "depth", "source"), needs=_DRAWN),
    _number("turned", "Turned", 0.0, "How far each may be turned to either side", "°", 0, 180),
    _number("spin", "Spin", 0.0, "How fast each turns at most, to either side", "°/s"),
    _number("tail", "Tail", 4.0, "How many frames long the streak is", "f", 0, 1000, needs=("look", ("streak",)),
            counts_frames=True),
    _share("twinkle", "Twinkle", 0.0, "How much each one's light comes and goes"),
    _number("twinkle_turns", "Twinkles", 4.0, "How many times over the layer's time", "", 0, 1000),
    Parameter("mix", "Mix", Kind.CHOICE, "over", "Whether they cover each other or add their light",
              choices=("over", "add")),
)  # fmt: skip


def _grouped(parameters: tuple[Parameter, ...], group: str) -> tuple[Parameter, ...]:
    return tuple(evolve(parameter, group=group) for parameter in parameters)


PARAMETERS = (
    *_BIRTH, *_grouped(_EACH, "Each one"), *_grouped(_MOTION, "Motion"), *_grouped(_BANDS, "Bands"),
    *_grouped(_DEPTH, "Depth"),
)  # fmt: skip


def _box(values: Mapping[str, Value], scene: Scene) -> Box:
    """Return the region even about 0, 0, so that the pivot stays there; the frame where a layer's shape is meant."""
    width, height = (scene.width, scene.height) if values["shape"] == "layer" else values["region"]
    if values["shape"] == "line":
        height = min(height, 40.0)
    elif values["shape"] == "point":
        width = height = 40.0
    return -max(width, 1.0) / 2, -max(height, 1.0) / 2, max(width, 1.0) / 2, max(height, 1.0) / 2


def _draw(values: Mapping[str, Value], scene: Scene, matrix: Affine, clip: Box) -> LayerImage | None:
    return None  # The renderer draws them, as it has the layer that they are born from (see ``render/swarming.py``).


def course_of(course: Value, first: int, last: int) -> float:
    """Return how many frames particles take until all is as at first: as was set, or as the layer is long."""
    return float(course) or float(max(last - first, 1))


def _moment(values: Mapping[str, Value], scene: Scene) -> float:
    """Return which of the layer's own frames it is; one that goes round is at its first again after its course."""
    if scene.span is None:
        return 0.0
    now = float(scene.span.frame - scene.span.first) + values["begun"]
    return now % course_of(values["course"], scene.span.first, scene.span.last) if values["goes_round"] else now


#: How far from the middle the grip for direction and speed lies at rest, and how many px/s a px further is.
_REST, _FASTER = 60.0, 4.0


def _grips(values: Mapping[str, Any], width: float, height: float) -> list[Grip]:
    """Return the grip that says which way and how fast, and the point that all are drawn to."""
    way, reach = math.radians(values["direction"]), _REST + max(values["speed"], 0.0) / _FASTER
    grips = [Grip("direction", 0, (reach * math.cos(way), reach * math.sin(way)))]
    if values["pull"] > 0:
        grips.append(Grip("pull", 0, values["pull_to"]))
    return grips


def _moved(
    values: Mapping[str, Any], width: float, height: float, grip: Grip, here: Point, even: bool
) -> Mapping[str, Any]:
    if grip.what == "pull":
        return {"pull_to": (round(here[0], 1), round(here[1], 1))}
    angle = math.degrees(math.atan2(here[1], here[0]))
    speed = max(math.hypot(*here) - _REST, 0.0) * _FASTER
    return {"direction": float(round(angle / 15) * 15) if even else round(angle, 1), "speed": float(round(speed))}


def _entry(number: int, label: str, own: Mapping[str, Value]) -> AddEntry:
    keys = {"gather": GATHERING[label]} if label in GATHERING else {}
    of = "of" if own.get("shape") == "layer" else ""
    return AddEntry(label, 400 + number, values=_values(own), menu="Particles", keys=keys, of=of)


def _values(own: Mapping[str, Value]) -> Callable[[int, int], Mapping[str, Any]]:
    def values(width: int, height: int) -> Mapping[str, Any]:
        return {
            name: (value[0] * width, value[1] * height) if name == "region" else value for name, value in own.items()
        }

    return values


register_kind(
    LayerKind("particles", "Particles", "Many points that fly, wander and gather", PARAMETERS, _box, _draw,
              moment=_moment, swarm=True, grips=Grips(_grips, _moved, "Direction and speed"),
              adds=tuple(_entry(i, *each) for i, each in enumerate(SETS.items())))
)
