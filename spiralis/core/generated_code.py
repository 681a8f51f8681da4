"""Methods that attrs and cattrs write for classes, compiled once and kept beside this module, as Python keeps modules.

A process makes some hundred and fifty such classes before it draws, and compiling what is written for them takes a
twentieth of a small command's time.
"""

from __future__ import annotations

import atexit
import importlib.util
import marshal
import sys
from hashlib import sha256
from importlib import import_module
from pathlib import Path
from types import CodeType
from typing import Any

#: What was written for classes that have changed since stays among it; with more than that it begins anew.
_MOST = 4000

_kept: dict[bytes, CodeType] = {}
_used: dict[bytes, CodeType] = {}
_new = False


def install(writer: str) -> None:
    """Have code that a module of a package writes for classes compiled once for all processes.

    Args:
        writer: the module that calls the built-in ``compile``; classes it has made before stay as they are.
    """
    if not _kept:
        _kept.update(_read())
        if not sys.dont_write_bytecode:
            atexit.register(keep)
    module: Any = import_module(writer)
    module.compile = compiled
    # A number for each class goes into what is written, and Python's own differ from process to process.
    module.hash = _number


def compiled(script: str, name: str, mode: str) -> CodeType:
    """Return the code of a script, as the built-in function of that name does, which raises what this raises."""
    global _new
    told = sha256(f"{name}\0{script}".encode()).digest()
    code = _kept.get(told)
    if code is None:
        code = _kept[told] = compile(script, name, mode)
        _new = True
    _used[told] = code
    return code


def _number(text: str) -> int:
    return int.from_bytes(sha256(text.encode()).digest()[:7], "big")


def place() -> Path:
    """Return where it is kept: a name for each version of Python, as code is of one version alone."""
    return Path(importlib.util.cache_from_source(__file__)).with_suffix(".bin")


def keep() -> None:
    """Write what was compiled, where something was and it can be written."""
    from spiralis.core.media.placing import placed

    if not _new:
        return
    held = _read() | _kept
    data = importlib.util.MAGIC_NUMBER + marshal.dumps(held if len(held) <= _MOST else _used)
    try:
        with placed(place()) as temporary:
            temporary.write_bytes(data)
    except OSError:
        pass


def _read() -> dict[bytes, CodeType]:
    try:
        data = place().read_bytes()
        if data[: len(importlib.util.MAGIC_NUMBER)] != importlib.util.MAGIC_NUMBER:
            return {}
        found: Any = marshal.loads(memoryview(data)[len(importlib.util.MAGIC_NUMBER) :])
    except (OSError, EOFError, ValueError, TypeError):
        return {}
    return found if isinstance(found, dict) else {}
