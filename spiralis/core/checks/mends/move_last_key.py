"""Move a thread's last key by a frame, to where the loop is round."""

from __future__ import annotations

from spiralis.core.checks.findings import Cause, Mend, register_mend
from spiralis.core.model import Project


def _apply(project: Project, cause: Cause) -> Project:
    piece = project.composition(cause.piece)
    layer, end = piece.layer(cause.layer), piece.span[1]
    track = layer.track(cause.name)
    return project.with_composition(piece.with_layer(layer.with_track(cause.name, track.moved({end - 1}, 1))))


register_mend(
    Mend("move-last-key", "Move the last key on", "It comes to lie a frame later, where the loop is round", _apply)
)
