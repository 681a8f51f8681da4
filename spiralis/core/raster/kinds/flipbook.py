"""Flipbook: drawings shown in turn, each for as long as its exposure says."""

from __future__ import annotations

from collections.abc import Mapping
from fractions import Fraction
from functools import lru_cache
from itertools import accumulate

from attrs import evolve

from spiralis.core.animation.source_time import TIMING, Clock, shown
from spiralis.core.geometry import Affine, Box
from spiralis.core.model.kinds import LayerKind, layer_kind, register_kind
from spiralis.core.model.parameter import Kind, Parameter, Value
from spiralis.core.raster.layer_image import LayerImage, Scene
from spiralis.core.raster.raster import Raster

DEFAULT_RATE = 12.0


def _timed(parameter: Parameter) -> Parameter:
    """Return a timing parameter as flipbooks have it: exposures are counted in frames of a rate of their own."""
    if parameter.name != "own_rate":
        return parameter
    help = "Frames a second in which exposures are counted"
    return evolve(parameter, default=DEFAULT_RATE, minimum=0.1, help=help, needs=None)


PARAMETERS = (
    Parameter("drawings", "Drawings", Kind.DRAWINGS, (), "The drawings in their order, and how long each stays"),
    *(_timed(p) for p in TIMING if p.name not in ("in", "out")),
)


@lru_cache(maxsize=256)
def clock_of(drawings: tuple[tuple[str, int], ...], rate: float) -> Clock:
    """Return when each drawing begins, in own frames."""
    tick = 1 / Fraction(rate).limit_denominator(100_000)
    return Clock((0, *accumulate(frames for _, frames in drawings)), tick)


def _box(values: Mapping[str, Value], scene: Scene) -> Box:
    sources = [scene.project.source(source) for source, _ in values["drawings"]]
    width = max((source.width for source in sources if source is not None), default=100)
    height = max((source.height for source in sources if source is not None), default=100)
    return 0.0, 0.0, float(width), float(height)


def drawing_at(values: Mapping[str, Value], scene: Scene) -> int | None:
    """Return the place in the order of the drawing that shows, or None."""
    if not values["drawings"] or scene.span is None:
        return None
    clock = clock_of(values["drawings"], values["own_rate"])
    return shown(clock, {**values, "own_rate": 0.0, "in": 0.0, "out": 0.0}, scene.span)


def _moment(values: Mapping[str, Value], scene: Scene) -> str | None:
    index = drawing_at(values, scene)
    return values["drawings"][index][0] if index is not None else None


def _draw(values: Mapping[str, Value], scene: Scene, matrix: Affine, clip: Box) -> LayerImage | None:
    index = drawing_at(values, scene)
    if index is None:
        return None
    source = scene.project.source(values["drawings"][index][0])
    if source is None:
        return None
    # Drawings of other sizes than the largest stand in its middle.
    box = _box(values, scene)
    left, top = (box[2] - source.width) / 2, (box[3] - source.height) / 2
    shift = Affine.shift(left, top)
    drawing = layer_kind("picture").draw({"source": source.id}, scene, matrix @ shift, clip)
    return Raster(drawing.data, shift @ drawing.to_layer) if isinstance(drawing, Raster) else None


register_kind(
    LayerKind("flipbook", "Flipbook", "Drawings shown in turn", PARAMETERS, _box, _draw, _moment, drawing_at)
)
