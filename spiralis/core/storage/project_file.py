"""Save and load ``.spiralis`` files: a ZIP of ``mimetype``, ``project.json``, its contents, ``media/``, a thumbnail."""

from __future__ import annotations

import hashlib
import io
import json
import os
import struct
import zipfile
import zlib
from collections.abc import Callable
from functools import partial
from pathlib import Path
from typing import Any

import numpy as np
from attrs import evolve
from PIL import Image

from spiralis.core.contents import ENTRY, MOST_ENTRIES, MOST_JSON
from spiralis.core.errors import ProjectFileError, SpiralisError
from spiralis.core.media.archives import unpacks_to_too_much
from spiralis.core.media.files import check_target, read_bytes, unwritten
from spiralis.core.media.placing import placed
from spiralis.core.model import Project, Source
from spiralis.core.storage.conversion import from_json, to_json
from spiralis.core.storage.excerpt import excerpt
from spiralis.core.storage.migrations import migrate
from spiralis.core.storage.summary import summary

SUFFIX = ".spiralis"
MIMETYPE = b"application/vnd.spiralis+zip"
MOST_THUMBNAIL = 4 << 20
_THUMBNAIL = 320
#: All that reading a damaged archive can raise: a wrong offset ends in OSError, a wrong length in ValueError.
_BROKEN = (
    zipfile.BadZipFile, zlib.error, struct.error, EOFError, NotImplementedError, RuntimeError, OSError, ValueError,
    OverflowError, MemoryError,
)  # fmt: skip


def save(project: Project, path: Path, seen: bytes | None = None) -> None:
    """Write the project: to a temporary file in the same folder, synced, then renamed over ``path``.

    Args:
        project: the version to save.
        path: where to.
        seen: a small PNG of it; where there is none one is drawn, an empty one leaves it out.

    Raises:
        ProjectFileError: one sentence; what was at ``path`` before is still there.
    """
    path = Path(path)
    try:
        check_target(path)
    except SpiralisError as error:
        raise ProjectFileError(str(error)) from error
    try:
        with placed(path) as temporary, temporary.open("wb") as handle:
            _write_zip(project, handle, path.resolve().parent, seen)
    except OSError as error:
        raise ProjectFileError(unwritten(path, error)) from error


def packed(project: Project) -> bytes:
    """Return the project as the bytes of a project file without a thumbnail, for a clipboard say."""
    buffer = io.BytesIO()
    _write_zip(project, buffer, Path("/"), b"")
    return buffer.getvalue()


def unpacked(data: bytes, name: str) -> Project:
    """Return the project of bytes that ``packed`` made; raises ProjectFileError as ``load`` does."""
    return _read(io.BytesIO(data), name, Path("/"))


def _write_zip(project: Project, handle: Any, folder: Path, seen: bytes | None) -> None:
    text = _encoded(_with_links(to_json(project), folder))
    with zipfile.ZipFile(handle, "w") as archive:
        archive.writestr(zipfile.ZipInfo("mimetype"), MIMETYPE, zipfile.ZIP_STORED)
        archive.writestr("project.json", text, zipfile.ZIP_DEFLATED, compresslevel=3)
        contents = {"of": hashlib.sha256(text).hexdigest(), **summary(project)}
        archive.writestr(ENTRY, _encoded(contents), zipfile.ZIP_DEFLATED, compresslevel=3)
        written = set()
        for source in project.sources:
            if source.data is not None and not source.linked and source.path not in written:
                # Pictures and fonts are packed already; packing them again costs time for nothing.
                archive.writestr(source.path, source.data, zipfile.ZIP_STORED)
                written.add(source.path)
        picture = thumbnail(project) if seen is None and project.compositions else seen
        if picture:
            archive.writestr("thumbnail.png", picture, zipfile.ZIP_STORED)


_dumps = partial(json.dumps, ensure_ascii=False, separators=(",", ":"))


def _encoded(data: dict[str, Any]) -> bytes:
    """Return JSON. What is no letter (a linked file's name may hold any bytes) is written as JSON escapes it."""
    return _text(data).encode("utf-8", "backslashreplace")


def _text(data: dict[str, Any]) -> str:
    """Return JSON text, made layer by layer: the encoder keeps the interpreter's lock until it is through, and a
    window that saves goes on painting."""
    nested: dict[str, Callable[[Any], str]] = {"compositions": _text, "layers": _dumps}
    parts = (
        (name, f"[{','.join(map(nested[name], value))}]" if name in nested else _dumps(value))
        for name, value in data.items()
    )
    return f"{{{','.join(f'{_dumps(name)}:{text}' for name, text in parts)}}}"


def _with_links(data: dict[str, Any], folder: Path) -> dict[str, Any]:
    """Add to each linked source the way to its file from the project's folder, so that both may be moved."""
    for source in data.get("sources", []):
        if source.get("linked") and source.get("file"):
            source["beside"] = Path(os.path.relpath(source["file"], folder.resolve())).as_posix()
    return data


def thumbnail(project: Project) -> bytes:
    """Return a small PNG of the middle of the first composition."""
    # Here, as most that read a project draw nothing.
    from spiralis.core.render.frame import render_rgba8

    composition = project.compositions[0]
    scale = min(1.0, _THUMBNAIL / max(composition.width, composition.height))
    return small_png(render_rgba8(project, composition.id, composition.length // 2, scale))


def small_png(pixels: np.ndarray) -> bytes:
    """Return premultiplied uint8 (h, w, 4) pixels as a PNG that is no larger than a thumbnail."""
    picture = Image.frombytes("RGBa", pixels.shape[1::-1], pixels.tobytes())
    picture.thumbnail((_THUMBNAIL, _THUMBNAIL))
    buffer = io.BytesIO()
    picture.convert("RGBA").save(buffer, format="PNG")
    return buffer.getvalue()


def write_stored_picture(path: Path, picture: Path, size: int) -> None:
    """Write the small picture that a project file holds as PNG, its longer side at most ``size`` px.

    Raises:
        ProjectFileError: one sentence; the file is no project, holds no picture, or the PNG cannot be written.
    """
    try:
        if not path.is_file():
            raise FileNotFoundError(str(path))
        with zipfile.ZipFile(path) as archive:
            if archive.getinfo("thumbnail.png").file_size > MOST_THUMBNAIL:
                raise ProjectFileError(f"The picture in “{path.name}” is too large to be one; save the project again.")
            image = Image.open(io.BytesIO(archive.read("thumbnail.png")))
        image.thumbnail((size, size))
        image.save(picture, format="PNG")
    except (*_BROKEN, KeyError) as error:
        raise ProjectFileError(f"“{path.name}” holds no picture that can be written; open and save it once.") from error


def load(path: Path, only: str | None = None) -> Project:
    """Read a project. Media that is not in the file stays missing: ``Source.missing`` tells.

    Args:
        path: the file.
        only: the id or name of a composition; nothing is read but what it takes to draw that one.

    Raises:
        ProjectFileError: not there, not a project, damaged, unsafe, or from a newer Spiralis.
    """
    path = Path(path)
    try:
        if path.exists() and not path.is_file() and not path.is_dir():
            raise ProjectFileError(f"“{path.name}” is a device or a pipe, not a file; choose a {SUFFIX} file.")
        return _read(path, path.name, path.resolve().parent, only)
    except FileNotFoundError as error:
        raise ProjectFileError(f"“{path}” is not there; check its name and folder.") from error
    except IsADirectoryError as error:
        raise ProjectFileError(f"“{path.name}” is a folder; choose a {SUFFIX} file in it.") from error
    except PermissionError as error:
        raise ProjectFileError(f"“{path}” may not be read; check its permissions.") from error


def _read(file: Any, name: str, folder: Path, only: str | None = None) -> Project:
    try:
        with zipfile.ZipFile(file) as archive:
            _check_entries(archive, name)
            data = _read_json(archive, name)
            if only is not None:
                data = excerpt(data, only)
            beside = _taken_links(data)
            project = _with_media(from_json(data, name), archive)
            return _with_linked(project, beside, folder)
    except (ProjectFileError, FileNotFoundError, IsADirectoryError, PermissionError):
        raise
    except _BROKEN as error:
        raise ProjectFileError(
            f"“{name}” is not a Spiralis project, or it was cut short; open an earlier copy of it."
        ) from error


def _check_entries(archive: zipfile.ZipFile, name: str) -> None:
    entries = archive.infolist()
    if len(entries) > MOST_ENTRIES or unpacks_to_too_much(entries):
        raise ProjectFileError(f"“{name}” unpacks to more than a project can hold, so it was not opened.")
    for entry in entries:
        parts = entry.filename.replace("\\", "/").split("/")
        if entry.filename.startswith(("/", "\\")) or ".." in parts or ":" in entry.filename:
            raise ProjectFileError(
                f"“{name}” holds the path “{entry.filename[:60]}”, which leads out of the project; it was not opened."
            )
    if "project.json" not in archive.namelist():
        raise ProjectFileError(f"“{name}” holds no project; choose a {SUFFIX} file that Spiralis saved.")


def _read_json(archive: zipfile.ZipFile, name: str) -> dict[str, Any]:
    if archive.getinfo("project.json").file_size > MOST_JSON:
        raise ProjectFileError(f"“{name}” holds a description that is too large, so it was not opened.")
    try:
        data = json.loads(archive.read("project.json").decode("utf-8"))
    except (ValueError, RecursionError) as error:
        raise ProjectFileError(f"“{name}” is damaged: its description is not JSON; open an earlier copy.") from error
    if not isinstance(data, dict) or data.get("format") != "spiralis":
        raise ProjectFileError(f"“{name}” is not a Spiralis project.")
    return migrate(data, name)


def _with_media(project: Project, archive: zipfile.ZipFile) -> Project:
    held = set(archive.namelist())
    sources = []
    for source in project.sources:
        data = None
        if source.path in held:
            try:
                data = archive.read(source.path)
            except _BROKEN:
                data = None
            if data is not None and hashlib.sha256(data).hexdigest() != source.digest:
                data = None
        sources.append(evolve(source, data=data))
    return evolve(project, sources=tuple(sources))


def _taken_links(data: dict[str, Any]) -> dict[str, str]:
    """Take the ways to linked files, by the sources' ids, out of the JSON."""
    sources = data.get("sources")
    taken = {}
    for source in sources if isinstance(sources, list) else []:
        if isinstance(source, dict) and "beside" in source:
            taken[str(source.get("id"))] = str(source.pop("beside"))
    return taken


def _with_linked(project: Project, beside: dict[str, str], folder: Path) -> Project:
    """Find linked files: beside the project first, then where they were. A picture that has more or fewer pixels than
    it had is seen as large as before."""
    sources, otherwise = [], []
    for source in project.sources:
        if source.linked:
            places = [folder / beside[source.id]] if source.id in beside else []
            places += [Path(source.file)] if source.file else []
            found = _linked_to(source, next((p for p in places if _is_file(p)), None))
            if (found.width, found.height) != (source.width, source.height):
                otherwise.append(found)
            else:
                source = found
        sources.append(source)
    project = evolve(project, sources=tuple(sources))
    for found in otherwise:
        from spiralis.core.editing.sources import replaced

        project = replaced(project, found.id, found, "anew")
    return project


def _is_file(path: Path) -> bool:
    try:
        return path.is_file()
    except (OSError, ValueError):
        return False


def _linked_to(source: Source, place: Path | None) -> Source:
    if place is None:
        return source
    if source.sort.streamed:
        return evolve(source, place=place, file=str(place))
    try:
        data = read_bytes(place)
        measure = source.sort.measure
        size = measure(data, source.name) if measure is not None else (source.width, source.height)
    except SpiralisError:
        return source
    digest = hashlib.sha256(data).hexdigest()
    return evolve(source, place=place, file=str(place), data=data, digest=digest, width=size[0], height=size[1])
