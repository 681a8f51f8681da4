"""A layered file as one picture, drawn by our own renderer."""

from __future__ import annotations

from spiralis.core.editing.artwork import as_composition
from spiralis.core.media.layered import LayeredFile
from spiralis.core.media.pictures import source_of_bytes
from spiralis.core.media.png_file import png_bytes
from spiralis.core.model import Project, Source
from spiralis.core.render.frame import render_straight8


def flat_source(layered: LayeredFile) -> Source:
    """Return a picture source that shows all layers of a file."""
    project, piece = as_composition(Project(), layered, layered.name)
    data = png_bytes(render_straight8(project, piece.id, 0))
    return source_of_bytes(data, layered.name, (piece.width, piece.height))
