"""Let a thread leave its first key as fast as it comes to its last: both at rest."""

from __future__ import annotations

from spiralis.core.checks.findings import Cause, Mend, register_mend
from spiralis.core.editing.looping import loop_closed
from spiralis.core.model import Project


def _apply(project: Project, cause: Cause) -> Project:
    piece = project.composition(cause.piece)
    return project.with_composition(loop_closed(piece, [(cause.layer, cause.name)], smooth=True))


register_mend(Mend("match-speed", "Match the speed", "Both sides of the seam come to rest there", _apply))
