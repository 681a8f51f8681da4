"""Cycles of objects are collected where nobody waits, and not wherever Python happens to allocate."""

from __future__ import annotations

import gc
import time

#: Collections of the youngest before one of the next, as Python does it by itself.
_YOUNGEST, _MIDDLE = 700, 10
#: A whole collection takes as long as all that is open is large: so long at least between two, in seconds, and so
#: many times as long as the last one took.
_REST, _SHARE = 60.0, 200.0


class Collections:
    """Takes the place of Python's own collections; what was there when it began is never looked through again."""

    def __init__(self) -> None:
        gc.disable()
        gc.collect()
        gc.freeze()
        self._next = time.monotonic() + _REST

    def look(self, may_take_long: bool = True) -> None:
        """Collect what is due; everything only where it ``may_take_long``."""
        youngest, middle, _ = gc.get_count()
        if youngest < _YOUNGEST:
            return
        now = time.monotonic()
        if now >= self._next and may_take_long:
            gc.collect()
            ended = time.monotonic()
            self._next = ended + max(_REST, (ended - now) * _SHARE)
        else:
            gc.collect(1 if middle >= _MIDDLE else 0)
