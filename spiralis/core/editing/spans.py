"""Edits of layers in time: split at a frame, slip what they show, move a span without its keys."""

from __future__ import annotations

from collections.abc import Sequence

from attrs import evolve

from spiralis.core.editing.edits import unused_name
from spiralis.core.editing.grouping import in_order
from spiralis.core.editing.locking import locked_in
from spiralis.core.model import Composition, Layer, new_id
from spiralis.core.model.references import Repointing, Why, repointed


def split(composition: Composition, ids: Sequence[str], frame: int) -> tuple[Composition, list[str]]:
    """Return the composition with layers cut in two at a frame, and the ids of the later parts.

    Both parts keep all their keys, so nothing changes in sight. The later part lies in front; layers that do not show
    on both sides of the frame stay whole, and so does what a layer that is not cut takes its picture from. A group is
    cut with all that is in it. What hung on a layer hangs on its first part.
    """
    cut, moved = _to_cut(composition, set(ids), frame)
    if not cut:
        return composition, []
    to = Repointing({layer.id: new_id() for layer in composition.layers if layer.id in cut})
    layers: list[Layer] = []
    taken = {layer.name for layer in composition.layers}
    for layer in composition.layers:
        if layer.id in cut:
            name = unused_name(layer.name, taken)
            taken.add(name)
            layers.append(evolve(repointed(layer, to), name=name, first=frame))
            layer = evolve(layer, last=frame)
        elif layer.id in moved:
            layer = repointed(layer, to)
        layers.append(layer)
    changed = in_order(evolve(composition, layers=tuple(layers)))
    return changed, [to.layers[layer.id] for layer in composition.layers if layer.id in cut and layer.id in ids]


def _to_cut(piece: Composition, chosen: set[str], frame: int) -> tuple[set[str], set[str]]:
    """Return the ids of what is cut, and of what comes after the frame in groups that are cut."""
    locked = locked_in(piece)
    whole: set[str] = set(locked)
    while True:
        cut, moved = set[str](), set[str]()
        for layer in piece.layers:
            if layer.id in chosen and layer.id not in whole and layer.first < frame < layer.last:
                inside = piece.descendants(layer.id) if layer.gathers else []
                if any(y.last > frame and y.id in whole for y in inside):
                    continue
                cut |= {layer.id} | {y.id for y in inside if y.first < frame < y.last}
                moved |= {y.id for y in inside if y.first >= frame}
        kept = _shown_by_uncut(piece, cut, moved, frame) - whole
        if not kept:
            return cut, moved - cut
        whole |= kept


def _shown_by_uncut(piece: Composition, cut: set[str], moved: set[str], frame: int) -> set[str]:
    """Return what of ``cut`` gives its picture to a layer that goes on showing after the frame and is not cut.

    Copies show their source at other frames than their own, so that it stays whole in any case.
    """
    kept: set[str] = set()
    for layer in piece.layers:
        parted = layer.id in cut or layer.id in moved or layer.last <= frame
        for tie in layer.ties:
            target = piece.find(tie.target) if tie.why is Why.PICTURE else None
            if target is not None and (tie.whole or not parted):
                shown = piece.descendants(target.id) if tie.whole or target.gathers else []
                kept |= {target.id, *(y.id for y in shown)}
    return kept & cut


def slips(layer: Layer) -> bool:
    """Whether a layer shows something with a time of its own, which can be moved within its span."""
    return layer.has("start")


def slipped(layer: Layer, by: int) -> Layer:
    """Return the layer with what it shows moved in time; its span and keys stay."""
    start = layer.track("start")
    return layer.with_track("start", evolve(start, value=start.value + by))


def span_moved(layer: Layer, by: int) -> Layer:
    """Return the layer with its span moved; keys and what it shows stay where they are in time."""
    return evolve(layer, first=layer.first + by, last=layer.last + by)
