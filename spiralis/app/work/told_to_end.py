"""Signals that tell the program to end: a terminal that is left, a session that closes, a machine that stops."""

from __future__ import annotations

import signal
from collections.abc import Callable
from types import FrameType

from PyQt6.QtCore import QCoreApplication, QTimer

#: Ctrl+C, what a session sends as it ends, and a terminal that is gone.
SIGNALS = (signal.SIGINT, signal.SIGTERM, signal.SIGHUP)


def end_at_once() -> None:
    """Let such a signal end the program as it stands, as long as there is nothing that could be lost."""
    _answer_with(signal.SIG_DFL)


def when_told_to_end(leave: Callable[[], object]) -> None:
    """End the program at such a signal, after ``leave()``: without a question, as nobody may be there to answer.

    A second one ends it as it stands. Python hears of a signal at the next thing that it does, which is at most until
    the next look for cycles of objects.
    """

    def end(number: int) -> None:
        try:
            leave()
        finally:
            QCoreApplication.exit(128 + number)

    def take(number: int, frame: FrameType | None) -> None:
        end_at_once()
        QTimer.singleShot(0, lambda: end(number))

    _answer_with(take)


def _answer_with(answer: signal.Handlers | Callable[[int, FrameType | None], None]) -> None:
    for number in SIGNALS:
        if signal.getsignal(number) is not signal.SIG_IGN:  # Somebody started it so that it would outlive the terminal.
            signal.signal(number, answer)
