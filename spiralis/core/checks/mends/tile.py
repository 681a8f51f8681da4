"""Let mirrored tiles of a picture stand where its edge would come into view."""

from __future__ import annotations

from spiralis.core.checks.findings import Cause, Mend, register_mend
from spiralis.core.model import Project
from spiralis.core.model.blocks import Block


def _apply(project: Project, cause: Cause) -> Project:
    piece = project.composition(cause.piece)
    block = Block("tile")
    layer = piece.layer(cause.layer).with_block(block).with_values(**{block.named("mirrored"): True})
    return project.with_composition(piece.with_layer(layer))


register_mend(Mend("tile", "Tile with mirrored edges", "Mirrored tiles go on where the picture ends", _apply))
