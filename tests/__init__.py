"""Tests. They mirror the packages of ``spiralis``."""

import atexit
import os
import shutil
import tempfile

from hypothesis import settings

# The first call of a kernel loads it from its cache, so times of single examples mean nothing here.
settings.register_profile("spiralis", deadline=None)
settings.load_profile("spiralis")

_HOME = "SPIRALIS_TESTS_HOME"


def live_in(folder: str) -> None:
    """Let this process and those it starts keep settings, caches and recovery copies in a folder of their own.

    No test sees or changes what the person keeps, nor shows a window unless it is told to.
    """
    os.environ[_HOME] = folder
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    # Processes that draw take a second each to start; the tests that are about them start their own.
    os.environ.setdefault("SPIRALIS_RENDERERS", "0")
    for kind in ("STATE", "CACHE", "CONFIG", "DATA"):
        os.environ[f"XDG_{kind}_HOME"] = os.path.join(folder, kind.lower())


def leave(folder: str) -> None:
    """Remove a folder that was lived in."""
    shutil.rmtree(folder, ignore_errors=True)


#: What this process made for itself; empty where the one that started it did.
HOME = "" if _HOME in os.environ else tempfile.mkdtemp(prefix="spiralis-tests-")
if HOME:
    live_in(HOME)
    atexit.register(leave, HOME)
