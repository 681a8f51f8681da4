"""Contact sheets: frames of a piece side by side in one picture."""

from __future__ import annotations

import math
from collections.abc import Callable

import numpy as np
from PIL import Image, ImageDraw, ImageFont

from spiralis.core.model import Composition, Project
from spiralis.core.raster.fonts import FONT_FOLDER
from spiralis.core.render.frame import render_straight8

_GAP, _LABEL = 8, 18
_BACKGROUND, _TEXT = (43, 43, 43, 255), (240, 236, 244, 255)


def sheet_frames(piece: Composition, count: int) -> list[int]:
    """Return ``count`` frames spread evenly over the play span; the last is not the first of the next round."""
    first, last = piece.span
    count = max(1, min(count, last - first))
    return [first + index * (last - first) // count for index in range(count)]


def contact_sheet(
    project: Project, composition_id: str, count: int = 16, columns: int = 4, width: int = 240,
    told: Callable[[int], object] | None = None,
) -> np.ndarray:  # fmt: skip
    """Return a sheet as straight uint8 (h, w, 4): frames in reading order, each ``width`` px wide with its number.

    ``told`` is called with how many frames are done.
    """
    piece = project.composition(composition_id)
    frames = sheet_frames(piece, count)
    columns = max(1, min(columns, len(frames)))
    scale = width / piece.width
    height = max(1, round(piece.height * scale))
    rows = math.ceil(len(frames) / columns)
    size = (columns * (width + _GAP) + _GAP, rows * (height + _LABEL + _GAP) + _GAP)
    sheet = Image.new("RGBA", size, _BACKGROUND)
    draw = ImageDraw.Draw(sheet)
    font = ImageFont.truetype(str(FONT_FOLDER / "Karla-variable.ttf"), 13)
    for index, frame in enumerate(frames):
        pixels = Image.fromarray(render_straight8(project, composition_id, frame, scale))
        x = _GAP + index % columns * (width + _GAP)
        y = _GAP + index // columns * (height + _LABEL + _GAP)
        sheet.alpha_composite(pixels.crop((0, 0, width, height)), (x, y))
        draw.text((x + 2, y + height + 2), f"{frame}", font=font, fill=_TEXT)
        if told is not None:
            told(index + 1)
    return np.asarray(sheet)
