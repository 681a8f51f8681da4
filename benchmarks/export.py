"""Exporting Kite day as MP4 beside encoding its ready frames alone, and its rendering beside that encode."""

from __future__ import annotations

import os
import tempfile
import time
from collections.abc import Iterator
from pathlib import Path

import av

from benchmarks.measure import figure
from spiralis.core.media.exporters import ExportJob, export, exporter
from spiralis.core.media.exporters.mp4 import QUALITY, _video_frame
from spiralis.core.render.frame import render_yuv420
from spiralis.demo import demo_project

FRAMES = 100


def run() -> Iterator[str]:
    """Yield the figures."""
    demo = demo_project()
    ready = [render_yuv420(demo, "kite-day", frame) for frame in range(FRAMES)]
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        started, used = time.perf_counter(), time.process_time()
        _encode(ready, folder / "ready.mp4")
        encoding, encoding_used = time.perf_counter() - started, time.process_time() - used
        job = ExportJob(demo, "kite-day", folder / "a.mp4", 0, FRAMES)
        started = time.perf_counter()
        export(exporter("mp4"), job)
        exporting = time.perf_counter() - started
    used = time.process_time()
    for frame in range(FRAMES):
        render_yuv420(demo, "kite-day", frame)
    rendering = time.process_time() - used
    yield figure("Kite day: rendering / encoding its ready frames, processor time", rendering / encoding_used, None)
    yield figure("Kite day: export to MP4 / encoding its ready frames, time", exporting / encoding, None,
                 note=f"{os.cpu_count()} cores")  # fmt: skip


def _encode(ready, path: Path) -> None:  # type: ignore[no-untyped-def]
    with av.open(str(path), "w", options={"movflags": "+faststart"}) as container:
        stream = container.add_stream("libx264", rate=25)
        stream.height, stream.width = ready[0][0].shape
        stream.pix_fmt = "yuv420p"
        stream.options = {
            "preset": "medium",
            "crf": QUALITY["good"],
            "threads": str(os.cpu_count() or 1),
            "profile": "high",
        }
        for planes in ready:
            container.mux(stream.encode(_video_frame(planes)))
        container.mux(stream.encode())
