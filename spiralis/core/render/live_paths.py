"""Words along another layer's outline: the outline is looked up at each frame, where that layer is then."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Protocol

from spiralis.core.geometry import Affine
from spiralis.core.model import Composition, Layer, Value, layer_kind
from spiralis.core.model.art import EMPTY_ART, Bundle, Contour, Figure, figures_in
from spiralis.core.raster.layer_image import Scene

#: The property of words that names the layer whose outline they run along, and the one that holds an outline.
LIVE, PATH = "path_layer", "path"


class Moment(Protocol):
    """What is asked of an evaluated composition (``layers.Evaluated``)."""

    scene: Scene
    composition: Composition

    def values(self, layer: Layer) -> Mapping[str, Value]:
        """Return a layer's properties."""

    def matrix(self, layer: Layer) -> Affine:
        """Return the map from a layer's units to the composition."""

    def parent_matrix(self, layer: Layer) -> Affine:
        """Return the map from what a layer hangs on to the composition."""


def own_outline(at: Moment, shape: Layer) -> tuple[Contour, Affine] | None:
    """Return the first outline of a layer drawn from outlines, with the map from it to the composition's pixels; None
    where it has none."""
    kind = layer_kind(shape.kind)
    if kind.outlines is None:
        return None
    matrix, art = at.matrix(shape), kind.outlines(at.values(shape), at.scene)
    found = ((f.contours[0], own) for _, f, own in figures_in(art) if f.contours and len(f.contours[0].vertices) > 1)
    return next(((contour, matrix @ own) for contour, own in found), None)


def first_outline(at: Moment, shape: Layer) -> Contour | None:
    """Return the first outline of a layer drawn from outlines, in the composition's pixels; None where it has none."""
    found = own_outline(at, shape)
    return found[0].mapped(found[1]) if found is not None else None


def with_live_path(at: Moment, layer: Layer, values: Mapping[str, Value]) -> Mapping[str, Value]:
    """Return the values of words with the outline that they run along now, in their own units.

    So they lie on it wherever they are themselves; their scale is that of the letters. Their box is the frame, which
    does not depend on the outline.
    """
    shape = at.composition.find(values[LIVE])
    outline = first_outline(at, shape) if shape is not None else None
    inverse = at.matrix(layer).inverse()
    if outline is None or inverse is None:
        return {**values, PATH: EMPTY_ART}
    return {**values, PATH: Bundle((Figure((outline.mapped(inverse),)),))}
