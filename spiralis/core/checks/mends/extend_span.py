"""Let a layer's bar reach over the whole loop."""

from __future__ import annotations

from attrs import evolve

from spiralis.core.checks.findings import Cause, Mend, register_mend
from spiralis.core.model import Project


def _apply(project: Project, cause: Cause) -> Project:
    piece = project.composition(cause.piece)
    layer, (begin, end) = piece.layer(cause.layer), piece.span
    longer = evolve(layer, first=min(layer.first, begin), last=max(layer.last, end))
    return project.with_composition(piece.with_layer(longer))


register_mend(Mend("extend-span", "Extend its bar", "The layer shows from the first frame to the last", _apply))
