"""A layer shown again and again."""

from __future__ import annotations

from spiralis.core.editing.arranging import seen_box
from spiralis.core.editing.edits import unused_name
from spiralis.core.model import Layer
from spiralis.core.render.layers import Evaluated, pivot_point

#: From one copy to the next is so much of a copy's height; a line is as high as that, in px.
_STEP, _LEAST = 1.1, 20.0


def copies_of(at: Evaluated, source: Layer) -> Layer:
    """Return a layer that shows another one, or the group on a carrier, again and again in a column about it."""
    box = seen_box(at, source)
    height = max(box[3] - box[1], _LEAST)
    # Copies move as the source does, from where that is at first.
    first = at.at_frame(0.0)
    place = first.matrix(source).apply(*pivot_point(first.values(source), first.box(source)))
    name = unused_name(f"Copies of {source.name}", {layer.name for layer in at.composition.layers})
    return Layer(name, "copies", source.first, source.last).with_values(
        of=source.id, position=place, spacing=(0.0, round(height * _STEP, 1))
    )
