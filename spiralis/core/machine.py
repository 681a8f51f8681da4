"""What this process may use of the machine: cores and memory, where it is held to a part of them."""

from __future__ import annotations

import os
from collections.abc import Iterator
from pathlib import Path

#: Where Linux tells of the groups a process is in, and of what they may use.
_GROUPS, _LIMITS = Path("/proc/self/cgroup"), Path("/sys/fs/cgroup")
#: Memory where nothing tells how much there is.
_SOME = 4 << 30


def cores() -> int:
    """Return how many cores this process may keep busy, at least 1: those it is bound to, or what its group's share
    of time comes to."""
    try:
        found = len(os.sched_getaffinity(0))
    except (AttributeError, OSError):
        found = os.cpu_count() or 1
    for words in _told("cpu", "cpu.max"):
        if len(words) == 2 and all(word.isdigit() for word in words):
            found = min(found, -(-int(words[0]) // max(int(words[1]), 1)))
    return max(found, 1)


def memory() -> int:
    """Return how many bytes of memory this process may use: the machine's, or what its group is held to."""
    try:
        found = os.sysconf("SC_PAGE_SIZE") * os.sysconf("SC_PHYS_PAGES")
    except (ValueError, OSError, AttributeError):
        found = _SOME
    for words in (*_told("memory", "memory.max"), *_told("memory", "memory.limit_in_bytes")):
        if len(words) == 1 and words[0].isdigit():
            found = min(found, int(words[0]))
    return found


def _told(controller: str, name: str) -> Iterator[list[str]]:
    """Yield the words of a file in the process's group and in all groups around it.

    Source: the kernel's documentation of control groups, versions 1 (a tree a controller) and 2 (one tree).
    """
    try:
        lines = _GROUPS.read_text().splitlines()
    except OSError:
        return
    for line in lines:
        number, _, rest = line.partition(":")
        controllers, _, path = rest.partition(":")
        if number == "0" and not controllers:
            root = _LIMITS
        elif controller in controllers.split(","):
            root = _LIMITS / controller
        else:
            continue
        # In a container the path is often that outside of it; its own limits then lie at the root.
        group = root / path.strip("/")
        for folder in (group, *(above for above in group.parents if above == root or root in above.parents)):
            try:
                yield (folder / name).read_text().split()
            except OSError:
                continue
