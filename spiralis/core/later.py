"""Heavy modules that are loaded at their first use: importing them gives a place-holder that becomes the module.

A command that only reads a project pays for neither the compiler of the kernels nor the drawing library, and the
window stands before they are there.
"""

from __future__ import annotations

import os
import sys
from collections.abc import Callable, Sequence
from fnmatch import fnmatchcase
from importlib import import_module
from importlib.abc import Loader, MetaPathFinder
from importlib.machinery import ModuleSpec, PathFinder
from threading import RLock
from types import ModuleType
from typing import Any

from spiralis.core.machine_code import load_compiler

_KERNELS = "spiralis.core.*.kernels.*"
#: Patterns of module names. Whoever imports one takes the module (``import skia``), never a name out of it
#: (``from skia import Path``), which would load it there and then.
LATER = ("skia", "cv2", "uharfbuzz", "av", "lxml.etree", "cssselect2", "tinycss2", _KERNELS)

#: What a module finds around it when it is loaded. OpenCV leaves distances to a library whose last bit goes by where in
#: memory a picture happens to lie (and which is no quicker); it is not asked for anything, and nothing is said of it.
_AROUND: dict[str, dict[str, str]] = {"cv2": {"OPENCV_IPP": "disabled", "OPENCV_LOG_LEVEL": "ERROR"}}

#: What is done with a module once it is there. Frames are drawn side by side: a blur on all cores is in their way.
_SETTLED: dict[str, Callable[[Any], None]] = {"cv2": lambda module: module.setNumThreads(1)}


class _Later(ModuleType):
    """Stands for a module until somebody asks for something in it."""

    def __getattr__(self, name: str) -> Any:
        # The import system asks a module it is making for these; only a submodule's import asks for the path later.
        if name.startswith("__") and not (name == "__path__" and self.__name__ in sys.modules):
            raise AttributeError(name)
        _become(self)
        return getattr(sys.modules[self.__name__], name)


_lock = RLock()


def _become(module: _Later) -> None:
    """Load what a place-holder stands for, once; a second thread waits for the first."""
    with _lock:
        if type(module) is ModuleType:
            return
        name = module.__name__
        held = sys.modules.pop(name)
        _loading.add(name)
        try:
            if fnmatchcase(name, _KERNELS) and "numba" not in sys.modules:
                load_compiler()
            for word, value in _AROUND.get(name, {}).items():
                os.environ.setdefault(word, value)
            real = import_module(name)
        except BaseException:
            sys.modules[name] = held
            raise
        finally:
            _loading.discard(name)
        if name in _SETTLED:
            _SETTLED[name](real)
        module.__dict__.update(real.__dict__)
        module.__class__ = ModuleType  # type: ignore[assignment]


_loading: set[str] = set()


class _Finder(MetaPathFinder, Loader):
    """Answers imports of the modules in ``LATER`` that nobody has used yet."""

    def find_spec(self, name: str, path: Sequence[str] | None, target: ModuleType | None = None) -> ModuleSpec | None:
        if name in _loading or not any(fnmatchcase(name, pattern) for pattern in LATER):
            return None
        if PathFinder.find_spec(name, path) is None:
            return None
        return ModuleSpec(name, self)

    def create_module(self, spec: ModuleSpec) -> ModuleType:
        return _Later(spec.name)

    def exec_module(self, module: ModuleType) -> None:
        """Nothing: that is the point."""


def install() -> None:
    """Have the modules in ``LATER`` loaded at their first use from now on."""
    if not any(isinstance(finder, _Finder) for finder in sys.meta_path):
        sys.meta_path.insert(0, _Finder())


def waiting() -> list[str]:
    """Return the names of imported modules that nobody has used yet."""
    return [name for name, module in sys.modules.items() if isinstance(module, _Later)]


def load_all() -> None:
    """Load everything that still waits, as a window does while nothing else happens."""
    for name in waiting():
        module = sys.modules[name]
        if isinstance(module, _Later):
            _become(module)
