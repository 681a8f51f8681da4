"""What a project file says it holds, read without the model: a table of contents beside the project.

It is written with the project (``storage/summary.py``) and counts as long as it belongs to that very project.
"""

from __future__ import annotations

import hashlib
import json
import zipfile
from pathlib import Path
from typing import Any

ENTRY = "contents.json"
_PROJECT, _MEDIA = "project.json", "media/"
#: What else lies in a project file.
_OTHERS = ("mimetype", _PROJECT, ENTRY, "thumbnail.png")
#: What a project file holds at most: entries, bytes of the project's description, of its contents.
MOST_ENTRIES, MOST_JSON, _MOST_BYTES = 20_000, 128 << 20, 32 << 20


def contents_of(path: Path) -> dict[str, Any] | None:
    """Return the contents of a project file as JSON values, as ``summary`` gives them.

    None where the file has none, they do not belong to its project, it holds anything unusual, or files that lie
    outside of it: only reading all of it tells what is there then.
    """
    if not path.is_file():
        return None  # A pipe would be waited for.
    try:
        with zipfile.ZipFile(path) as archive:
            return _checked(archive)
    except Exception:  # A damaged archive can raise nearly all there is; the whole reader says what is wrong with it.
        return None


def _checked(archive: zipfile.ZipFile) -> dict[str, Any] | None:
    entries = {entry.filename: entry.file_size for entry in archive.infolist()}
    plain = all(name in _OTHERS or (name.startswith(_MEDIA) and ".." not in name) for name in entries)
    largest = max((size for name, size in entries.items() if not name.startswith(_MEDIA)), default=0)
    if not plain or len(entries) > MOST_ENTRIES or largest > MOST_JSON or entries[ENTRY] > _MOST_BYTES:
        return None
    found = json.loads(archive.read(ENTRY))
    if found.pop("of") != hashlib.sha256(archive.read(_PROJECT)).hexdigest():
        return None
    if any(source["linked"] for source in found["sources"]):
        return None
    contents: dict[str, Any] = found
    for source in contents["sources"]:
        source["missing"] = not _is_whole(archive, source["path"])
    return contents


def _is_whole(archive: zipfile.ZipFile, path: str) -> bool:
    """Whether a medium is there, with the checksum that it is named by."""
    try:
        return hashlib.sha256(archive.read(path)).hexdigest() == Path(path).stem
    except Exception:  # As above: what cannot be read is missing.
        return False


def contents_lines(contents: dict[str, Any]) -> list[str]:
    """Return the same for people."""
    lines = [contents["name"]]
    for piece in contents["compositions"]:
        loops = "loops" if piece["loop"] else "plays once"
        lines.append(
            f"  {piece['name']}: {piece['width']} × {piece['height']}, {piece['rate']} fps, "
            f"{piece['length']} frames, {piece['seconds']:.2f} s, {loops}"
        )
        lines += [
            f"    {layer['name']} ({layer['kind']}): frames {layer['first']} to {layer['last'] - 1}, "
            f"{layer['keys']} keys"
            for layer in piece["layers"]
        ]
    lines.append("  Sources")
    for source in contents["sources"]:
        size = f", {source['width']} × {source['height']}" if source["width"] else ""
        # What is only heard has no frames, but samples.
        frames = f", {source['frames']} {'frames' if size else 'samples'}" if source["frames"] else ""
        marks = (" linked" if source["linked"] else "") + (" MISSING" if source["missing"] else "")
        lines.append(f"    {source['name']} ({source['kind']}{size}{frames}, used {source['uses']} ×){marks}")
    return lines
