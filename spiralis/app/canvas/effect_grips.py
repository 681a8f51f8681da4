"""Grips of what effects have a place for: centres, and the corners that a layer is pinned to."""

from __future__ import annotations

from spiralis.core.geometry import point_in
from spiralis.core.model import Layer
from spiralis.core.model.adding import Grip
from spiralis.core.model.blocks import block_parameters
from spiralis.core.render.layers import Evaluated


def effect_grips(at: Evaluated, layer: Layer) -> list[Grip]:
    """Return a grip for each place that a layer's effects have, as far as they are on, in the layer's units.

    What each is called is the property that it sets.
    """
    values, box = at.values(layer), at.box(layer)
    found = []
    for block in layer.blocks:
        if not values[block.named("on")]:
            continue
        for index, parameter in enumerate(block_parameters(block)):
            if parameter.spot:
                found.append(Grip(parameter.name, index, point_in(box, values[parameter.name])))
    return found


def is_effects(grip: Grip) -> bool:
    """Whether a grip is one of an effect."""
    return "." in grip.what
