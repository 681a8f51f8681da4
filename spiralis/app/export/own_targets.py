"""Targets that a person keeps: a kind of file with its settings, size, rate and rounds; shared as files."""

from __future__ import annotations

import json
from collections.abc import Mapping, Sequence
from pathlib import Path
from typing import Any

from attrs import field, frozen

from spiralis.app.project.own_list import OwnList
from spiralis.core.errors import FileError, SpiralisError
from spiralis.core.media.exporters import exporter
from spiralis.core.media.files import read_bytes, write_whole

SUFFIX = ".targets.json"
_FORMAT = "spiralis-targets"
_MOST, _LONGEST = 200, 40


@frozen
class Target:
    """One target. ``width`` and ``height`` 0 take the piece's own size, ``rate`` 0 its own rate."""

    name: str
    kind: str
    settings: Mapping[str, Any] = field(factory=dict, hash=False)
    width: int = 0
    height: int = 0
    how: int = 0
    rate: float = 0.0
    repeat: int = 1


def read_targets(path: Path) -> tuple[Target, ...]:
    """Read targets from a file; settings that their kind of file does not have any more are left out.

    Raises:
        FileError: not there, no file of targets, or with a kind of file that is not known.
    """
    try:
        data: Any = json.loads(read_bytes(path, 1 << 20))
        if data["format"] != _FORMAT:
            raise KeyError
        return tuple(_target(row) for row in data["targets"][:_MOST])
    except (OSError, ValueError, KeyError, TypeError, SpiralisError) as error:
        raise FileError(f"“{path.name}” holds no targets that can be read; choose a {SUFFIX} file.") from error


def _target(row: Mapping[str, Any]) -> Target:
    kind = exporter(str(row["kind"]))
    known = {parameter.name: parameter for parameter in kind.settings}
    held = dict(row.get("settings", {}))
    settings = {name: known[name].check(value) for name, value in held.items() if name in known}
    width, height, repeat = (int(row.get(name, least)) for name, least in (("width", 0), ("height", 0), ("repeat", 1)))
    if not (0 <= width <= 20_000 and 0 <= height <= 20_000 and 1 <= repeat <= 1000):
        raise ValueError("out of range")
    how, rate = int(row.get("how", 0)), float(row.get("rate", 0.0))
    if how not in (0, 1, 2) or not 0 <= rate <= 240:
        raise ValueError("out of range")
    return Target(str(row["name"])[:_LONGEST], kind.name, settings, width, height, how, rate, repeat)


def write_targets(path: Path, targets: Sequence[Target]) -> None:
    """Write targets to a file, whole or not at all; raises FileError."""
    rows = [
        {"name": t.name, "kind": t.kind, "settings": dict(t.settings), "width": t.width, "height": t.height,
         "how": t.how, "rate": t.rate, "repeat": t.repeat}
        for t in targets
    ]  # fmt: skip
    write_whole(path, json.dumps({"format": _FORMAT, "version": 1, "targets": rows}, ensure_ascii=False, indent=1))


#: A person's targets.
OWN_TARGETS: OwnList[Target] = OwnList(f"own{SUFFIX}", read_targets, write_targets, lambda target: target.name)
