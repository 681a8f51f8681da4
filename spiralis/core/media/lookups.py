"""Colour lookups: ``.cube`` text files with a table for each channel, or a cube of colours."""

from __future__ import annotations

import math

import numpy as np
from attrs import frozen

from spiralis.core.errors import FileError

SUFFIX = ".cube"
#: The largest tables: items of a curve, and items along an edge of a cube.
_LONGEST, _WIDEST = 65_536, 129
_MOST_BYTES = 64 << 20
Triple = tuple[float, float, float]


@frozen(eq=False)
class Lookup:
    """What colours become.

    Attributes:
        table: float32 (n, n, n, 3), the axes blue, green, red, or (n, 3): a curve a channel.
        low, high: the values of red, green and blue at which the table begins and ends.
    """

    table: np.ndarray
    low: tuple[float, float, float] = (0.0, 0.0, 0.0)
    high: tuple[float, float, float] = (1.0, 1.0, 1.0)


def read_lookup(data: bytes, name: str) -> Lookup:
    """Return the lookup that a file's bytes describe.

    Raises:
        FileError: one sentence on what is wrong with it.
    """
    try:
        if len(data) > _MOST_BYTES:
            raise ValueError("it is too large")
        return _read(data.decode("utf-8-sig", errors="strict"))
    except UnicodeDecodeError as error:
        raise FileError(f"“{name}” is no text, so it is no colour lookup; choose a .cube file.") from error
    except ValueError as error:
        raise FileError(f"“{name}” cannot be read as a colour lookup: {error}; choose another copy.") from error


def _read(text: str) -> Lookup:
    sizes: dict[str, int] = {}
    domain: dict[str, Triple] = {"DOMAIN_MIN": (0.0, 0.0, 0.0), "DOMAIN_MAX": (1.0, 1.0, 1.0)}
    rows: list[str] = []
    for line in text.splitlines():
        words = line.split("#", 1)[0].split() if not line.startswith("TITLE") else []
        if not words:
            continue
        match words[0]:
            case "LUT_1D_SIZE" | "LUT_3D_SIZE":
                sizes[words[0]] = int(words[-1])
            case "DOMAIN_MIN" | "DOMAIN_MAX":
                domain[words[0]] = _three(words[1:])
            case "LUT_1D_INPUT_RANGE" | "LUT_3D_INPUT_RANGE":
                ends = [float(word) for word in words[1:3]]
                domain = {"DOMAIN_MIN": (ends[0],) * 3, "DOMAIN_MAX": (ends[1],) * 3}
            case word if word[0].isalpha() and word.lower() not in ("nan", "inf"):
                pass
            case _:
                rows.append(" ".join(words))
    if len(sizes) != 1:
        raise ValueError("it has to hold one table")
    (kind, size), cube = next(iter(sizes.items())), "LUT_3D_SIZE" in sizes
    if not 2 <= size <= (_WIDEST if cube else _LONGEST):
        raise ValueError(f"a table of {size} items an edge is none that can be used")
    numbers = np.array(" ".join(rows).split(), dtype=np.float64)
    count = size**3 if kind == "LUT_3D_SIZE" else size
    if numbers.size != 3 * count:
        raise ValueError(f"it says that it has {count} colours and has {numbers.size / 3:g}")
    low, high = domain["DOMAIN_MIN"], domain["DOMAIN_MAX"]
    if not np.isfinite(numbers).all() or any(b - a < 1e-6 for a, b in zip(low, high, strict=True)):
        raise ValueError("its numbers are no colours")
    table = np.clip(numbers, -64, 64).astype(np.float32)
    return Lookup(table.reshape((size, size, size, 3) if cube else (size, 3)), low, high)


def _three(words: list[str]) -> Triple:
    red, green, blue = (float(word) for word in words)
    if not all(math.isfinite(number) for number in (red, green, blue)):
        raise ValueError("its range has no numbers")
    return red, green, blue
