"""Another size for what has one of its own: a shape, a box of words. Letters, corners and strokes keep theirs."""

from __future__ import annotations

from spiralis.core.editing.edits import set_value, shifted
from spiralis.core.geometry import Affine, point_in
from spiralis.core.model import Composition, Layer, Project, layer_kind
from spiralis.core.render.layers import Evaluated

Point = tuple[float, float]


def size_name(at: Evaluated, layer: Layer) -> str:
    """Return the name of the property that holds a layer's own size, or nothing where it has none."""
    resizes = layer_kind(layer.kind).resizes
    return resizes(at.values(layer)) if resizes is not None else ""


def resized(
    project: Project, piece: Composition, layer_id: str, size: Point, share: Point, frame: int
) -> Composition:
    """Return the composition with a layer of another size whose place opposite to a handle stays where it is.

    Args:
        project: what the composition is looked at in.
        piece: the composition.
        layer_id: a layer that has a size of its own.
        size: width and height in the layer's units.
        share: the handle in parts of the box: (1, 1) is the bottom right one, whose opposite is the top left corner.
        frame: the playhead; a size that has keys gets one here, and the layer then grows about its pivot, as its way
            must not depend on where the playhead stands.
    """
    at = Evaluated(project, piece, frame)
    layer = piece.layer(layer_id)
    name = size_name(at, layer)
    if not name:
        return piece
    least, most = layer.parameter(name).minimum, layer.parameter(name).maximum
    width, height = (round(min(max(side, least), most), 2) for side in size)
    changed = piece.with_layer(set_value(layer, name, (width, height), frame))
    if layer.track(name).animated:
        return changed
    after = Evaluated(project, changed, frame)
    held = (100 * (1 - share[0]), 100 * (1 - share[1]))
    before = at.matrix(layer).apply(*point_in(at.box(layer), held))
    now = after.matrix(changed.layer(layer_id)).apply(*point_in(after.box(changed.layer(layer_id)), held))
    back = at.parent_matrix(layer).inverse() or Affine()
    x, y = back.apply_direction(before[0] - now[0], before[1] - now[1])
    return changed.with_layer(shifted(changed.layer(layer_id), x, y))
