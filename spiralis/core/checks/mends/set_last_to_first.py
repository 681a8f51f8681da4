"""Let a thread end on exactly the value it begins with."""

from __future__ import annotations

from spiralis.core.checks.findings import Cause, Mend, register_mend
from spiralis.core.editing.looping import loop_closed
from spiralis.core.model import Project


def _apply(project: Project, cause: Cause) -> Project:
    piece = project.composition(cause.piece)
    return project.with_composition(loop_closed(piece, [(cause.layer, cause.name)]))


register_mend(Mend("set-last-to-first", "Set last to first", "The last key takes the value of the first", _apply))
