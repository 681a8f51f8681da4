"""Contact sheet: many frames of the piece on one PNG."""

from __future__ import annotations

from pathlib import Path

import numpy as np
from attrs import evolve
from PIL import Image

from spiralis.core.media.exporters.animated import straight_frame
from spiralis.core.media.exporters.base import Exporter, ExportJob, register_exporter
from spiralis.core.media.png_file import write_png
from spiralis.core.model import Kind, Parameter

SETTINGS = (
    Parameter("columns", "Columns", Kind.NUMBER, 5.0, "Frames beside each other", "", 1, 30),
    Parameter("rows", "Rows", Kind.NUMBER, 4.0, "Frames below each other", "", 1, 30),
    Parameter("gap", "Gap", Kind.NUMBER, 8.0, "Room between them", "px", 0, 200),
)


def _cells(job: ExportJob) -> tuple[int, int, int, tuple[int, int]]:
    """Return columns, rows, gap and the size of a cell: together they are as wide as the job's size says."""
    columns, rows, gap = (int(job.setting(SHEET, name)) for name in ("columns", "rows", "gap"))
    width = max((job.size[0] - gap * (columns + 1)) // columns, 1)
    height = max(round(width * job.composition.height / job.composition.width), 1)
    return columns, rows, gap, (width, height)


def _write(job: ExportJob, path: Path) -> tuple[str, ...]:
    columns, rows, gap, (width, height) = _cells(job)
    count = columns * rows
    picks = [job.times[index * len(job.times) // count] for index in range(count)]
    scale = width / job.composition.width
    sheet = np.zeros((gap + rows * (height + gap), gap + columns * (width + gap), 4), np.uint8)
    frames = evolve(job, scale=scale).frames(straight_frame, picks)
    for index, pixels in enumerate(frames):
        top, left = gap + index // columns * (height + gap), gap + index % columns * (width + gap)
        part = pixels[:height, :width]
        sheet[top : top + part.shape[0], left : left + part.shape[1]] = part
    write_png(path, sheet)
    return ()


def _check(job: ExportJob, path: Path) -> tuple[int, float, int, int]:
    with Image.open(path, formats=["PNG"]) as image:
        image.load()
        return 1, 0.0, *image.size


SHEET = Exporter("sheet", "Contact sheet", ".png", "many frames on one picture", SETTINGS, _write, _check,
                 order=340)  # fmt: skip
register_exporter(SHEET)
