"""Motion by what is heard of the chosen layer."""

from __future__ import annotations

from collections.abc import Callable

from spiralis.app.session import Session
from spiralis.app.work.beside import beside
from spiralis.core.editing.hearing import marked_by, with_loudness
from spiralis.core.errors import SpiralisError
from spiralis.core.model import Composition, Layer, Project, layer_kind

Listen = Callable[[Project, Composition, Layer], tuple[Composition, str]]


def heard_layer(session: Session) -> Layer | None:
    """Return the first chosen layer of a kind that is heard."""
    return next((layer for layer in session.layers if layer_kind(layer.kind).hears is not None), None)


def mark_beats(session: Session) -> None:
    """Set a marker on each frame on which something begins in the chosen layer's sound."""
    before = len(session.composition.markers)
    if _listened(session, "Markers on its beats", lambda *heard: (marked_by(*heard), "")) is not None:
        new = len(session.composition.markers) - before
        said = {0: "There is a marker on each beat already.", 1: "One marker was set."}
        session.said.emit(said.get(new, f"{new} markers were set."))


def dial_loudness(session: Session) -> None:
    """Add a dial that goes by how loud the chosen layer is, and choose it."""
    dial = _listened(session, "Loudness as a dial", with_loudness)
    if dial is not None:
        session.select([dial])
        session.said.emit("Let numbers join this dial (⋮ beside them in Details): they go by how loud it is.")


def _listened(session: Session, name: str, listen: Listen) -> str | None:
    """Take what ``listen`` makes of the piece and the first chosen layer that is heard; return what it names."""
    project, piece, layer = session.project, session.composition, heard_layer(session)
    if layer is None:
        return None
    try:
        # Long music takes a moment to be listened to.
        made, named = beside(lambda: listen(project, piece, layer))
    except SpiralisError as error:
        session.failed.emit(str(error))
        return None
    return named if session.composition is piece and session.edit(name, lambda _: made) else None
