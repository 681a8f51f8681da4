"""APNG: animated PNG, every pixel exact, with alpha."""

from __future__ import annotations

from fractions import Fraction
from pathlib import Path

import av
import numpy as np

from spiralis.core.media.exporters.animated import LOOPS, check_animated, straight_frames, waits
from spiralis.core.media.exporters.base import Exporter, ExportJob, register_exporter


def _write(job: ExportJob, path: Path) -> tuple[str, ...]:
    alpha = job.see_through
    pixel_format = "rgba" if alpha else "rgb24"
    options = {"plays": str(int(job.setting(APNG, "loops")))}
    with av.open(str(path), "w", format="apng", options=options) as output:
        stream = output.add_stream("apng", rate=job.out_rate)
        stream.width, stream.height, stream.pix_fmt = *job.size, pixel_format
        stream.options = {"pred": "mixed"}
        stream.codec_context.time_base = Fraction(1, 1000)
        time = 0
        for pixels, wait in zip(straight_frames(job), waits(job, 1000), strict=True):
            shown = pixels if alpha else np.ascontiguousarray(pixels[..., :3])
            frame = av.VideoFrame.from_ndarray(shown, format=pixel_format)
            frame.pts, frame.time_base, frame.duration = time, Fraction(1, 1000), wait
            time += wait
            output.mux(stream.encode(frame))
        output.mux(stream.encode())
    return ()


def _check(job: ExportJob, path: Path) -> tuple[int, float, int, int]:
    return check_animated(job, path, "PNG")


APNG = Exporter("apng", "APNG", ".apng", "Exact: pages, with alpha", (LOOPS,), _write, _check, order=220)
register_exporter(APNG)
