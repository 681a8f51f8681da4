"""The processes that draw and think beside the window, shared by all windows of the program."""

from __future__ import annotations

import os
import threading
from collections.abc import Callable
from typing import Any, TypeVar

import numpy as np

from spiralis.core.machine import cores
from spiralis.core.model import Project
from spiralis.core.render.frame import render_rgba8
from spiralis.core.render.remote import Remote, RemoteLost, never
from spiralis.core.render.store import FrameKey

Result = TypeVar("Result")

#: How many there are; 0 has everything drawn by threads of the program.
COUNT = "SPIRALIS_RENDERERS"
#: The number of the one that sees to what nobody waits for.
_THINKS = 1
#: One that was lost so often is not started again.
_MOST_STARTS = 4


class Renderers:
    """Up to two processes, started when they are first wanted: each serves one thread, the second other work too."""

    def __init__(self, count: int) -> None:
        self._remotes: list[Remote | None] = [None] * count
        self._starts = [0] * count
        self._lock = threading.Lock()
        self._ended = False

    def start(self) -> None:
        """Start them, or again those that were lost; they are of use some seconds later.

        One after the other: both at once would take the processor from the window that is just being used.
        """
        with self._lock:
            for place, remote in enumerate(() if self._ended else self._remotes):
                if remote is not None and not remote.lost:
                    if remote.ready:
                        continue
                    return
                if self._starts[place] < _MOST_STARTS:
                    self._starts[place] += 1
                    if remote is not None:
                        remote.end()
                    try:
                        self._remotes[place] = Remote(self.start)
                    except OSError as error:
                        # Without room for another process, threads go on drawing.
                        print(f"no process to draw frames could be started: {error}")
                    return

    def ready(self, place: int) -> bool:
        """Whether there is a process for an asker of that number, and it answers."""
        return self._answering(place) is not None

    def _answering(self, place: int) -> Remote | None:
        remote = self._remotes[place] if place < len(self._remotes) else None
        return remote if remote is not None and remote.ready else None

    def free(self, place: int) -> bool:
        """Whether it draws frames that are to be played, or nothing."""
        remote = self._answering(place)
        return remote is not None and not remote.aside and not remote.working

    def frame(self, place: int, project: Project, key: FrameKey, threads: int) -> np.ndarray | None:
        """Return a frame, or None where that process cannot serve now."""
        remote = self._answering(place)
        if remote is None:
            return None
        try:
            return remote.frame(project, key.composition, key.frame, key.scale, threads)
        except RemoteLost:
            self.start()
            return None

    def work(
        self, function: Callable[..., Result], project: Project, composition_id: str,
        stops: Callable[[], bool] = never, **named: Any,
    ) -> Result:  # fmt: skip
        """Return ``function(project, composition, stops=stops, **named)``, a module's function of plain values.

        The process that draws what nobody waits for sees to it, as far as there is one: beside the window such work
        would hold the interpreter's lock, which painting needs. Not for the window's thread.
        """
        result: Result = self._aside(
            lambda remote: remote.work(function, project, composition_id, stops, **named),
            lambda: function(project, project.composition(composition_id), stops=stops, **named),
        )
        return result

    def picture(self, project: Project, composition_id: str, frame: float, scale: float = 1.0) -> np.ndarray:
        """Return a frame as ``render_rgba8`` does, drawn where ``work`` is done, unless that takes long just now.

        Not for the window's thread.
        """
        return self._aside(
            lambda remote: remote.picture(project, composition_id, frame, scale),
            lambda: render_rgba8(project, composition_id, frame, scale),
            waits=False,
        )

    def _aside(
        self, there: Callable[[Remote], Result], here: Callable[[], Result], waits: bool = True
    ) -> Result:
        """Have something done by the process for what nobody waits for, or here where there is none or it works."""
        remote = self._answering(_THINKS)
        if remote is not None and (waits or not remote.working):
            try:
                return there(remote)
            except RemoteLost:
                self.start()
        return here()

    def end(self) -> None:
        """End all of them."""
        with self._lock:
            self._ended = True
            for remote in self._remotes:
                if remote is not None:
                    remote.end()
            self._remotes = [None] * len(self._remotes)


def _count() -> int:
    given = os.environ.get(COUNT, "")
    return int(given) if given.isdigit() else min(2, cores())


RENDERERS = Renderers(min(_count(), 2))
