"""What the canvas shows, kept coming: which frames are wanted, and in which order they are asked for."""

from __future__ import annotations

import time
from collections.abc import Callable

import numpy as np
from attrs import evolve
from PyQt6.QtCore import QObject, Qt, QTimer, pyqtSignal

from spiralis.app.session import Session
from spiralis.app.work.hurry import RESTS, Hurry
from spiralis.app.work.making import FrameMaker, FrameRequest
from spiralis.app.work.soon import Soon, give_way
from spiralis.core.render.store import FrameKey, FrameStore

#: So many frames are made beside the first one of a piece.
_AT_FIRST = 3


def _alike(key: FrameKey, other: FrameKey) -> bool:
    """Whether two pictures show the same frame, of whatever version and size."""
    return (key.composition, key.frame) == (other.composition, other.frame)


class FrameSupply(QObject):
    """Keeps the canvas' frames coming: the one under the playhead first, then those that play next."""

    pictureChanged = pyqtSignal()
    readyChanged = pyqtSignal()

    AHEAD = 400
    #: Milliseconds.
    REST = round(1000 * RESTS)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.store = FrameStore()
        self.maker = FrameMaker(self.store)
        self.maker.ready.connect(self._on_ready, Qt.ConnectionType.QueuedConnection)
        self.display_scale = 1.0
        self.share: float | None = None
        #: Whether it plays, what part of the resolution that leaves, and whether all is there without that by now.
        self.playing, self.eased, self._sharp = False, 1.0, False
        self._hurry = Hurry()
        #: Whether nothing of the piece on the canvas was drawn since it came there.
        self._fresh = True
        self._last: FrameKey | None = None
        self._seen: FrameKey | None = None
        #: Whether there is a canvas in sight that paints the pictures.
        self.watched = False
        self._fill = QTimer(self)
        self._fill.setSingleShot(True)
        self._fill.setInterval(0)
        self._fill.timeout.connect(self._ask)
        # While one drags, only the frame under the playhead is made; the rest follows when the hand rests.
        self._rest = QTimer(self)
        self._rest.setSingleShot(True)
        self._rest.timeout.connect(self.ask_all)
        # Frames ahead come by the dozen; what shows which are ready is painted a few times a second.
        give_way(self, self)
        self._tell = Soon(self, self.readyChanged.emit, wait=120)
        session.projectChanged.connect(self._hurry.edited)
        session.compositionChanged.connect(self._begin_anew)
        for signal in (session.projectChanged, session.compositionChanged, session.frameChanged, session.peek.changed,
                       session.viewpoint.changed):
            signal.connect(self.refresh)
        session.selectionChanged.connect(self._make_way)

    @property
    def scale(self) -> float:
        """The scale of preview frames: what the canvas shows, or the chosen share of the full size."""
        return self._whole() * self.played_at

    @property
    def played_at(self) -> float:
        """What part of their size the pictures have for now, so that they come in time; 1 at rest."""
        return 1.0 if self._sharp or self.share is not None else self.eased

    def _whole(self) -> float:
        """Return the scale of preview frames where playing needs none to be coarser."""
        return min(1.0, self.display_scale) * self._hurry.share if self.share is None else self.share

    def key(self, frame: int, scale: float | None = None) -> FrameKey:
        """Return the key of a frame of what is on the canvas."""
        return FrameKey(self.session.pictured[1], self.session.composition_id, frame, scale or self.scale)

    def picture(self) -> np.ndarray | None:
        """Return the ready frame under the playhead, or None."""
        return self.store.get(self.key(self.session.frame))

    def latest_picture(self) -> np.ndarray | None:
        """Return the ready frame under the playhead; while its newest version is drawn, the last one that was."""
        ready, last = self.picture(), self._last
        if ready is None and last is not None and _alike(last, self.key(self.session.frame)):
            ready = self.store.get(last)
        return ready

    def awaits(self) -> bool:
        """Whether the picture under the playhead is still being drawn, and nothing plays."""
        return not self.playing and not self.store.holds(self.key(self.session.frame))

    def note_seen(self) -> None:
        """Take note that the picture under the playhead was painted."""
        self._seen = self.key(self.session.frame)

    def unseen(self) -> bool:
        """Whether the picture under the playhead is not painted yet, or not even drawn, and nothing plays."""
        if self.playing or self._seen == self.key(self.session.frame):
            return False
        return self.watched or self.awaits()

    def ready_frames(self) -> set[int]:
        """Return the frames that are ready to play."""
        return self._ready_at(self.scale)

    def _ready_at(self, scale: float) -> set[int]:
        return self.store.ready(self.session.pictured[1], self.session.composition_id, scale)

    def all_ready(self, scale: float | None = None) -> bool:
        """Whether every frame of the play span is ready, at what is played or another scale."""
        ready = self.ready_frames() if scale is None else self._ready_at(scale)
        return ready.issuperset(range(*self.session.composition.span))

    @property
    def pressed(self) -> bool:
        """Whether it plays while frames are still to be made: whatever else is worked out makes those late."""
        return self.playing and not self.all_ready()

    def ready_runs(self) -> list[tuple[int, int]]:
        """Return the frames that are ready to play as runs: first frame, frame after the last; in order."""
        runs: list[tuple[int, int]] = []
        for frame in sorted(self.ready_frames()):
            if runs and runs[-1][1] == frame:
                runs[-1] = (runs[-1][0], frame + 1)
            else:
                runs.append((frame, frame + 1))
        return runs

    def set_display_scale(self, scale: float) -> None:
        """Tell at which scale the canvas shows the piece, in device pixels."""
        if abs(scale - self.display_scale) > 1e-6:
            self.display_scale = scale
            self.refresh()

    def drag(self, goes_on: bool) -> None:
        """Take note that a drag goes on, whose edits come with coarser pictures where those would take too long."""
        self._hurry.drag(goes_on)
        if not goes_on and self._hurry.rest():
            self.refresh()

    def refresh(self) -> None:
        """Ask for what is wanted now; bursts of calls become one.

        The frame under the playhead is begun at once, before the panels paint themselves anew.
        """
        if self.awaits():
            self._ask_one()
        if not self._fill.isActive():
            self._fill.start()

    def _make_way(self) -> None:
        """Leave the interpreter to the panels while they show what was just chosen."""
        if not self.playing:
            self._ask_one()
            self._rest.start(3 * self.REST)

    def _ask(self) -> None:
        if self.playing:
            self.ask_all()
        elif self.store.holds(self.key(self.session.frame)):
            self._rest.start(self.REST)
            self.pictureChanged.emit()
        else:
            self._ask_one()
            self._rest.start(self.REST)

    def _begin_anew(self) -> None:
        self._hurry.begin_anew()
        self._fresh = True

    def _ask_one(self) -> None:
        """Ask for the one frame that somebody waits for: both threads share its rows.

        With the first one of a piece come those after it: the other process reads what it needs at the same time, and
        play may be pressed at once.
        """
        project, frame = self.session.pictured[0], self.session.frame
        key = self.key(frame)
        if self.awaits():
            self._hurry.asked(key)
        ahead = range(frame + 1, min(frame + 1 + _AT_FIRST, self.session.composition.span[1])) if self._fresh else ()
        self.maker.want([FrameRequest(project, key, 2, awaited=True),
                         *(FrameRequest(project, evolve(key, frame=number)) for number in ahead)])  # fmt: skip

    def ask_all(self) -> None:
        """Ask for all frames that play next, unless somebody waits for the one under the playhead."""
        if not self.awaits() and self._hurry.rest():
            self.refresh()
        if self.awaits() or (self._hurry.moving and not self.playing):
            # Frames ahead would only slow down the one that somebody waits for.
            self._rest.start(self.REST)
            return
        session, project = self.session, self.session.pictured[0]
        first, last = session.composition.span
        self._sharp = self.playing and self.eased < 1.0 and self.all_ready(self._whole())
        count, ready = last - first, self.ready_frames()
        start = session.frame if first <= session.frame < last else first
        order = [first + (start - first + step) % count for step in range(min(count, self.AHEAD))]
        # What is due now comes too late while something plays: first what can still be there in time.
        lead = min(self._lead(), len(order) - 1)
        frames = [*order[lead:], *order[:lead]] if self.playing else [session.frame, *order]
        frames = frames[: max(2, self._room(self.scale))]
        version, scale, piece_id, due = session.pictured[1], self.scale, session.composition_id, self.playing
        keys = (FrameKey(version, piece_id, frame, scale) for frame in frames if frame not in ready)
        self.maker.want([FrameRequest(project, key, due=due) for key in keys] or self._sharper(frames))
        self.pictureChanged.emit()

    def _room(self, *scales: float) -> int:
        """Return how many frames may be kept, at each of some scales; half of the room is for what they are made of."""
        piece = self.session.composition
        each = sum(scale**2 for scale in scales) * piece.width * piece.height * 4
        return int(0.5 * self.store.limit / max(each, 1))

    def _sharper(self, frames: list[int]) -> list[FrameRequest]:
        """Return what lets later rounds be as sharp as the piece at rest, where playing has made it coarser to keep up.

        What plays is all there by then. Only one process sees to these: the other one and the window keep the pace.
        """
        whole = self._whole()
        project, span = self.session.pictured[0], self.session.composition.span
        if self.scale == whole or self._room(whole, self.scale) < len(range(*span)):
            return []
        return [FrameRequest(project, self.key(frame, whole)) for frame in frames]

    def _lead(self) -> int:
        """Return by how many frames playing has gone on until a frame that is begun now is ready."""
        expected = self.maker.expected(self.session.composition_id, self.scale)
        return 1 + int(expected * float(self.session.composition.rate))

    def cost(self) -> float:
        """Return how long a frame takes to draw, in frames; 0 where that is not known."""
        return self.maker.cost(self.session.composition_id, self.scale) * float(self.session.composition.rate)

    def _on_ready(self, key: FrameKey) -> None:
        now = self.key(self.session.frame)
        if key == now:
            self._last, self._fresh = None, False
            self._hurry.came(key)
            self.pictureChanged.emit()
        elif not self.playing and not self.store.holds(now) and _alike(key, now):
            # Better what was true a moment ago than nothing until the hand rests.
            self._last = key
            self.pictureChanged.emit()
        self._tell.ask()

    def wait_for_picture(self, seconds: float, process: Callable[[], None]) -> bool:
        """Run the event loop until the frame under the playhead is ready; for tests and screenshots."""
        ends = time.perf_counter() + seconds
        while time.perf_counter() < ends:
            process()
            if self.picture() is not None:
                return True
            time.sleep(0.005)
        return False
