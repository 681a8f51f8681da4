"""Make the loop a frame shorter, so that its first frame shows once."""

from __future__ import annotations

from attrs import evolve

from spiralis.core.checks.findings import Cause, Mend, register_mend
from spiralis.core.editing.edits import with_length
from spiralis.core.model import Project


def _apply(project: Project, cause: Cause) -> Project:
    piece = project.composition(cause.piece)
    if piece.play_span is None:
        return project.with_composition(with_length(piece, piece.length - 1))
    begin, end = piece.play_span
    return project.with_composition(evolve(piece, play_span=(begin, end - 1)))


register_mend(Mend("drop-frame", "Drop the doubled frame", "The loop becomes a frame shorter", _apply))
