"""Open any layered file: SVG or OpenRaster."""

from __future__ import annotations

from pathlib import Path

from spiralis.core.errors import FileError
from spiralis.core.media.files import read_bytes
from spiralis.core.media.layered import LayeredFile
from spiralis.core.media.openraster import read_openraster
from spiralis.core.media.svg.reader import read_svg
from spiralis.core.model import Project

VECTOR_SUFFIXES = (".svg", ".svgz")
LAYERED_SUFFIXES = (*VECTOR_SUFFIXES, ".ora")


def read_layers(path: Path, fonts: Project | None = None) -> LayeredFile:
    """Read an SVG or OpenRaster file as named layers in place.

    Args:
        path: the file.
        fonts: a project whose own fonts may be used for text beside the shipped ones.

    Raises:
        FileError: one sentence on what is wrong with the file.
    """
    return layers_of(read_bytes(Path(path)), Path(path).name, fonts)


def layers_of(data: bytes, name: str, fonts: Project | None = None) -> LayeredFile:
    """Read a layered file's bytes; arguments and errors as ``read_layers``."""
    if not data:
        raise FileError(f"“{name}” is empty; choose another copy of it.")
    suffix = Path(name).suffix.lower()
    if suffix in VECTOR_SUFFIXES:
        return read_svg(data, name, fonts)
    if suffix == ".ora":
        return read_openraster(data, name)
    raise FileError(f"“{name}” is not a layered file; layered files end in {', '.join(LAYERED_SUFFIXES)}.")
