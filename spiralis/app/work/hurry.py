"""How coarse pictures are while one drags: as fine as they come in time, sharp again as soon as the hand rests."""

from __future__ import annotations

import time
from collections.abc import Hashable

#: So many seconds a picture may take while one drags. Where two in a row take longer, the next is so much coarser, down
#: to the least; where the last one was there in a third of that, the next drag begins that much finer.
_SMOOTH, _STEP, _LEAST = 0.03, 0.7, 0.49


class Hurry:
    """Measures the pictures of a drag's edits, each from when it is asked for until it is there."""

    def __init__(self) -> None:
        self._level, self._on, self._dragged = 1.0, False, False
        self._took, self._slow = 0.0, 0
        self._asked: tuple[Hashable, float] | None = None

    @property
    def share(self) -> float:
        """The part of their size at which pictures are made now."""
        return self._level if self._on else 1.0

    def drag(self, goes_on: bool) -> None:
        """Take note that a drag goes on, or has ended."""
        if goes_on and not self._dragged:
            self._level = min(self._level / _STEP, 1.0) if self._took < _SMOOTH / 3 else self._level
            self._slow = 0
        self._dragged = goes_on

    def edited(self) -> None:
        """Take note of an edit, whose picture is made at the share from now on."""
        waited = time.perf_counter() - self._asked[1] if self._asked is not None else 0.0
        if self._on and waited > _SMOOTH:
            # The hand did not wait for the last one.
            self._note(waited)
        self._on = self._dragged
        if self._slow > 1 and self._level * _STEP > 0.99 * _LEAST:
            self._level, self._slow = self._level * _STEP, 0

    def rest(self) -> bool:
        """Make pictures whole again; return whether they were coarse."""
        was, self._on = self._on, False
        return was

    def begin_anew(self) -> None:
        """Forget what was measured: another piece's pictures may be quick."""
        self._level = 1.0

    def asked(self, picture: Hashable) -> None:
        """Take note that a picture is asked for; asking again changes nothing."""
        if self._asked is None or self._asked[0] != picture:
            self._asked = (picture, time.perf_counter())

    def came(self, picture: Hashable) -> None:
        """Take note that a picture is there."""
        if self._on and self._asked is not None and self._asked[0] == picture:
            self._note(time.perf_counter() - self._asked[1])
            self._asked = None

    def _note(self, seconds: float) -> None:
        self._took = seconds
        self._slow = self._slow + 1 if seconds > _SMOOTH else 0
