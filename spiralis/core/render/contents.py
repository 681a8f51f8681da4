"""What single layers show: drawn straight into the grid, or smeared over the open shutter."""

from __future__ import annotations

from collections.abc import Hashable, Sequence
from functools import cache

from spiralis.core.compositing.kernels import bands
from spiralis.core.compositing.motion_blur import smeared
from spiralis.core.geometry import Affine, Box, WholeBox, box_around, box_of, covers, rounded_out
from spiralis.core.model import Layer, Project, layer_kind
from spiralis.core.model.parameter import Kind
from spiralis.core.model.references import What
from spiralis.core.raster.layer_image import Gradient
from spiralis.core.raster.raster import Raster
from spiralis.core.render.layers import Evaluated
from spiralis.core.render.nodes import Node, ringed
from spiralis.core.render.pictures import add_pixels
from spiralis.core.render.quads import edges_of_box
from spiralis.core.render.table import Table


def _digests(project: Project, layer: Layer) -> Hashable:
    """Return the bytes that a layer shows, by their digests, and the fonts that it may be set in."""
    shown = tuple(
        source.digest if (source := project.source(tie.target)) is not None and not source.missing else None
        for tie in layer.ties if tie.what is What.SOURCE
    )  # fmt: skip
    fonts = tuple(source.digest for source in project.fonts) if layer.has("font") else ()
    return shown, fonts


@cache
def _held_boxes(kind: str) -> tuple[str, ...]:
    """Return the names under which the boxes of a kind's drawings that change are held."""
    return tuple(f"{parameter.name}_box" for parameter in layer_kind(kind).own_parameters if parameter.kind is Kind.ART)


def content_key(at: Evaluated, layer: Layer) -> Hashable:
    """Return everything that decides what a layer shows in its own units."""
    values = at.values(layer)
    own = tuple(values[parameter.name] for parameter in at.own_parameters(layer))
    boxes = tuple(values.get(name) for name in _held_boxes(layer.kind))
    size = (at.scene.width, at.scene.height)
    return layer.kind, own, boxes, at.moment(layer), size, _digests(at.scene.project, layer)


class Leaf(Node):
    """A layer's own content under a map from its units to the grid."""

    quick = True

    def __init__(self, at: Evaluated, layer: Layer, matrix: Affine) -> None:
        self.at, self.layer, self.matrix = at, layer, matrix

    def make_key(self) -> Hashable:
        return content_key(self.at, self.layer), self.matrix

    def emit(self, table: Table, mode: int, opacity: float) -> None:
        drawing = self.at.drawing(self.layer, self.matrix, table.frame)
        if isinstance(drawing, Gradient):
            add_gradient(table, drawing, self.matrix, mode, opacity)
        elif isinstance(drawing, Raster):
            add_pixels(table, drawing, self.matrix @ drawing.to_layer, mode, opacity)

    def raster(self, region: WholeBox) -> Raster | None:
        """Return what is seen in a region as a picture with a clear ring, its space being the layer's units."""
        clip = box_of(region)
        drawing = self.at.drawing(self.layer, self.matrix, clip)
        if isinstance(drawing, Gradient):
            inverse, picture = self.matrix.inverse(), self.picture(region)
            if inverse is None or picture is None:
                return None
            whole = ringed(picture)
            return Raster(whole.data, inverse @ whole.to_layer)
        return drawing if isinstance(drawing, Raster) else None


def add_gradient(table: Table, drawing: Gradient, matrix: Affine, mode: int, opacity: float) -> None:
    """Add a ramp or a flat colour; where its box does not cover the frame its edges cut it."""
    inverse = matrix.inverse()
    if inverse is None:
        return
    shape = bands.CONIC if drawing.conic else bands.RADIAL if drawing.radial else bands.LINEAR
    kind = bands.FLAT if drawing.flat else shape
    place = (*(drawing.to_ramp @ inverse).between_pixels(centre=0.0), 0.0, 0.0, 1.0)
    colour = tuple(float(v) for v in drawing.table[0])
    solid = int(opacity >= 1 and bool((drawing.table[:, 3] >= 1).all()))
    size = (len(drawing.table), solid)
    if covers(inverse, drawing.box, table.frame):
        table.add(kind, mode, table.frame, drawing.table, size, place, opacity, colour)
        return
    left, top, right, bottom = matrix.box(drawing.box)
    box = (left - 1, top - 1, right + 1, bottom + 1)
    table.add(kind, mode, box, drawing.table, size, place, opacity, colour, edges_of_box(inverse, drawing.box))


_FINER, _MOST_FINE = 2.0, 1_500_000


class Smeared(Node):
    """A node seen at several places over the open shutter.

    ``space`` maps its grid to the layer's units, ``matrices`` those to the outer grid, one a moment.
    """

    def __init__(self, inner: Node, space: Affine, matrices: Sequence[Affine]) -> None:
        self.inner, self.space, self.matrices = inner, space, tuple(matrices)

    def make_key(self) -> Hashable:
        return self.inner.key, self.space, self.matrices

    def emit(self, table: Table, mode: int, opacity: float) -> None:
        region = self.seen(table.frame)
        drawing = self._raster(region) if region is not None else None
        result = smeared(drawing, list(self.matrices), table.frame) if drawing is not None else None
        if result is not None:
            add_pixels(table, result, result.to_layer, mode, opacity)

    def _raster(self, region: WholeBox) -> Raster | None:
        if isinstance(self.inner, Leaf):
            return self.inner.raster(region)
        picture = self.inner.picture(region)
        if picture is None:
            return None
        whole = ringed(picture)
        return Raster(whole.data, self.space @ whole.to_layer)

    def seen(self, frame: Box) -> WholeBox | None:
        """Return the part of the inner grid that shows in a frame at any of the moments."""
        to_inner = self.space.inverse()
        inverses = [inverse for matrix in self.matrices if (inverse := matrix.inverse()) is not None]
        if to_inner is None or not inverses:
            return None
        boxes = [(to_inner @ inverse).box(frame) for inverse in inverses]
        around = box_around(boxes)
        far = float(1 << 20)
        return rounded_out((max(around[0], -far), max(around[1], -far), min(around[2], far), min(around[3], far)), 2.0)


def finer(at: Evaluated, layer: Layer, matrix: Affine, vector: bool) -> Affine:
    """Return the map to draw a vector layer with before it is smeared: twice as fine where that is cheap.

    Each moment samples the drawing once more, which would widen its edges by a pixel.
    """
    left, top, right, bottom = matrix.box(at.box(layer))
    if not vector or (right - left) * (bottom - top) > _MOST_FINE / _FINER**2:
        return matrix
    return Affine.scaling(_FINER, _FINER) @ matrix
