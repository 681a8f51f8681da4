"""Frames made ready in background threads: what is wanted, and who sees to it."""

from __future__ import annotations

import threading
import time
from collections.abc import Callable

import numpy as np
from attrs import frozen
from PyQt6.QtCore import QObject, Qt, QTimer, pyqtSignal

from spiralis.app.work.background import SmallPictures
from spiralis.app.work.beside import rest_meanwhile
from spiralis.app.work.renderers import RENDERERS
from spiralis.core.errors import Cancelled
from spiralis.core.model import Project
from spiralis.core.render.frame import render_rgba8
from spiralis.core.render.store import FrameKey, FrameStore

#: Frames ahead wait so long, in ms, before they ask again whether small pictures are done.
_PUT_OFF = 60
#: So long, in s, a thread waits before it looks again at what it could not take.
_LOOK = 0.25
#: So long, in s, each thread is waited for at the end.
_END = 0.1


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
        self._costs: dict[tuple[str, float], float] = {}
        self._warm: set[tuple[int, str, float]] = set()
        self._first: dict[tuple[str, float], float] = {}
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
        """End the threads; what they are at is given up between two layers, and hardly waited for."""
        with self._condition:
            self._stopped = True
            self._wanted = []
            for stop in self._making.values():
                stop.set()
            self._condition.notify_all()
        for thread in self._threads:
            thread.join(timeout=_END)

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
                        # What stood behind it may be for another thread.
                        self._condition.notify_all()
                        return request
                # What another thread is to see to may be for this one as soon as a process more is there.
                self._condition.wait(_LOOK if self._wanted and not self._resting else None)
        return None

    def _may_take(self, place: int, request: FrameRequest) -> bool:
        """Whether a thread may see to a request now; of what somebody waits for, one at a time."""
        if request.awaited and self._urgent:
            return False
        there = [RENDERERS.free(number) for number in (0, 1)]
        if all(there):
            # An edit finds what is kept of the one before in the same process.
            return request.due or (place == 0) == request.awaited
        if any(there):
            return there[place]
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
        if not request.awaited:
            self._note_cost(place, key, time.perf_counter() - started)
        return key

    def _note_cost(self, place: int, key: FrameKey, seconds: float) -> None:
        """Remember what frames ahead take; the first at a size finds nothing that it needs, which says nothing."""
        own = (place, key.composition, key.scale)
        if own in self._warm:
            before = self._costs.get(own[1:], seconds)
            self._costs[own[1:]] = 0.5 * before + 0.5 * seconds
        elif own[1:] not in self._costs:
            self._first[own[1:]] = min(self._first.get(own[1:], seconds), seconds)
        self._warm.add(own)

    def cost(self, composition: str, scale: float) -> float:
        """Return what a frame ahead of a composition takes at a scale, in seconds; 0 where that is not known yet."""
        return self._costs.get((composition, scale), 0.0)

    def expected(self, composition: str, scale: float) -> float:
        """Return how long the next frame ahead may take, in seconds: the first ones say something too."""
        place = (composition, scale)
        return self._costs.get(place) or self._first.get(place, 0.0)
