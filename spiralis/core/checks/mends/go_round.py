"""Let keys that end as they begin go on around the seam."""

from __future__ import annotations

from spiralis.core.checks.findings import Cause, Mend, register_mend
from spiralis.core.editing.looping import going_round
from spiralis.core.errors import ModelError
from spiralis.core.model import Project


def _apply(project: Project, cause: Cause) -> Project:
    piece = project.composition(cause.piece)
    layer = piece.layer(cause.layer)
    begin, end = piece.span
    made = going_round(layer.track(cause.name), layer.parameter(cause.name), end - begin)
    if made is None:
        raise ModelError(f"The keys of {layer.parameter(cause.name).label} do not come round in the loop.")
    return project.with_composition(piece.with_layer(layer.with_track(cause.name, made)))


register_mend(Mend("go-round", "Go round", "The keys, which end as they begin, go on before and after", _apply))
