"""Group: the layers that hang on it, held together and shown as one."""

from __future__ import annotations

from collections.abc import Mapping

from spiralis.core.geometry import Affine, Box
from spiralis.core.model.kinds import LayerKind, register_kind
from spiralis.core.model.parameter import Kind, Parameter, Value
from spiralis.core.raster.layer_image import LayerImage, Scene

PARAMETERS = (
    Parameter("corner", "Corner", Kind.PAIR, (0.0, 0.0), "Where the box begins that the pivot is measured in", "px"),
    Parameter("size", "Size", Kind.PAIR, (100.0, 100.0), "How large that box is", "px", 0, 100_000),
)  # fmt: skip


def _box(values: Mapping[str, Value], scene: Scene) -> Box:
    (x, y), (width, height) = values["corner"], values["size"]
    return x, y, x + width, y + height


def _draw(values: Mapping[str, Value], scene: Scene, matrix: Affine, clip: Box) -> LayerImage | None:
    return None  # The renderer draws the layers in it.


register_kind(
    LayerKind("group", "Group", "Layers held together and treated as one", PARAMETERS, _box, _draw, gathers=True)
)
