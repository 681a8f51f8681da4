"""Have SVG drawn in a process apart, which is ended where it takes too long or too much memory."""

from __future__ import annotations

import json
import os
import select
import struct
import subprocess
import sys
import threading
import time
from pathlib import Path
from typing import Any

from spiralis.core.errors import FileError

#: Bytes of address space for one drawing, the process with its library included.
MEMORY = 3 << 29
_PROGRAM = Path(__file__).with_name("drawing_process.py")


class TooMuch(FileError):
    """A document asks for more time, memory or pixels than one can be given."""


class _Drawer:
    """Keeps one process that draws, one request at a time; a new one comes where it was ended."""

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._process: subprocess.Popen[bytes] | None = None

    def draw(self, text: bytes, options: dict[str, Any], seconds: float) -> bytes:
        """Return a PNG; raises FileError where there is none, TooMuch where it is not there in time."""
        with self._lock:
            process = self._started()
            ends = time.monotonic() + seconds
            try:
                self._ask(process, text, json.dumps(options).encode())
                (size,) = struct.unpack("<I", self._read(process, 4, ends))
                png = self._read(process, size, ends)
            except TooMuch:
                self._end()
                raise
            except (OSError, EOFError) as error:
                self._end()
                raise FileError("A part of the SVG cannot be drawn.") from error
        if not png:
            raise FileError("A part of the SVG cannot be drawn.")
        return png

    def _started(self) -> subprocess.Popen[bytes]:
        if self._process is not None and self._process.poll() is not None:
            self._end()
        if self._process is None:
            self._process = subprocess.Popen(
                [sys.executable, "-P", str(_PROGRAM), str(MEMORY)],
                stdin=subprocess.PIPE, stdout=subprocess.PIPE, stderr=subprocess.DEVNULL,
            )  # fmt: skip
        return self._process

    @staticmethod
    def _ask(process: subprocess.Popen[bytes], text: bytes, options: bytes) -> None:
        assert process.stdin is not None
        process.stdin.write(struct.pack("<II", len(options), len(text)) + options + text)
        process.stdin.flush()

    @staticmethod
    def _read(process: subprocess.Popen[bytes], count: int, ends: float) -> bytes:
        assert process.stdout is not None
        got, file = bytearray(), process.stdout.fileno()
        while len(got) < count:
            if not select.select([file], [], [], max(ends - time.monotonic(), 0.0))[0]:
                raise TooMuch("The SVG takes too long to draw; simplify it.")
            part = os.read(file, count - len(got))
            if not part:
                raise EOFError
            got += part
        return bytes(got)

    def _end(self) -> None:
        process, self._process = self._process, None
        if process is not None:
            process.kill()
            process.wait()
            for pipe in (process.stdin, process.stdout):
                if pipe is not None:
                    try:
                        pipe.close()
                    except OSError:
                        pass  # What was not written any more.


DRAWER = _Drawer()
