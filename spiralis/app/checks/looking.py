"""Looking at the piece on the canvas beside the window: what is found is told only while it is about what is shown."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any, TypeVar

from PyQt6.QtCore import QObject

from spiralis.app.session import Session
from spiralis.app.work.background import Background
from spiralis.app.work.renderers import RENDERERS
from spiralis.core.errors import Cancelled
from spiralis.core.model import Composition
from spiralis.core.render.remote import never

Found = TypeVar("Found")


class Looking(QObject):
    """Has one thing at a time worked out about the piece; what was asked for before and not begun is dropped."""

    def __init__(self, session: Session, parent: QObject) -> None:
        super().__init__(parent)
        self.session = session
        self._background = Background(self)

    def look(
        self, function: Callable[..., Found], found: Callable[[Composition, Found], object],
        stops: Callable[[], bool] = never, stopped: Callable[[], object] = lambda: None, **named: Any,
    ) -> None:  # fmt: skip
        """Call ``found(piece, result)`` with what ``function(project, piece, stops=…, **named)`` returns.

        It ends once the project is another one or ``stops()`` says so; ``stopped()`` is called where it was given up.
        """
        project, piece = self.session.project, self.session.composition

        def over() -> bool:
            return self.session.project is not project or stops()

        def done(result: Any) -> None:
            if isinstance(result, Cancelled):
                stopped()
            elif isinstance(result, Exception):
                raise result
            elif self.session.project is project and self.session.composition is piece:
                found(piece, result)

        self._background.run_newest(lambda: RENDERERS.work(function, project, piece.id, over, **named), done)
