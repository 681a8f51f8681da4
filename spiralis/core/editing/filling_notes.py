"""What goes as a file takes the place of a layer's own outlines, composition or footage."""

from __future__ import annotations

from collections.abc import Iterator

from spiralis.core.editing.slots import open_slots
from spiralis.core.model import Composition, Layer, Project, layer_kind
from spiralis.core.model.drivers import source_of
from spiralis.core.render.live_paths import LIVE


def filling_notes(before: Project, after: Project, piece: Composition) -> list[str]:
    """Say of each layer that became another kind, as slots of a piece were filled, what went with what it was."""
    told = []
    for place in (place for slot in open_slots(before, piece) for place in slot.places):
        within = before.composition(place.piece)
        old, new = within.layer(place.layer), after.composition(place.piece).layer(place.layer)
        if old.kind == new.kind:
            continue  # Nobody is kept waiting for this while words are typed.
        lost = [old.parameter(name).label for name in old.animated() if not new.has(name)]
        parted = list(dict.fromkeys(_parted(within, old, new)))
        if old.has(place.slot.property) and (not new.has(place.slot.property) or lost or parted):
            keys = f", without what moved in it ({', '.join(lost)})" if lost else ""
            names = ", ".join(f"“{name}”" for name in parted)
            ties = f"; no longer followed by {names}" if parted else ""
            told.append(f"“{old.name}” shows the file in place of what it was{keys}{ties}. Undo brings that back.")
    return told


def _parted(piece: Composition, old: Layer, new: Layer) -> Iterator[str]:
    """Yield the names of layers that followed what a layer has no more: a property, or the outline along which their
    words run or they go."""
    outlines = layer_kind(old.kind).outlines is not None and layer_kind(new.kind).outlines is None
    for layer in piece.layers:
        goes_along = any(pin.on_line and pin.layer == old.id for pin in layer.edge_pins)
        if outlines and (goes_along or any(tie.target == old.id and tie.name == LIVE for tie in layer.ties)):
            yield layer.name
        for driver in (track.driver for track in layer.properties.values() if track.driver is not None):
            source, followed = source_of(layer.id, driver)
            if source == old.id and old.has(followed) and not new.has(followed):
                yield layer.name
