"""GIF: one palette for the piece, still dither, loops for ever, delays that add up to the exact duration."""

from __future__ import annotations

import math
from fractions import Fraction
from pathlib import Path

import av
import numpy as np
from PIL import Image

from spiralis.core.errors import ExportError
from spiralis.core.media.exporters.base import Exporter, ExportJob, expect, register_exporter
from spiralis.core.media.palette import Palette, build, index_frame
from spiralis.core.model import Kind, Parameter
from spiralis.core.render.frame import render_straight8

SETTINGS = (
    Parameter("colours", "Colours", Kind.NUMBER, 128.0, "Fewer colours, smaller file", "", 2, 256),
    Parameter("dither", "Dither", Kind.NUMBER, 80.0, "Fine pattern that hides missing colours", "%", 0, 100),
)
_FASTEST = 50
_PALETTE_FRAMES = 24


def frame_step(rate: Fraction) -> int:
    """Return how many frames one GIF picture stands for: browsers slow down pictures under 2/100 s."""
    return max(1, math.ceil(rate / _FASTEST))


def delays(count: int, rate: Fraction, step: int) -> list[int]:
    """Return hundredths of a second for each picture of ``count`` frames; they add up to the duration.

    Each picture begins at its exact time rounded to the nearest hundredth, so errors never add up.
    """
    times = [round(Fraction(100 * index) / rate) for index in [*range(0, count, step), count]]
    return [after - before for before, after in zip(times, times[1:], strict=False)]


def _rendered(job: ExportJob, frame: float) -> np.ndarray:
    return render_straight8(job.project, job.composition_id, frame, job.scale, dither=False)


def piece_palette(job: ExportJob) -> Palette:
    """Return one palette for the job's frames, from up to 24 of them."""
    count = job.last - job.first
    picks = sorted({job.first + index * count // _PALETTE_FRAMES for index in range(_PALETTE_FRAMES)})
    colours = int(job.setting(GIF, "colours"))
    # Small frames are enough for a palette; the true scale is used where it is smaller still.
    width = job.composition.width
    scale = min(job.scale, 480 / width)
    samples = [render_straight8(job.project, job.composition_id, pick, scale, dither=False) for pick in picks]
    return build(samples, colours)


def _argb(palette: Palette) -> np.ndarray:
    table = np.zeros((256, 4), dtype=np.uint8)
    table[:, 0] = 255
    table[: len(palette.colours), 1:] = palette.colours
    if palette.transparent >= 0:
        table[palette.transparent] = 0
    return table


def _write(job: ExportJob, path: Path) -> tuple[str, ...]:
    rate = job.composition.rate
    step = frame_step(rate)
    waits = delays(job.last - job.first, rate, step)
    palette = piece_palette(job)
    table = _argb(palette)
    strength = job.setting(GIF, "dither") / 100
    options = {"loop": "0", "final_delay": str(waits[-1])}
    with av.open(str(path), "w", format="gif", options=options) as container:
        stream = container.add_stream("gif", rate=100)
        stream.width, stream.height, stream.pix_fmt = *job.size, "pal8"
        stream.codec_context.time_base = Fraction(1, 100)
        time = 0
        numbers = list(range(job.first, job.last, step))
        pictures = job.frames(lambda frame: index_frame(_rendered(job, frame), palette, strength), numbers)
        for picture, wait in zip(pictures, waits, strict=True):
            frame = av.VideoFrame.from_ndarray((picture, table), format="pal8")  # type: ignore[arg-type]
            frame.pts, frame.time_base = time, Fraction(1, 100)
            container.mux(stream.encode(frame))
            time += wait
        container.mux(stream.encode())
    if step > 1:
        return (f"A GIF shows at most {_FASTEST} pictures a second, so every {_ordinal(step)} frame was written.",)
    return ()


def _ordinal(number: int) -> str:
    return {2: "second", 3: "third", 4: "fourth", 5: "fifth"}.get(number, f"{number}th")


def _check(job: ExportJob, path: Path) -> tuple[int, float, int, int]:
    count = job.last - job.first
    step = frame_step(job.composition.rate)
    hundredths = 0
    try:
        with Image.open(path, formats=["GIF"]) as image:
            frames = getattr(image, "n_frames", 1)
            for index in range(frames):
                image.seek(index)
                hundredths += image.info.get("duration", 0) // 10
            size = image.size
    except (OSError, ValueError, EOFError) as error:
        raise ExportError(
            f"“{job.path.name}” was not written completely; check for free space on the disk and try again."
        ) from error
    if frames == 1:
        hundredths = round(100 * count / job.composition.rate)
    found = (frames, hundredths / 100, *size)
    expect(job, path, found, (len(range(0, count, step)), count / job.composition.rate, *job.size))
    return found


GIF = Exporter("gif", "GIF", ".gif", "Palette: pages and mail", SETTINGS, _write, _check, order=200)
register_exporter(GIF)
