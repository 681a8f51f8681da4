"""Undo and redo of what is drawn but not in the project yet."""

from __future__ import annotations

from collections.abc import Callable
from typing import Generic, TypeVar

T = TypeVar("T")


class Steps(Generic[T]):
    """Holds the states ``before`` and ``after`` the present one, which ``now`` gives and ``put`` replaces."""

    def __init__(self, now: Callable[[], T], put: Callable[[T], object]) -> None:
        self._now, self._put = now, put
        self.before: list[T] = []
        self.after: list[T] = []

    def keep(self) -> None:
        """Keep the present state, before another one takes its place."""
        self.before.append(self._now())
        self.after.clear()

    def undo(self) -> bool:
        """Go to the state before the present one; False where there is none."""
        return self._step(self.before, self.after)

    def redo(self) -> bool:
        """Go to the state that was taken back last; False where there is none."""
        return self._step(self.after, self.before)

    def _step(self, source: list[T], target: list[T]) -> bool:
        if not source:
            return False
        target.append(self._now())
        self._put(source.pop())
        return True
