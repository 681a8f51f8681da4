"""Let a sound come and go within a moment, so that it is silent where the loop begins anew."""

from __future__ import annotations

from spiralis.core.checks.findings import Cause, Mend, register_mend
from spiralis.core.model import Project

#: In seconds.
_FADE = 0.05


def _apply(project: Project, cause: Cause) -> Project:
    piece = project.composition(cause.piece)
    layer = piece.layer(cause.layer)
    first, last = piece.span
    ends = zip(
        layer.track("fades").value, layer.track("beyond").value, (layer.first <= first, layer.last >= last), strict=True
    )
    # What a cut left of a fade beyond the end of the bar would be heard there.
    made = [(max(fade - gone, _FADE), 0.0) if there else (fade, gone) for fade, gone, there in ends]
    fades, beyond = (tuple(pair) for pair in zip(*made, strict=True))
    return project.with_composition(piece.with_layer(layer.with_values(fades=fades, beyond=beyond)))


register_mend(
    Mend("fade-sound", "Fade in and out", "The sound comes and goes within a twentieth of a second", _apply)
)
