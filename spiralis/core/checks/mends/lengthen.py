"""Make the piece as long as a thread's last key."""

from __future__ import annotations

from attrs import evolve

from spiralis.core.checks.findings import Cause, Mend, register_mend
from spiralis.core.editing.edits import with_length
from spiralis.core.model import Project


def _apply(project: Project, cause: Cause) -> Project:
    piece = project.composition(cause.piece)
    last = max(key.frame for key in piece.layer(cause.layer).track(cause.name).keys)
    longer = with_length(piece, max(last, piece.length))
    return project.with_composition(evolve(longer, play_span=None))


register_mend(Mend("lengthen", "Lengthen the piece", "It becomes as long as the last of these keys", _apply))
