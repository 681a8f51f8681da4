"""Exporting pieces as MP4 beside encoding their ready frames alone, and their rendering beside that encode."""

from __future__ import annotations

import os
import tempfile
import time
from collections.abc import Callable, Iterator
from pathlib import Path

from benchmarks import reference_scene
from benchmarks.measure import figure
from spiralis.core.media.encoding import encode, even
from spiralis.core.media.exporters import ExportJob, export, exporter
from spiralis.core.media.exporters.mp4 import CODECS
from spiralis.core.model import Project
from spiralis.core.render.frame import render_yuv420
from spiralis.demo.stored import stored_demo

FRAMES, ROUNDS = 60, 2


def run() -> Iterator[str]:
    """Yield the figures."""
    demo = stored_demo()
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        own = [(demo, piece_id) for piece_id in ("kite-day", "square-spot", "squeeze-pair")]
        for project, piece_id in [(reference_scene.scene(folder), "ref"), *own]:
            yield from _figures(project, piece_id, folder)


def _figures(project: Project, piece_id: str, folder: Path) -> Iterator[str]:
    piece = project.composition(piece_id)
    count = min(FRAMES, piece.length)
    ready = [render_yuv420(project, piece_id, frame) for frame in range(count)]
    size = even((piece.width, piece.height))
    job = ExportJob(project, piece_id, folder / "whole.mp4", 0, count)
    encoding, exporting, codec = [], [], CODECS["H.264"]
    for _ in range(ROUNDS):
        encoding.append(_taken(lambda: encode(
            folder / "ready.mp4", "mp4", codec, "yuv420p", codec.setting("good", 0), size, piece.rate, iter(ready),
            {"movflags": "+faststart"},
        )))  # fmt: skip
        exporting.append(_taken(lambda: export(exporter("mp4"), job)))
    drawing = _taken(lambda: [render_yuv420(project, piece_id, frame) for frame in range(count)])
    wall = min(each[0] for each in exporting) / min(each[0] for each in encoding)
    both = drawing[1] + min(each[1] for each in encoding)
    share = min(each[1] for each in exporting) / both
    yield figure(f"{piece.name}: export to MP4 / encoding its ready frames, time", wall, 1.25,
                 note=f"{os.cpu_count()} cores")  # fmt: skip
    yield figure(f"{piece.name}: export / drawing and encoding, processor time", share, 1.3)


def _taken(work: Callable[[], object]) -> tuple[float, float]:
    """Return the time and the processor time that something took."""
    started, used = time.perf_counter(), time.process_time()
    work()
    return time.perf_counter() - started, time.process_time() - used
