"""Picture: a still from a file, sampled from a pyramid of sizes so that small stays smooth."""

from __future__ import annotations

from collections.abc import Mapping

from spiralis.core.geometry import Affine, Box, intersect
from spiralis.core.model.kinds import LayerKind, register_kind
from spiralis.core.model.parameter import Kind, Parameter, Value
from spiralis.core.raster.layer_image import LayerImage, Scene
from spiralis.core.raster.pyramid import picture_level
from spiralis.core.raster.raster import Raster

PARAMETERS = (Parameter("source", "Source", Kind.SOURCE, "", "The picture that is shown", all_shown=True),)


def _box(values: Mapping[str, Value], scene: Scene) -> Box:
    source = scene.project.source(values["source"])
    return (0.0, 0.0, float(source.width), float(source.height)) if source else (0.0, 0.0, 100.0, 100.0)


def _draw(values: Mapping[str, Value], scene: Scene, matrix: Affine, clip: Box) -> LayerImage | None:
    source = scene.project.source(values["source"])
    if source is None or source.data is None:
        return None
    if intersect(matrix.box(_box(values, scene)), clip) is None:
        return None
    found = picture_level(source, max(matrix.stretch()))
    if found is None:
        return None
    pixels, level, (left, top) = found
    size = float(2**level)
    # The stored pixels are the trimmed part with a ring of one pixel of their own level around it.
    return Raster(pixels, Affine(size, 0, 0, size, left - size, top - size))


register_kind(LayerKind("picture", "Picture", "A still picture from a file", PARAMETERS, _box, _draw))
