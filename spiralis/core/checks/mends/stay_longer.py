"""Let words stay in sight for as long as it takes to read them."""

from __future__ import annotations

import math

from attrs import evolve

from spiralis.core.checks.findings import Cause, Mend, register_mend
from spiralis.core.errors import ModelError
from spiralis.core.model import Project


def _apply(project: Project, cause: Cause) -> Project:
    piece = project.composition(cause.piece)
    layer, end = piece.layer(cause.layer), piece.span[1]
    last = min(layer.last + math.ceil(cause.size * float(piece.rate)), end)
    if last <= layer.last:
        raise ModelError(f"“{layer.name}” stays until the end already; make the piece longer, or its words fewer.")
    return project.with_composition(piece.with_layer(evolve(layer, last=last)))


register_mend(Mend("stay-longer", "Stay longer", "Its bar ends later, by as much as reading takes", _apply))
