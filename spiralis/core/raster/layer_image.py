"""What a layer kind hands to the renderer, and the scene it draws in."""

from __future__ import annotations

import numpy as np
from attrs import frozen

from spiralis.core.animation.source_time import Span
from spiralis.core.geometry import Affine, Box
from spiralis.core.model.project import Composition, Project
from spiralis.core.raster.raster import Raster


@frozen
class Scene:
    """What drawing may depend on beside the layer's values. ``width`` and ``height`` are the composition's.

    Kinds that have moments are drawn with the ``span`` of their layer and the moment.
    """

    project: Project
    width: int
    height: int
    span: Span | None = None


@frozen(eq=False)
class Gradient:
    """A colour ramp over a box. ``table`` is float32 (n, 4) premultiplied, n >= 2.

    ``to_ramp`` maps the layer's units to ramp space, where the table is looked up by x, or by the distance
    from the origin where ``radial``, or by the turn about it where ``conic``. A flat colour is a table of one repeated
    colour with ``flat`` set.
    """

    table: np.ndarray
    to_ramp: Affine
    box: Box
    radial: bool = False
    flat: bool = False
    conic: bool = False


@frozen
class Inner:
    """Another composition at one of its frames, to be drawn with the layer's matrix as a picture of its own."""

    composition: Composition
    frame: float


LayerImage = Raster | Gradient | Inner
