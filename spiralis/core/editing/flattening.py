"""A layered file as one picture, drawn by our own renderer."""

from __future__ import annotations

from functools import lru_cache
from pathlib import Path

from spiralis.core.editing.artwork import as_composition
from spiralis.core.media.files import read_bytes
from spiralis.core.media.layered import LayeredFile
from spiralis.core.media.layered_files import LAYERED_SUFFIXES, VECTOR_SUFFIXES, layers_of
from spiralis.core.media.pictures import source_of_bytes
from spiralis.core.media.png_file import png_bytes
from spiralis.core.media.sources import kinds_taken, read_source
from spiralis.core.model import Parameter, Project, Source
from spiralis.core.render.frame import render_straight8

#: Outlines that become pixels are drawn so many times larger than the room they are to fill, up to so many px a side:
#: a camera comes nearer, and formats grow.
_SPARE, _MOST = 2.0, 4096


def flat_source(layered: LayeredFile, scale: float = 1.0) -> Source:
    """Return a picture source that shows all layers of a file, drawn at a scale."""
    project, piece = as_composition(Project(), layered, layered.name)
    pixels = render_straight8(project, piece.id, 0, scale)
    return source_of_bytes(png_bytes(pixels), layered.name, (pixels.shape[1], pixels.shape[0]))


def read_one_source(path: Path, fonts: Project, room: tuple[float, float] = (0.0, 0.0)) -> Source:
    """Read any file as one source; a layered one as a picture of all its layers.

    Args:
        path: the file.
        fonts: a project whose own fonts words in SVG files may use.
        room: width and height in px that outlines are to fill; 0 leaves them at their own size.

    Raises:
        PictureError, FontError, FileError: one sentence on what is wrong with the file.
    """
    path = Path(path)
    if path.suffix.lower() not in LAYERED_SUFFIXES:
        return read_source(path)
    own = tuple(source for source in fonts.sources if source.sort.sets_words)
    return _as_picture(read_bytes(path), path.name, own, room)


def suffixes_for(parameter: Parameter) -> tuple[str, ...]:
    """Return the suffixes of the files that a property takes; layered ones are pictures, too."""
    kinds = kinds_taken(parameter)
    layered = LAYERED_SUFFIXES if any(kind.still for kind in kinds) else ()
    return tuple(dict.fromkeys((*layered, *(suffix for kind in kinds for suffix in kind.suffixes))))


@lru_cache(maxsize=64)
def _as_picture(data: bytes, name: str, fonts: tuple[Source, ...], room: tuple[float, float]) -> Source:
    """Draw a layered file; the rows of a table ask for the same one again and again."""
    layered = layers_of(data, name, Project("", sources=fonts))
    larger = max(_SPARE * side / own for side, own in zip(room, (layered.width, layered.height), strict=True))
    most = _MOST / max(layered.width, layered.height)
    vectors = Path(name).suffix.lower() in VECTOR_SUFFIXES
    return flat_source(layered, max(min(larger, most), 1.0) if vectors else 1.0)
