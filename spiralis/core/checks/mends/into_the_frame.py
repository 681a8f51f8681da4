"""Move words that stand beyond the frame's edge, or outside of its safe area, to where they are free."""

from __future__ import annotations

from spiralis.core.checks.findings import Cause, Mend, register_mend
from spiralis.core.checks.piece.case import PieceCase
from spiralis.core.checks.piece.finders.word_places import beyond, safe_area_of
from spiralis.core.editing.edits import shifted
from spiralis.core.errors import ModelError
from spiralis.core.geometry import box_around
from spiralis.core.model import Project


def _apply(project: Project, cause: Cause) -> Project:
    piece = project.composition(cause.piece)
    layer, case = piece.layer(cause.layer), PieceCase(project, piece)
    if layer.parent:
        raise ModelError(f"“{layer.name}” hangs on another layer; move that one, or take it off there.")
    if layer.track("position").driver is not None or layer.edge_pins:
        raise ModelError(f"The place of “{layer.name}” is held by a link or an edge pin; change that instead.")
    reader = next(r for r in case.readers if r.layer.id == layer.id and not r.way)
    first, last = cause.frames or (0, piece.length)
    box = box_around([seen.box for seen in reader.seen if first <= seen.frame <= last and seen.opacity > 0.8])
    move = beyond(box, safe_area_of(case))
    if move == (0.0, 0.0):
        move = beyond(box, (0.0, 0.0, float(piece.width), float(piece.height)))
    if move == (0.0, 0.0):
        raise ModelError(f"“{layer.name}” is larger than what is free; make it smaller.")
    return project.with_composition(piece.with_layer(shifted(layer, *move)))


register_mend(Mend("into-the-frame", "Move it in", "It is moved into the safe area with all its keys", _apply))
