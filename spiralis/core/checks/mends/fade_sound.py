"""Let a sound come and go within a moment, so that it is silent where the loop begins anew."""

from __future__ import annotations

from spiralis.core.checks.findings import Cause, Mend, register_mend
from spiralis.core.model import Project

#: In seconds.
_FADE = 0.05


def _apply(project: Project, cause: Cause) -> Project:
    piece = project.composition(cause.piece)
    layer = piece.layer(cause.layer)
    come, go = layer.track("fades").value
    return project.with_composition(piece.with_layer(layer.with_values(fades=(max(come, _FADE), max(go, _FADE)))))


register_mend(
    Mend("fade-sound", "Fade in and out", "The sound comes and goes within a twentieth of a second", _apply)
)
