"""Hide a layer that is never seen, so that nobody looks for it."""

from __future__ import annotations

from spiralis.core.checks.findings import Cause, Mend, register_mend
from spiralis.core.model import Project, Track


def _apply(project: Project, cause: Cause) -> Project:
    piece = project.composition(cause.piece)
    layer = piece.layer(cause.layer).with_track("visible", Track(False))
    return project.with_composition(piece.with_layer(layer))


register_mend(Mend("hide-layer", "Hide it", "Its eye is shut; it stays in the piece", _apply))
