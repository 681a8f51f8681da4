"""How far what a layer shows may reach: its content, and what its effects and finishes add to it."""

from __future__ import annotations

from spiralis.core.effects.job import grown
from spiralis.core.geometry import Affine, Box, box_around, box_of, rounded_out
from spiralis.core.model import Layer
from spiralis.core.model.blocks import EFFECT, FINISH
from spiralis.core.render.building import Builder
from spiralis.core.render.effecting import acting_on
from spiralis.core.render.layers import Evaluated
from spiralis.core.render.steps import steps_of


def reach_of(at: Evaluated, layer: Layer) -> Box:
    """Return an upright box in the composition's pixels that holds all that a layer shows at a moment."""
    matrix, box, acting = at.matrix(layer), at.box(layer), acting_on(at, layer)
    # Effects work upright, at the size that the layer is seen.
    upright = Affine.scaling(*(max(size, 1e-3) for size in matrix.stretch()))
    back = upright.inverse()
    if not acting or back is None:
        return matrix.box(box)
    builder = Builder(at, Affine())
    whole = rounded_out(upright.box(box))
    for step in steps_of(builder, acting, EFFECT, upright, box, layer):
        whole = step.fills(whole)
    finished = [grown(whole, step.grows()) for step in steps_of(builder, acting, FINISH, upright, box, layer)]
    return (matrix @ back).box(box_around([box_of(each) for each in (whole, *finished)]))
