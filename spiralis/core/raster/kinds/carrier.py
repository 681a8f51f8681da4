"""Carrier: shows nothing; other layers hang on it and follow its place."""

from __future__ import annotations

from collections.abc import Mapping

from spiralis.core.geometry import Affine, Box
from spiralis.core.model.adding import AddEntry
from spiralis.core.model.kinds import LayerKind, register_kind
from spiralis.core.model.parameter import Kind, Parameter, Value
from spiralis.core.raster.layer_image import LayerImage, Scene

PARAMETERS = (
    Parameter("size", "Size", Kind.PAIR, (100.0, 100.0), "The box that the pivot is measured in", "px", 1, 20_000),
    Parameter("stack", "Card stack", Kind.NUMBER, 0.0,
              "How far apart in depth what hangs on it lies, each behind the one before", "px",
              needs=("depth", (True,)), measures="depth"),
)


def _box(values: Mapping[str, Value], scene: Scene) -> Box:
    return 0.0, 0.0, values["size"][0], values["size"][1]


def _draw(values: Mapping[str, Value], scene: Scene, matrix: Affine, clip: Box) -> LayerImage | None:
    return None


register_kind(
    LayerKind("carrier", "Carrier", "Shows nothing; other layers hang on it", PARAMETERS, _box, _draw, unseen=True,
              adds=(AddEntry("Carrier", 300),))
)
