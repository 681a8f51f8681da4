"""Dial: a named control of the composition that shows nothing; properties join it with values at its places."""

from __future__ import annotations

from collections.abc import Mapping

from spiralis.core.geometry import Affine, Box
from spiralis.core.model.adding import AddEntry
from spiralis.core.model.kinds import LayerKind, register_kind
from spiralis.core.model.parameter import Kind, Parameter, Value
from spiralis.core.raster.layer_image import LayerImage, Scene

PARAMETERS = (
    Parameter("value", "Value", Kind.NUMBER, 0.0, "Where the dial stands; what has joined it follows", "", -1e6, 1e6),
    Parameter("minimum", "From", Kind.NUMBER, 0.0, "The lower end of its field", "", -1e6, 1e6, steady=True),
    Parameter("maximum", "To", Kind.NUMBER, 100.0, "The upper end of its field", "", -1e6, 1e6, steady=True),
)


def _box(values: Mapping[str, Value], scene: Scene) -> Box:
    return 0.0, 0.0, 1.0, 1.0


def _draw(values: Mapping[str, Value], scene: Scene, matrix: Affine, clip: Box) -> LayerImage | None:
    return None


register_kind(
    LayerKind("dial", "Dial", "One control that drives many properties", PARAMETERS, _box, _draw, unseen=True,
              control="value", adds=(AddEntry("Dial", 301),))
)
