"""Lay fine grain over a piece, which hides the bands of a soft gradient."""

from __future__ import annotations

from attrs import evolve

from spiralis.core.checks.findings import Cause, Mend, register_mend
from spiralis.core.model import Layer, Project
from spiralis.core.model.blocks import Block

_AMOUNT, _SIZE = 3.0, 1.0


def _apply(project: Project, cause: Cause) -> Project:
    piece = project.composition(cause.piece)
    block = Block("grain")
    over = Layer("Grain against bands", "effect", *piece.span).with_block(block)
    values = {block.named("amount"): _AMOUNT, block.named("size"): _SIZE, block.named("changes"): "still"}
    over = over.with_values(**values)
    return project.with_composition(evolve(piece, layers=(over, *piece.layers)))


register_mend(Mend("add-grain", "Lay grain over it", "A layer of still, fine grain in front of everything", _apply))
