"""Frames and other long work from a process of their own: beside it the window's thread has its interpreter to itself.

The two talk by pipes; pictures come through memory that both have mapped. ``spiralis/core/serving.py`` is that process;
it ends with the one that started it.
"""

from __future__ import annotations

import mmap
import os
import pickle
import select
import signal
import struct
import subprocess
import sys
import threading
from collections.abc import Callable
from typing import Any, BinaryIO

import numpy as np

from spiralis.core.cache import BUDGET
from spiralis.core.errors import SpiralisError
from spiralis.core.model import Project
from spiralis.core.render.sending import Sender

_LENGTH = struct.Struct("<Q")
#: What kept pictures may weigh in such a process, beside the limit of the program that it serves.
SHARE = 0.125
#: So often, in ms, work is asked whether it is to stop.
_LOOK = 20


def never() -> bool:
    """Nothing is to stop."""
    return False


class RemoteLost(SpiralisError, ConnectionError):
    """The process that draws is gone."""


class Remote:
    """A process that draws frames or does other work, one after the other; several threads may ask."""

    def __init__(self, greeted: Callable[[], None] = lambda: None) -> None:
        """Start it; ``greeted`` is called by a thread as soon as it is ready, or lost."""
        self._memory = os.memfd_create("spiralis-frames")
        self._mapped: mmap.mmap | None = None
        limit = max(int(BUDGET.limit * SHARE), 64 << 20)
        command = [sys.executable, "-m", "spiralis.core.serving", str(self._memory), str(limit)]
        self._process = subprocess.Popen(
            command, stdin=subprocess.PIPE, stdout=subprocess.PIPE, pass_fds=(self._memory,), bufsize=0
        )
        self._lock = threading.Lock()
        self._sender = Sender()
        self.ready = self.lost = False
        #: Whether it is at a picture that is not to be played, or at work, which may take long.
        self.aside = self.working = False
        self._greeted = greeted
        threading.Thread(target=self._greet, name="greet-remote", daemon=True).start()

    def _greet(self) -> None:
        """Wait for the first word: then everything is loaded."""
        try:
            with self._lock:
                read_message(self._out)
            self.ready = True
        except RemoteLost:
            self.lost = True
        self._greeted()

    @property
    def _out(self) -> Any:
        return self._process.stdout

    def frame(
        self, project: Project, composition_id: str, frame: float, scale: float, threads: int = 1
    ) -> np.ndarray:
        """Return a frame as ``render_rgba8`` does.

        Raises:
            RemoteLost: the process is gone; another one has to be started.
            SpiralisError: the frame cannot be drawn.
        """
        with self._lock:
            return self._frame(project, composition_id, frame, scale, threads)

    def _frame(self, project: Project, composition_id: str, frame: float, scale: float, threads: int) -> np.ndarray:
        shape = self._answer(project, None, (composition_id, frame, scale, threads))
        size = shape[0] * shape[1] * shape[2]
        mapped = self._mapped
        if mapped is None or len(mapped) < size:
            mapped = self._mapped = mmap.mmap(self._memory, 0, prot=mmap.PROT_READ)
        return np.frombuffer(mapped, dtype=np.uint8, count=size).reshape(shape).copy()

    def work(
        self, function: Callable[..., Any], project: Project, composition_id: str,
        stops: Callable[[], bool] = never, **named: Any,
    ) -> Any:  # fmt: skip
        """Return ``function(project, composition, stops=stops, **named)``: a module's function, of plain values.

        Raises:
            RemoteLost: the process is gone; another one has to be started.
            Cancelled: ``stops()`` said that the work is to end, and the function heeded it.
            SpiralisError: the function raised something.
        """
        with self._lock:
            self.working = True
            try:
                return self._answer(project, function, (composition_id, named), stops)
            finally:
                self.working = False

    def picture(self, project: Project, composition_id: str, frame: float, scale: float) -> np.ndarray:
        """Return a frame as ``frame`` does, for which those that will be played wait."""
        with self._lock:
            self.aside = True
            try:
                return self._frame(project, composition_id, frame, scale, 1)
            finally:
                self.aside = False

    def _answer(
        self, project: Project, function: Callable[..., Any] | None, arguments: tuple[Any, ...],
        stops: Callable[[], bool] | None = None,
    ) -> Any:  # fmt: skip
        """Ask and wait for the answer; the lock is held."""
        # Before the project: both sides must agree on what of it was sent, whatever cannot be.
        job = pickle.dumps((function, arguments), protocol=5)
        try:
            head, large = self._sender.message(project)
            asked = (head, [len(data) for data in large], job)
            write_message(self._process.stdin, pickle.dumps(asked, protocol=5))
            for data in large:
                write_all(self._process.stdin, data)
            if stops is not None:
                self._stopped_by(stops)
            result, error = pickle.loads(read_message(self._out))
        except (OSError, ValueError, RemoteLost) as gone:
            self.lost, self.ready = True, False
            raise RemoteLost("The process that draws frames is gone.") from gone
        if error is not None:
            raise error
        return result

    def _stopped_by(self, stops: Callable[[], bool]) -> None:
        """Wait until there is an answer; tell the process where its work is to end.

        It is told again and again: what is said before it has begun goes unheard.
        """
        answers = select.poll()
        answers.register(self._out, select.POLLIN)
        while not answers.poll(_LOOK):
            if stops():
                self._process.send_signal(signal.SIGUSR1)

    def end(self) -> None:
        """End the process, if it has not ended; what somebody waits for is lost."""
        self.lost, self.ready = True, False
        self._process.kill()
        self._process.wait()
        for pipe in (self._process.stdin, self._process.stdout):
            if pipe is not None:
                pipe.close()
        if self._memory >= 0:
            os.close(self._memory)
            self._memory, self._mapped = -1, None


def read_message(stream: BinaryIO) -> bytes:
    """Read a message; raises RemoteLost where the other side is gone."""
    length = _LENGTH.unpack(read_exactly(stream, _LENGTH.size))[0]
    return read_exactly(stream, length)


def read_exactly(stream: BinaryIO, count: int) -> bytes:
    """Read so many bytes; raises RemoteLost where the other side is gone."""
    parts = bytearray()
    while len(parts) < count:
        part = stream.read(count - len(parts))
        if not part:
            raise RemoteLost("The process that draws frames is gone.")
        parts += part
    return bytes(parts)


def write_message(stream: Any, message: bytes) -> None:
    """Write a message."""
    write_all(stream, _LENGTH.pack(len(message)) + message)


def write_all(stream: Any, data: bytes) -> None:
    """Write bytes, however many the pipe takes at once."""
    rest = memoryview(data)
    while rest:
        rest = rest[stream.write(rest) :]
