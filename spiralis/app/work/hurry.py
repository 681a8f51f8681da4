"""How coarse pictures are while one drags: whole where they come in time, and as soon as the hand rests."""

from __future__ import annotations

import time
from collections import deque
from collections.abc import Hashable
from statistics import median

#: So many seconds a picture may take while one drags. Where two in a row take longer, the next ones are so coarse.
_SMOOTH, _COARSE = 0.033, 0.6
#: Where the middle one of so many coarse ones took more than this part of what whole ones took, that is no use.
_JUDGED, _GAIN = 9, 0.8
#: Seconds after its last move from which on a hand that still holds rests.
RESTS = 0.15


class Hurry:
    """Measures the pictures of a drag's edits, each from when it is asked for until it is there."""

    def __init__(self) -> None:
        self._on = self._dragged = False
        self._moved = 0.0
        self._asked: tuple[Hashable, float] | None = None
        self.begin_anew()

    def begin_anew(self) -> None:
        """Forget what was measured: another piece's pictures may be quick."""
        self._level, self._took, self._slow = 1.0, 0.0, 0
        self._whole: deque[float] = deque(maxlen=_JUDGED)
        self._coarse: deque[float] = deque(maxlen=_JUDGED)
        self._cold = self._no_use = False

    @property
    def share(self) -> float:
        """The part of their size at which pictures are made now."""
        return self._level if self._on else 1.0

    @property
    def moving(self) -> bool:
        """Whether the hand drags, and does not rest."""
        return self._dragged and time.perf_counter() - self._moved < RESTS

    def drag(self, goes_on: bool) -> None:
        """Take note that a drag goes on, or has ended."""
        self._moved = time.perf_counter()
        if goes_on and not self._dragged:
            self._slow = 0
            if self._took < _SMOOTH / 3:
                self._level = 1.0
        self._dragged = goes_on

    def edited(self) -> None:
        """Take note of an edit, whose picture is made at the share from now on."""
        waited = time.perf_counter() - self._asked[1] if self._asked is not None else 0.0
        if self._on and waited > _SMOOTH:
            # The hand did not wait for the last one.
            self._note(waited)
        self._on = self._dragged
        if self._level == 1.0 and self._slow > 1 and not self._no_use:
            self._level, self._cold = _COARSE, True
        elif len(self._coarse) == _JUDGED and median(self._coarse) > _GAIN * median(self._whole):
            self._level, self._no_use = 1.0, True
            self._coarse.clear()

    def rest(self) -> bool:
        """Make pictures whole again, unless the hand still moves; return whether they may have been coarse."""
        if self.moving:
            return False
        was, self._on = self._on, False
        return was

    def asked(self, picture: Hashable) -> None:
        """Take note that a picture is asked for; asking again changes nothing."""
        if self._asked is None or self._asked[0] != picture:
            self._asked = (picture, time.perf_counter())

    def came(self, picture: Hashable) -> None:
        """Take note that a picture is there."""
        if self._asked is not None and self._asked[0] == picture:
            if self._on:
                self._note(time.perf_counter() - self._asked[1])
            self._asked = None

    def _note(self, seconds: float) -> None:
        self._took = seconds
        if self._level == 1.0:
            self._slow = self._slow + 1 if seconds > _SMOOTH else 0
            self._whole.append(seconds)
        elif self._cold:
            # The first of a size finds nothing that it needs, which says nothing.
            self._cold = False
        else:
            self._coarse.append(seconds)
