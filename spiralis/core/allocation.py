"""How the process takes memory from the system."""

from __future__ import annotations

import ctypes
from contextlib import suppress

#: Numbers of glibc's ``mallopt`` (malloc.h), and what is set: blocks of up to 32 MiB come from memory that was freed.
_TRIM_THRESHOLD, _TOP_PAD, _MMAP_THRESHOLD = -1, -2, -3
_KEPT, _AT_ONCE, _FROM_HEAP = 512 << 20, 32 << 20, 32 << 20


def keep_freed_memory() -> bool:
    """Let freed memory serve what is wanted next, where the system's library can do so; return whether it does.

    Pictures of a few megabytes come and go with each frame. Given back to the system, each of their pages costs a
    visit to the kernel and is cleared when it is touched again: up to a fifth of a frame's time.
    """
    with suppress(AttributeError, OSError):
        tune = ctypes.CDLL(None).mallopt
        wanted = ((_MMAP_THRESHOLD, _FROM_HEAP), (_TRIM_THRESHOLD, _KEPT), (_TOP_PAD, _AT_ONCE))
        return all(tune(number, size) == 1 for number, size in wanted)
    return False
