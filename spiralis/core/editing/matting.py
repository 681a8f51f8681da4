"""Give layers mattes and masks. A mask is a shape that hangs on the layer it cuts and serves as its matte."""

from __future__ import annotations

from attrs import evolve

from spiralis.core.editing.arranging import seen_box
from spiralis.core.editing.edits import unused_name
from spiralis.core.editing.reparenting import with_parent
from spiralis.core.errors import ModelError
from spiralis.core.geometry import Box, intersect, rounded_out
from spiralis.core.model import Composition, Layer, Matte, layer_kind
from spiralis.core.render.extent import around_shown, shown_box
from spiralis.core.render.layers import Evaluated

#: How much of a layer a new mask that moves along covers, so that one sees that it is there.
_MIDDLE = 0.8


def may_be_matte(layer: Layer) -> bool:
    """Whether a layer shows something by itself that can decide where others show."""
    kind = layer_kind(layer.kind)
    return not kind.unseen and kind.beneath is None


def with_matte(piece: Composition, layer_id: str, source_id: str, matte: Matte | None = None) -> Composition:
    """Return the composition where a layer has one more matte; one from the same layer is replaced.

    Raises:
        ModelError: the layers would be mattes of each other in a circle, or the source shows nothing by itself.
    """
    layer, source = piece.layer(layer_id), piece.layer(source_id)
    if not may_be_matte(source):
        raise ModelError(f"“{source.name}” shows nothing by itself; take a layer as a matte that does.")
    kept = tuple(old for old in layer.mattes if old.layer != source_id)
    return piece.with_layer(evolve(layer, mattes=(*kept, matte or Matte(source_id))))


def without_matte(piece: Composition, layer_id: str, source_id: str) -> Composition:
    """Return the composition where a layer lost the matte from another one, which then shows itself again."""
    layer = piece.layer(layer_id)
    return piece.with_layer(evolve(layer, mattes=tuple(old for old in layer.mattes if old.layer != source_id)))


def with_mask(at: Evaluated, layer_id: str, form: str, apart: bool = False) -> tuple[Composition, str]:
    """Return the composition with a shape that masks a layer, and the shape's id.

    It hangs on the layer, over the middle of what its crop leaves, and moves with it. Or it stays ``apart``, upright
    around all that is left within the frame, on whole pixels: the content moves behind it as behind a window.
    """
    piece = at.composition
    layer = piece.layer(layer_id)
    seen = shown_box(at, layer)
    if apart:
        box: Box = rounded_out(around_shown(at, [layer]) or seen_box(at, layer))
        seen = intersect(box, (0.0, 0.0, float(piece.width), float(piece.height))) or box
    left, top, right, bottom = seen
    share = 1.0 if apart else _MIDDLE
    name = unused_name(f"{layer.name} {'window' if apart else 'mask'}", {other.name for other in piece.layers})
    mask = Layer(name, "shape", layer.first, layer.last, parent=None if apart else layer_id).with_values(
        form=form, size=(max((right - left) * share, 1.0), max((bottom - top) * share, 1.0)),
        fill=(1.0, 1.0, 1.0, 1.0), position=((left + right) / 2, (top + bottom) / 2)
    )  # fmt: skip
    return before_with_matte(piece, layer, mask, only=apart), mask.id


def masked_by(at: Evaluated, layer_id: str, mask: Layer) -> Composition:
    """Return the composition with a new shape, in place in the composition's pixels, that masks a layer and moves
    along with it."""
    piece = at.composition
    layer = piece.layer(layer_id)
    named = evolve(mask, name=unused_name(f"{layer.name} mask", {other.name for other in piece.layers}))
    joined = Evaluated(at.scene.project, evolve(piece, layers=(named, *piece.layers)), at.frame)
    return before_with_matte(piece, layer, with_parent(joined, named, layer_id))


def before_with_matte(piece: Composition, layer: Layer, mask: Layer, only: bool = False) -> Composition:
    """Return the composition with a mask in front of the layer that it is to cut; a further one shows more of it, or
    ``only`` what all of them show."""
    mode = "add" if layer.mattes and not only else "intersect"
    masked = evolve(layer, mattes=(*layer.mattes, Matte(mask.id, mode=mode)))
    layers = list(piece.with_layer(masked).layers)
    layers.insert([other.id for other in layers].index(layer.id), mask)
    return evolve(piece, layers=tuple(layers))
