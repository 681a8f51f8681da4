"""How much an archive may unpack to, looked at before anything of it is read."""

from __future__ import annotations

import zipfile
from collections.abc import Sequence

#: What an archive may unpack to, in bytes; one that holds as much itself, hardly packed, may have more.
MOST_UNPACKED = 1 << 30
_HARDLY_PACKED = 1.1


def unpacks_to_too_much(entries: Sequence[zipfile.ZipInfo]) -> bool:
    """Return whether the entries of an archive, by their heads, take more memory than opening a file may.

    Pictures and clips are packed already, so that what unpacks to many times its size holds none.
    """
    packed = sum(entry.compress_size for entry in entries)
    return sum(entry.file_size for entry in entries) > max(MOST_UNPACKED, _HARDLY_PACKED * packed)
