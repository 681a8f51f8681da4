"""Make words as large as a phone shows them legibly."""

from __future__ import annotations

from attrs import evolve

from spiralis.core.checks.findings import Cause, Mend, register_mend
from spiralis.core.checks.piece.finders.word_places import SMALLEST
from spiralis.core.model import Project


def _apply(project: Project, cause: Cause) -> Project:
    piece = project.composition(cause.piece)
    layer, by = piece.layer(cause.layer), 1.02 * SMALLEST / cause.size
    scale = layer.track("scale")
    keys = tuple(evolve(key, value=(key.value[0] * by, key.value[1] * by)) for key in scale.keys)
    value = (scale.value[0] * by, scale.value[1] * by)
    return project.with_composition(piece.with_layer(layer.with_track("scale", evolve(scale, value=value, keys=keys))))


register_mend(Mend("larger-words", "Make it larger", "Its scale grows until a phone shows it legibly", _apply))
