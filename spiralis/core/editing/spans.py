"""Edits of layers in time: split at a frame, move and trim their bars, slip what they show."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from enum import Enum

from attrs import evolve

from spiralis.core.editing.edits import moved_in_time, unused_name
from spiralis.core.editing.grouping import in_order
from spiralis.core.editing.locking import locked_in
from spiralis.core.editing.retiming import retimed_by_keys
from spiralis.core.model import Composition, Layer, new_id
from spiralis.core.model.references import Repointing, Why, repointed
from spiralis.core.render.layers import Evaluated


def split(at: Evaluated, ids: Sequence[str], frame: int) -> tuple[Composition, list[str]]:
    """Return the composition with layers cut in two at a frame, and the ids of the later parts.

    Both parts keep all their keys, so nothing changes in sight; what runs over its whole span shows by keys what it
    showed. The later part lies in front; layers that do not show on both sides of the frame stay whole, and so does
    what a layer that is not cut takes its picture from. A group is cut with all that is in it. What hung on a layer
    hangs on its first part.
    """
    composition = at.composition
    cut, moved = _to_cut(composition, set(ids), frame)
    if not cut:
        return composition, []
    for layer in [y for y in composition.layers if y.id in cut and y.has("fit")]:
        if layer.track("fit").value and not layer.track("retime").value:
            composition = composition.with_layer(retimed_by_keys(at, layer))
    to = Repointing({layer.id: new_id() for layer in composition.layers if layer.id in cut})
    layers: list[Layer] = []
    taken = {layer.name for layer in composition.layers}
    for layer in composition.layers:
        if layer.id in cut:
            name = unused_name(layer.name, taken)
            taken.add(name)
            before, after = _parts(composition, layer, frame)
            layers.append(evolve(repointed(after, to), name=name))
            layer = before
        elif layer.id in moved:
            layer = repointed(layer, to)
        layers.append(layer)
    changed = in_order(evolve(composition, layers=tuple(layers)))
    return changed, [to.layers[layer.id] for layer in composition.layers if layer.id in cut and layer.id in ids]


def _parts(piece: Composition, layer: Layer, frame: int) -> tuple[Layer, Layer]:
    """Return a layer up to a frame, and from there on."""
    if layer.has("course"):
        # Particles would run their course within the time of each part.
        course, begun = layer.track("course").value, layer.track("begun").value
        layer = layer.with_values(course=course or float(layer.last - layer.first))
        return evolve(layer, last=frame), evolve(layer, first=frame).with_values(begun=begun + frame - layer.first)
    before, after = evolve(layer, last=frame), evolve(layer, first=frame)
    if layer.has("fades"):
        return _fading(layer, before, piece), _fading(layer, after, piece)
    return before, after


def _fading(layer: Layer, part: Layer, piece: Composition) -> Layer:
    """Return a part of a layer of sound that fades as the whole did, also where it is cut within a fade."""
    rate = float(piece.rate)
    cut = ((part.first - layer.first) / rate, (layer.last - part.last) / rate)
    fades, beyond = layer.track("fades").value, layer.track("beyond").value
    ends = [(fade, gone + more) for fade, gone, more in zip(fades, beyond, cut, strict=True)]
    left = [(fade, gone) if gone < fade else (0.0, 0.0) for fade, gone in ends]
    return part.with_values(fades=tuple(fade for fade, _ in left), beyond=tuple(gone for _, gone in left))


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


class BarEdit(Enum):
    """What dragging the bars of layers does to them."""

    MOVE = "Move"
    MOVE_ALONE = "Move without keys"
    BEGIN = "Trim the beginning"
    END = "Trim the end"
    SLIP = "Slip"


def bars_edited(composition: Composition, ids: Iterable[str], how: BarEdit, by: int) -> Composition:
    """Return the composition with the bars of several layers moved, trimmed or slipped by frames.

    Locked layers stay. Trims stop where the shortest of the bars would have no frame left, so that they keep their
    differences. What is in a group moves along with it, once.
    """
    locked = locked_in(composition)
    chosen = {y.id for y in composition.layers if y.id in set(ids) and y.id not in locked}
    rooms = [layer.last - layer.first - 1 for layer in composition.layers if layer.id in chosen]
    if not rooms:
        return composition
    if how is BarEdit.BEGIN:
        by = min(by, min(rooms))
    elif how is BarEdit.END:
        by = max(by, -min(rooms))
    elif how is BarEdit.MOVE:
        inside = [y.id for i in chosen if composition.layer(i).gathers for y in composition.descendants(i)]
        chosen |= set(inside) - locked
    layers = tuple(_bar_edited(layer, how, by) if layer.id in chosen else layer for layer in composition.layers)
    return evolve(composition, layers=layers)


def _bar_edited(layer: Layer, how: BarEdit, by: int) -> Layer:
    if how is BarEdit.BEGIN:
        return evolve(layer, first=layer.first + by)
    if how is BarEdit.END:
        return evolve(layer, last=layer.last + by)
    if how is BarEdit.SLIP:
        return slipped(layer, by) if slips(layer) else layer
    return moved_in_time(layer, by) if how is BarEdit.MOVE else span_moved(layer, by)
