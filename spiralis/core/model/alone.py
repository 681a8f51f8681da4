"""What of a composition is seen and heard while some of its layers are shown alone."""

from __future__ import annotations

from spiralis.core.model.project import Composition


def shown_alone(piece: Composition) -> frozenset[str] | None:
    """Return the ids of what is shown alone, with the groups it is in and all in it; None where nothing is."""
    solo = [layer for layer in piece.layers if layer.solo]
    if not solo:
        return None
    found = {layer.id for layer in solo}
    for layer in solo:
        if layer.gathers:
            found.update(below.id for below in piece.descendants(layer.id))
        found.update(piece.groups_around(layer.id))
        # What is only shown as copies is there for them.
        lent = [tie.target for tie in layer.ties if tie.whole and tie.target in piece.kept_from_sight]
        found.update(each for root in lent for each in (root, *(y.id for y in piece.descendants(root))))
    return frozenset(found)
