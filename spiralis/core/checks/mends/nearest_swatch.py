"""Take the swatch that is most like a colour."""

from __future__ import annotations

from attrs import evolve

from spiralis.core.checks.findings import Cause, Mend, register_mend
from spiralis.core.checks.piece.finders.off_swatches import nearest_swatch
from spiralis.core.model import Project


def _apply(project: Project, cause: Cause) -> Project:
    piece = project.composition(cause.piece)
    layer = piece.layer(cause.layer)
    track = layer.track(cause.name)
    keys = tuple(evolve(key, value=nearest_swatch(key.value, project.swatches)[0]) for key in track.keys)
    value = nearest_swatch(track.value, project.swatches)[0]
    changed = layer.with_track(cause.name, evolve(track, value=value, keys=keys))
    return project.with_composition(piece.with_layer(changed))


register_mend(Mend("nearest-swatch", "Take the nearest swatch", "The colour becomes the most similar swatch", _apply))
