"""Let a clip run there and back within the loop."""

from __future__ import annotations

from spiralis.core.checks.findings import Cause, Mend, register_mend
from spiralis.core.checks.mends.make_it_loop import at_whole_rounds
from spiralis.core.model import Project


def _apply(project: Project, cause: Cause) -> Project:
    piece = project.composition(cause.piece)
    layer = at_whole_rounds(project, piece, piece.layer(cause.layer), "ping-pong")
    return project.with_composition(piece.with_layer(layer))


register_mend(
    Mend("run-there-and-back", "Run there and back", "The clip plays forwards, then backwards, in whole rounds", _apply)
)
