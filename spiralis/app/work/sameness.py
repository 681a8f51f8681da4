"""Says where an edit that was to change nothing in sight has changed the picture after all."""

from __future__ import annotations

from spiralis.app.session import Session
from spiralis.app.work.background import Background
from spiralis.core.model import Project
from spiralis.core.render.alike import look_alike


class Sameness:
    """Compares the picture on the playhead before and after an edit, beside the window."""

    def __init__(self, session: Session) -> None:
        self.session = session
        self.background = Background(session)

    def after(self, before: Project, sentence: str) -> None:
        """Say the sentence where the composition on the canvas does not look as it did in a version before the last
        edit; nothing where that is undone meanwhile, or another edit followed."""
        session = self.session
        now, piece, frame = session.project, session.composition_id, float(session.frame)
        if now is before or before.find(piece) is None:
            return

        def done(alike: object) -> None:
            if alike is False and session.project is now:
                session.said.emit(sentence)

        self.background.run(lambda: look_alike(before, now, piece, frame), done)
