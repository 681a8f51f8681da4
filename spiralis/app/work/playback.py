"""Frames made ready in background threads, and the clock that plays them at true speed."""

from __future__ import annotations

import threading
import time
from collections.abc import Callable

import numpy as np
from attrs import evolve, frozen
from PyQt6.QtCore import QObject, Qt, QTimer, pyqtSignal

from spiralis.app.session import Session
from spiralis.app.work.background import SmallPictures
from spiralis.app.work.beside import rest_meanwhile
from spiralis.app.work.renderers import RENDERERS
from spiralis.app.work.soon import Soon
from spiralis.core.errors import Cancelled
from spiralis.core.model import Project
from spiralis.core.render.frame import render_rgba8
from spiralis.core.render.store import FrameKey, FrameStore

#: Frames ahead wait so long, in ms, before they ask again whether small pictures are done.
_PUT_OFF = 60


@frozen(eq=False)
class FrameRequest:
    """All that rendering a frame needs: the frozen project and the key of the result.

    Somebody waits for what is ``awaited``; what is ``due`` has its turn soon, as something plays.
    """

    project: Project
    key: FrameKey
    threads: int = 1
    awaited: bool = False
    due: bool = False

    def __call__(self, stops: Callable[[], bool] = lambda: False) -> np.ndarray:
        """Render the frame, uint8 (h, w, 4) premultiplied; raises Cancelled soon after ``stops()`` says so."""
        key = self.key
        return render_rgba8(self.project, key.composition, key.frame, key.scale, self.threads, stops)


class FrameMaker(QObject):
    """Two threads that see to what is wanted, the most urgent first. The window's thread never renders.

    Each has a process of its own that draws, as soon as those are there. Until then a frame that nobody waits for yet
    is begun only when the window has nothing else to do: building it holds the interpreter's lock, which painting needs
    as well. The first one keeps itself free for what somebody waits for.
    """

    ready = pyqtSignal(object)
    _idleAsked = pyqtSignal()

    def __init__(self, store: FrameStore, threads: int = 2) -> None:
        super().__init__()
        self.store = store
        self._wanted: list[FrameRequest] = []
        self._making: dict[FrameKey, threading.Event] = {}
        self._condition = threading.Condition()
        self._stopped = self._resting = False
        self._asked = self._granted = self._urgent = False
        # A timer of no length runs after all that waits in the event loop, painting too.
        self._idle = QTimer(self)
        self._idle.setSingleShot(True)
        self._idle.timeout.connect(self._grant)
        self._idleAsked.connect(self._idle.start, Qt.ConnectionType.QueuedConnection)
        rest_meanwhile(self.rest)
        self.seconds: dict[float, float] = {}
        self._threads = [
            threading.Thread(target=self._work, args=(place,), name=f"ready-{place}", daemon=True)
            for place in range(threads)
        ]
        for thread in self._threads:
            thread.start()

    def want(self, requests: list[FrameRequest]) -> None:
        """Replace what is wanted, most urgent first; what was wanted before and is not now is dropped."""
        with self._condition:
            self._wanted = [r for r in requests if not self.store.holds(r.key)]
            # What is half done is finished, as an old picture is better than none while one drags; but not one of
            # another piece or size, which nobody will look at.
            looks = {(r.key.composition, r.key.scale) for r in requests}
            for key, stop in self._making.items():
                if looks and (key.composition, key.scale) not in looks:
                    stop.set()
            self._condition.notify_all()

    def rest(self, rests: bool) -> None:
        """Begin no further frame, or go on."""
        with self._condition:
            self._resting = rests
            self._condition.notify_all()

    def stop(self) -> None:
        """End the threads."""
        with self._condition:
            self._stopped = True
            self._wanted = []
            self._condition.notify_all()
        for thread in self._threads:
            thread.join(timeout=5)

    def _take(self, place: int) -> FrameRequest | None:
        with self._condition:
            while not self._stopped:
                for index, request in enumerate(() if self._resting else self._wanted):
                    # What was asked for again while it was being made is there by now.
                    if request.key not in self._making and not self.store.holds(request.key):
                        if not self._may_take(place, request):
                            break
                        del self._wanted[index]
                        self._making[request.key] = threading.Event()
                        self._urgent |= request.awaited
                        return request
                self._condition.wait()
        return None

    def _may_take(self, place: int, request: FrameRequest) -> bool:
        """Whether a thread may see to a request now; of what somebody waits for, one at a time."""
        if request.awaited and self._urgent:
            return False
        if RENDERERS.ready(0) and RENDERERS.ready(1):
            # An edit finds what is kept of the one before in the same process.
            return request.due or (place == 0) == request.awaited
        return request.awaited or request.due or self._may_begin()

    def _may_begin(self) -> bool:
        """Whether the window was idle since the last frame was begun; asks it where that is not known."""
        granted, self._granted = self._granted, False
        if not granted and not self._asked:
            self._asked = True
            self._idleAsked.emit()
        return granted

    def _grant(self) -> None:
        if SmallPictures.any_wanted():
            # One looks at those; frames ahead are for later.
            self._idle.start(_PUT_OFF)
            return
        with self._condition:
            self._asked, self._granted = False, True
            self._condition.notify()

    def _work(self, place: int) -> None:
        while (request := self._take(place)) is not None:
            key = self._made(request, place)
            # While it waits for more, the thread must not hold on to a project that may be left meanwhile.
            del request
            if key is not None and not self._stopped:
                self.ready.emit(key)

    def _made(self, request: FrameRequest, place: int) -> FrameKey | None:
        """Render a frame and keep it; return its key, or None for one that is not wanted any more."""
        key, started = request.key, time.perf_counter()
        try:
            frame = RENDERERS.frame(place, request.project, key, request.threads)
            if frame is None:
                frame = request(self._making[key].is_set)
            self.store.put(key, frame, time.perf_counter() - started)
        except Cancelled:
            return None
        except Exception as error:
            # A frame that cannot be drawn must not end the thread; the canvas keeps its last picture.
            print(f"frame {key.frame} could not be drawn: {error}")
        finally:
            with self._condition:
                self._making.pop(key, None)
                if request.awaited:
                    self._urgent = False
                    self._condition.notify_all()
        self.seconds[key.scale] = 0.5 * self.seconds.get(key.scale, 0.0) + 0.5 * (time.perf_counter() - started)
        return key


class Player(QObject):
    """Keeps the canvas' frames coming: the one under the playhead first, then those that play next."""

    pictureChanged = pyqtSignal()
    readyChanged = pyqtSignal()
    playingChanged = pyqtSignal(bool)

    AHEAD = 400
    REST = 150

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.store = FrameStore()
        self.maker = FrameMaker(self.store)
        self.maker.ready.connect(self._on_ready, Qt.ConnectionType.QueuedConnection)
        self.display_scale = 1.0
        self.share: float | None = None
        self._eased = 1.0
        self.loop = True
        self.playing = False
        self.late = 0
        self._from = (0.0, 0)
        self._last: FrameKey | None = None
        self._clock = QTimer(self)
        self._clock.setTimerType(Qt.TimerType.PreciseTimer)
        self._clock.timeout.connect(self._tick)
        self._fill = QTimer(self)
        self._fill.setSingleShot(True)
        self._fill.setInterval(0)
        self._fill.timeout.connect(self._ask)
        # While one drags, only the frame under the playhead is made; the rest follows when the hand rests.
        self._rest = QTimer(self)
        self._rest.setSingleShot(True)
        self._rest.timeout.connect(self._ask_all)
        # Frames ahead come by the dozen; what shows which are ready is painted a few times a second.
        self._tell = Soon(self, self.readyChanged.emit, wait=120)
        for signal in (session.projectChanged, session.compositionChanged, session.frameChanged, session.peek.changed):
            signal.connect(self.refresh)
        session.selectionChanged.connect(self._make_way)

    @property
    def scale(self) -> float:
        """The scale of preview frames: what the canvas shows, or the chosen share of the full size."""
        if self.share is not None:
            return self.share
        return min(1.0, self.display_scale) * self._eased

    def key(self, frame: int, scale: float | None = None) -> FrameKey:
        """Return the key of a frame of what is on the canvas."""
        return FrameKey(self.session.pictured[1], self.session.composition_id, frame, scale or self.scale)

    def picture(self) -> np.ndarray | None:
        """Return the ready frame under the playhead, or None."""
        return self.store.get(self.key(self.session.frame))

    def latest_picture(self) -> np.ndarray | None:
        """Return the ready frame under the playhead; while its newest version is drawn, the last one that was."""
        ready, last = self.picture(), self._last
        if ready is None and last is not None and last == evolve(self.key(self.session.frame), version=last.version):
            ready = self.store.get(last)
        return ready

    def straight_picture(self) -> np.ndarray | None:
        """Return the ready frame under the playhead with straight alpha, or None."""
        ready = self.picture()
        if ready is None:
            return None
        alpha = ready[..., 3:].astype(np.uint16)
        colour = np.minimum(ready[..., :3].astype(np.uint16) * 255 // np.maximum(alpha, 1), 255)
        return np.concatenate([colour, alpha], axis=-1).astype(np.uint8)

    def awaits(self) -> bool:
        """Whether the picture under the playhead is still being drawn, and nothing plays."""
        return not self.playing and not self.store.holds(self.key(self.session.frame))

    def ready_frames(self) -> set[int]:
        """Return the frames that are ready to play."""
        return self.store.ready(self.session.pictured[1], self.session.composition_id, self.scale)

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
            self._ask_all()
        elif self.store.holds(self.key(self.session.frame)):
            self._rest.start(self.REST)
            self.pictureChanged.emit()
        else:
            self._ask_one()
            self._rest.start(self.REST)

    def _ask_one(self) -> None:
        """Ask for the one frame that somebody waits for: both threads share its rows."""
        self.maker.want([FrameRequest(self.session.pictured[0], self.key(self.session.frame), 2, awaited=True)])

    def _ask_all(self) -> None:
        if self.awaits():
            # Frames ahead would only slow down the one that somebody waits for.
            self._rest.start(self.REST)
            return
        session, project = self.session, self.session.pictured[0]
        first, last = session.composition.span
        count = last - first
        start = session.frame if first <= session.frame < last else first
        order = [first + (start - first + step) % count for step in range(min(count, self.AHEAD))]
        # What is due now comes too late while something plays: first what can still be there in time.
        lead = min(self._lead(), len(order) - 1)
        frames = [*order[lead:], *order[:lead]] if self.playing else [session.frame, *order]
        bytes_each = self.scale**2 * session.composition.width * session.composition.height * 4
        # Half of what may be kept is for ready frames; the rest for what they are made of.
        frames = frames[: max(2, int(0.5 * self.store.limit / max(bytes_each, 1)))]
        self.maker.want([FrameRequest(project, self.key(frame), due=self.playing) for frame in frames])
        self.pictureChanged.emit()

    def _lead(self) -> int:
        """Return by how many frames playing has gone on until a frame that is begun now is ready."""
        return 1 + int(self.maker.seconds.get(self.scale, 0.0) * float(self.session.composition.rate))

    def _on_ready(self, key: FrameKey) -> None:
        now = self.key(self.session.frame)
        if key == now:
            self._last = None
            self.pictureChanged.emit()
        elif not self.playing and not self.store.holds(now) and key == evolve(now, version=key.version):
            # Better what was true a moment ago than nothing until the hand rests.
            self._last = key
            self.pictureChanged.emit()
        self._tell.ask()

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
        self.playing, self.late = True, 0
        self._from = (time.perf_counter(), self.session.frame)
        self._clock.start(max(1, round(500 / float(self.session.composition.rate))))
        self.playingChanged.emit(True)

    def _ease(self) -> None:
        """Drop resolution before time: at automatic resolution a heavy piece plays at a half or a quarter.

        Two threads that share the interpreter make about one and a half times the frames of one.
        """
        first, last = self.session.composition.span
        if len(self.ready_frames()) >= last - first:
            return
        seconds = self.maker.seconds.get(self.scale, 0.0)
        while seconds * float(self.session.composition.rate) > 1.5 and self._eased > 0.25:
            self._eased /= 2
            seconds /= 3

    def stop(self) -> None:
        """Stop where the playhead is; a picture that was coarse to keep up becomes sharp again."""
        self.playing = False
        self._clock.stop()
        if self._eased < 1.0:
            self._eased = 1.0
            self.refresh()
        self.playingChanged.emit(False)

    def frame_at(self, seconds: float) -> int:
        """Return the frame that is due so many seconds after play was pressed."""
        first, last = self.session.composition.span
        due = self._from[1] - first + int(seconds * float(self.session.composition.rate))
        return first + due % (last - first) if self.loop else min(first + due, last - 1)

    def _tick(self) -> None:
        due = self.frame_at(time.perf_counter() - self._from[0])
        if due == self.session.frame:
            if not self.loop and due == self.session.composition.span[1] - 1:
                self.stop()
            return
        if not self.store.holds(self.key(due)):
            self.late += 1
        self.session.go_to(due)

    def wait_for_picture(self, seconds: float, process: Callable[[], None]) -> bool:
        """Run the event loop until the frame under the playhead is ready; for tests and screenshots."""
        ends = time.perf_counter() + seconds
        while time.perf_counter() < ends:
            process()
            if self.picture() is not None:
                return True
            time.sleep(0.005)
        return False
