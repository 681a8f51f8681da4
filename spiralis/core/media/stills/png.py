"""A frame as PNG with alpha."""

from __future__ import annotations

from pathlib import Path

from spiralis.core.media.png_file import write_png
from spiralis.core.media.stills.base import Still, register_still
from spiralis.core.model import Composition, Project
from spiralis.core.render.frame import render_straight8


def _write(project: Project, composition: Composition, frame: float, path: Path) -> tuple[str, ...]:
    write_png(path, render_straight8(project, composition.id, frame))
    return ()


register_still(Still("png", "Picture", ".png", "One flat picture with alpha", _write))
