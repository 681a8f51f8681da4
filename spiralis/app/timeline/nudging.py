"""The chosen keys nudged by frames with the arrow keys."""

from __future__ import annotations

from attrs import evolve, frozen

from spiralis.app.session import Session, say_fewer_keys
from spiralis.core.editing.keys import KeyRef, keys_moved
from spiralis.core.model import Composition


@frozen
class _Run:
    """Nudges in a row: one movement and one undo step, so that keys which are only passed by stay."""

    merge: str
    before: Composition
    keys: frozenset[KeyRef]
    by: int
    version: int
    landed: frozenset[KeyRef]


class Nudging:
    """Moves the chosen keys, or the playhead where none are chosen."""

    def __init__(self, session: Session) -> None:
        self._session = session
        self._run: _Run | None = None

    def by(self, frames: int) -> None:
        """Move the chosen keys by frames; without chosen keys, step the playhead."""
        session, run = self._session, self._run
        if not session.keys:
            session.go_to(session.frame + frames)
            return
        if run is None or run.version != session.version or run.landed != session.keys:
            version = session.version
            run = _Run(f"nudge-{version}", session.composition, session.keys, 0, version, session.keys)
        changed, landed = keys_moved(run.before, run.keys, run.by + frames, False)
        if not session.edit("Move keys", lambda _: changed, run.merge):
            return
        session.select(session.selected, landed)
        self._run = evolve(run, by=run.by + frames, version=session.version, landed=session.keys)
        say_fewer_keys(session, run.before)
