"""Let a thread run there and back within the loop."""

from __future__ import annotations

from spiralis.core.checks.findings import Cause, Mend, register_mend
from spiralis.core.editing.keys import KeyRef, keys_mirrored, keys_moved, keys_stretched
from spiralis.core.editing.looping import loop_closed
from spiralis.core.errors import ModelError
from spiralis.core.model import Project


def _apply(project: Project, cause: Cause) -> Project:
    piece = project.composition(cause.piece)
    begin, end = piece.span
    refs = {KeyRef(cause.layer, cause.name, key.frame) for key in piece.layer(cause.layer).track(cause.name).keys}
    frames = [ref.frame for ref in refs]
    first, last, half = min(frames), max(frames), (end - begin) // 2
    if len(refs) < 2 or half < len(refs) - 1:
        raise ModelError("There is too little time for these keys to run there and back.")
    moved, landed = keys_moved(piece, frozenset(refs), begin - first, False)
    short, landed = keys_stretched(moved, frozenset(landed), begin, half / (last - first))
    made, _ = keys_mirrored(short, landed)
    return project.with_composition(loop_closed(made, [(cause.layer, cause.name)]))


register_mend(Mend("ping-pong", "There and back", "The keys take half of the time, then run backwards", _apply))
