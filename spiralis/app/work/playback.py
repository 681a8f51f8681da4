"""The clock that plays frames at true speed."""

from __future__ import annotations

import math
import time

from PyQt6.QtCore import Qt, QTimer, pyqtSignal

from spiralis.app.session import Session
from spiralis.app.work.renderers import RENDERERS
from spiralis.app.work.supply import FrameSupply
from spiralis.core.editing.keys import set_at
from spiralis.core.model import Composition

#: So many frames in a row that come too late make playing coarser, where one takes more than this part of its time.
_LATE, _TOO_SLOW, _COARSEST = 2, 1.0, 0.25


def frame_due(piece: Composition, start: int, seconds: float, loop: bool = True) -> int:
    """Return the frame of the play span that is due so many seconds after a start, at true speed."""
    first, last = piece.span
    due = start - first + int(seconds * float(piece.rate))
    return first + due % (last - first) if loop else min(first + due, last - 1)


class Player(FrameSupply):
    """Plays what the canvas shows, and drops resolution before time where frames come too late."""

    playingChanged = pyqtSignal(bool)

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.loop = True
        self.late = self._lately = 0
        self._from, self._due = (0.0, 0), 0
        self._clock = QTimer(self)
        self._clock.setTimerType(Qt.TimerType.PreciseTimer)
        self._clock.setSingleShot(True)
        self._clock.timeout.connect(self._on_clock)
        self._piece = session.composition
        session.projectChanged.connect(self._stop_where_set)
        session.frameChanged.connect(self._stop_where_put)

    def toggle(self) -> None:
        """Play or stop."""
        self.stop() if self.playing else self.play()

    def play(self) -> None:
        """Play from the playhead, at true speed."""
        RENDERERS.start()
        first, last = self.session.composition.span
        if not first <= self.session.frame < last or (not self.loop and self.session.frame == last - 1):
            self.session.go_to(first)
        self._ease()
        self.playing, self.late, self._lately = True, 0, 0
        self._piece = self.session.composition
        self._from, self._due = (time.perf_counter(), self.session.frame), self.session.frame
        self._wind()
        # The first frames are due in a moment.
        self.ask_all()
        self.playingChanged.emit(True)

    def set_loop(self, loop: bool) -> None:
        """Play round and round, or to the end of this round."""
        self.loop = loop
        if self.playing:
            self._from = (time.perf_counter(), self.session.frame)
            self._wind()
            self.playingChanged.emit(True)

    def _wind(self) -> None:
        """Let the clock go off as soon as the next frame's turn begins."""
        rate, gone = float(self.session.composition.rate), time.perf_counter() - self._from[0]
        self._clock.start(max(1, math.ceil(1000 * ((int(gone * rate) + 1) / rate - gone))))

    def _on_clock(self) -> None:
        self._tick()
        if self.playing:
            self._wind()

    def _ease(self) -> None:
        """Drop resolution before time: at automatic resolution a heavy piece plays at a half or a quarter.

        Two processes beside a window that paints make about one and a half times the frames of one. Once the coarse
        frames are all there, the whole ones are made beside them, and shown from the round on in which all are there.
        """
        if self.all_ready():
            return
        cost = self.cost()
        while cost > 1.5 and self.eased > _COARSEST:
            self.eased /= 2
            cost /= 3

    def stop(self) -> None:
        """Stop where the playhead is; a picture that was coarse to keep up becomes sharp again."""
        self.playing = False
        self._clock.stop()
        if self.eased < 1.0:
            self.eased = 1.0
            self.refresh()
        self.playingChanged.emit(False)

    def end(self) -> None:
        """Stop, and make no more pictures: the window goes."""
        self.stop()
        self.maker.stop()

    def _stop_where_put(self, frame: int) -> None:
        """Stop where a person puts the playhead, which would be gone from there at once."""
        if self.playing and frame != self._due:
            self.stop()

    def _stop_where_set(self) -> None:
        """Stop where a key is set at the playhead: what is set by the same drag must not end up on every frame."""
        before, self._piece = self._piece, self.session.composition
        if self.playing and before.id == self._piece.id and set_at(before, self._piece, self.session.frame):
            self.stop()

    def frame_at(self, seconds: float) -> int:
        """Return the frame that is due so many seconds after play was pressed."""
        return frame_due(self.session.composition, self._from[1], seconds, self.loop)

    @property
    def gone(self) -> float:
        """Seconds of the play span that were played before now, rounds and what lay before its start counted in."""
        piece, (began, frame) = self.session.composition, self._from
        return (frame - piece.span[0]) / float(piece.rate) + time.perf_counter() - began

    def _tick(self) -> None:
        due = self.frame_at(time.perf_counter() - self._from[0])
        if due == self.session.frame:
            if not self.loop and due == self.session.composition.span[1] - 1:
                self.stop()
            return
        if self.store.holds(self.key(due)):
            self._lately = 0
        else:
            self.late += 1
            self._lately += 1
            if self._lately >= _LATE:
                self._coarsen()
        self._due = due
        self.session.go_to(due)

    def _coarsen(self) -> None:
        """Halve the resolution where frames come too late one after the other and take too long to draw."""
        self._lately = 0
        if self.share is None and not self._sharp and self.cost() > _TOO_SLOW and self.eased > _COARSEST:
            self.eased /= 2
            self.ask_all()
