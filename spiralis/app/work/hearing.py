"""What is heard of the piece on the canvas while it plays."""

from __future__ import annotations

from contextlib import suppress
from functools import partial
from importlib import import_module
from typing import Any, Protocol

import numpy as np
from PyQt6.QtCore import QObject, pyqtSignal

from spiralis.app.session import Session
from spiralis.app.work.background import Background
from spiralis.app.work.loudspeaker import Outlet
from spiralis.app.work.soon import Soon
from spiralis.core.model import Composition, Project
from spiralis.core.sound.mixing import mixed, sounds


class Playing(Protocol):
    """What plays a piece by a clock."""

    @property
    def playing(self) -> bool:
        """Whether it plays now."""
        ...

    @property
    def loop(self) -> bool:
        """Whether it goes round and round."""
        ...

    @property
    def gone(self) -> float:
        """Seconds of the play span that were played before now, rounds and what lay before its start counted in."""
        ...

    #: It plays, or stops, or plays from elsewhere.
    playingChanged: Any


def _mixed(project: Project, piece: Composition, span: tuple[int, int]) -> np.ndarray:
    """Return what a piece sounds like; beside the window, which does not wait for what plays it either."""
    with suppress(ImportError):
        import_module("PyQt6.QtMultimedia")
    return mixed(project, piece, *span)


class Hearing(QObject):
    """Lets the piece be heard from where it plays, in step with the clock; edits as soon as they are mixed."""

    #: Whether anything is heard of the piece on the canvas has changed, or whether there is something to hear it from.
    changed = pyqtSignal()

    def __init__(self, parent: QObject, session: Session, player: Playing) -> None:
        super().__init__(parent)
        self.session, self.player = session, player
        self.sounding = False
        self._outlet = Outlet()
        self._background = Background(self)
        player.playingChanged.connect(self._follow)
        soon = Soon(self, self._look)
        for signal in (session.projectChanged, session.compositionChanged, session.peek.changed):
            signal.connect(soon.ask)
        self._wanted = session.view["sound"]
        session.view.changed.connect(self._heed)
        self._look()

    @property
    def nowhere(self) -> bool:
        """Whether nothing was found that it could be heard from."""
        return self._outlet.nowhere

    def _shown(self) -> tuple[Project, Composition | None]:
        """Return project and piece as they are seen: with a row of the variants while somebody looks at that."""
        shown = self.session.peek.shown
        project = self.session.project if shown is None else shown[0]
        return project, project.find(self.session.composition_id)

    def _look(self) -> None:
        """See whether anything is heard of the piece as it is now, and mix it anew while it plays."""
        project, piece = self._shown()
        before, self.sounding = self.sounding, piece is not None and sounds(project, piece)
        if before != self.sounding:
            self.changed.emit()
        self._follow()

    def _heed(self) -> None:
        """Let it be heard, or be silent, where the view's choice of that is another; of others it knows nothing."""
        before, self._wanted = self._wanted, self.session.view["sound"]
        if before != self._wanted:
            self._follow()

    def _follow(self) -> None:
        project, piece = self._shown()
        if piece is not None and self.player.playing and self.sounding and self.session.view["sound"]:
            self._background.run_newest(partial(_mixed, project, piece, piece.span), self._take)
        else:
            self._outlet.end()

    def _take(self, samples: object) -> None:
        """Let samples be heard from where it plays now, or go on with them."""
        if not (isinstance(samples, np.ndarray) and self.player.playing and self.session.view["sound"]):
            return
        before = self._outlet.nowhere
        self._outlet.play(samples, self.player.loop, self.player.gone)
        if before != self._outlet.nowhere:
            self.changed.emit()
