"""What happens to errors that nobody foresaw: the work is copied, the trace goes to a log, one sentence is shown.

Without a hook PyQt6 ends the whole program at the first exception that leaves a slot.
"""

from __future__ import annotations

import sys
import threading
import time
import traceback
from collections.abc import Callable
from pathlib import Path
from types import TracebackType
from weakref import WeakMethod

from platformdirs import user_state_path

from spiralis.app.work.deleted import is_deleted

_LOG_LIMIT = 1 << 20
#: What is added to an error whose trace is in the log.
_NOTED = "It is in the log already."

#: Told (exception, sentence) in the order in which they were added.
_listeners: list[WeakMethod[Callable[[BaseException, str], None]]] = []


def log_file() -> Path:
    """Return the file that traces are written to."""
    return user_state_path("spiralis") / "problems.log"


def listen(method: Callable[[BaseException, str], None]) -> None:
    """Tell a bound method of every unforeseen error from now on; its object is held weakly."""
    _listeners.append(WeakMethod(method))


def install() -> None:
    """Catch what leaves a slot or a thread, instead of letting the program end."""
    sys.excepthook = _caught
    threading.excepthook = lambda args: _caught(args.exc_type, args.exc_value or args.exc_type(), args.exc_traceback)


def sentence_for(error: BaseException) -> str:
    """Return what people are told."""
    return (
        f"Something went wrong inside Spiralis ({type(error).__name__}); your work is kept. Undo the last step if it "
        f"looks wrong, save, and please send the end of {log_file()}."
    )


def note(error: BaseException) -> None:
    """Write the trace of an error to the log, once, where whoever gets it tells people of it, or can do without."""
    if _NOTED in getattr(error, "__notes__", ()):
        return  # Work beside the window failed, and who took its error raised it once more.
    lines = "".join(traceback.format_exception(error))
    error.add_note(_NOTED)
    print(lines, file=sys.stderr)
    _write(lines)


def _caught(kind: type[BaseException], error: BaseException, trace: TracebackType | None) -> None:
    if issubclass(kind, KeyboardInterrupt):
        sys.__excepthook__(kind, error, trace)
        return
    note(error)
    for listener in tuple(_listeners):
        method = listener()
        if method is None or is_deleted(method):
            _listeners.remove(listener)
            continue
        try:
            method(error, sentence_for(error))
        except Exception:
            print(traceback.format_exc(), file=sys.stderr)


def _write(lines: str) -> None:
    path = log_file()
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
        old = path.stat().st_size if path.exists() else 0
        with path.open("w" if old > _LOG_LIMIT else "a", encoding="utf-8", errors="backslashreplace") as file:
            file.write(f"--- {time.strftime('%Y-%m-%d %H:%M:%S')}\n{lines}\n")
    except OSError:
        pass  # A full disk must not turn one problem into two.
