"""Delete keys outside the play span; what is seen within it stays as it is."""

from __future__ import annotations

from spiralis.core.checks.findings import Cause, Mend, register_mend
from spiralis.core.editing.cutting import with_key_kept
from spiralis.core.model import Project


def _apply(project: Project, cause: Cause) -> Project:
    piece = project.composition(cause.piece)
    layer, (begin, end) = piece.layer(cause.layer), piece.span
    parameter, track = layer.parameter(cause.name), layer.track(cause.name)
    for edge in (begin, end):
        track = with_key_kept(track, parameter, edge)
    gone = {key.frame for key in track.keys if not begin <= key.frame <= end}
    return project.with_composition(piece.with_layer(layer.with_track(cause.name, track.without_keys(gone))))


register_mend(Mend("delete-keys", "Delete these keys", "What is seen within the span stays as it is", _apply))
