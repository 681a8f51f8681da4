"""Markers of the piece: set and taken away at the playhead, and gone to."""

from __future__ import annotations

from attrs import evolve

from spiralis.app.session import Session
from spiralis.core.model import Composition, Marker


def set_marker(session: Session) -> None:
    """Put a marker at the playhead, or take the one that is there away."""
    frame = session.frame

    def change(piece: Composition) -> Composition:
        kept = tuple(marker for marker in piece.markers if marker.frame != frame)
        if len(kept) == len(piece.markers):
            kept = tuple(sorted((*kept, Marker(frame, f"{len(kept) + 1}")), key=lambda marker: marker.frame))
        return evolve(piece, markers=kept)

    session.edit("Marker", change)


def to_marker(session: Session, forwards: bool) -> None:
    """Move the playhead to the next or previous marker."""
    frames = [m.frame for m in session.composition.markers if (m.frame > session.frame) == forwards]
    frames = [frame for frame in frames if frame != session.frame]
    if frames:
        session.go_to(min(frames) if forwards else max(frames))
