"""Exporting pieces as MP4 beside encoding their ready frames alone, and their rendering beside that encode."""

from __future__ import annotations

import os
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable, Iterator
from pathlib import Path

from benchmarks import reference_scene
from benchmarks.measure import figure
from spiralis.cli.base import NICENESS
from spiralis.core.media.encoding import encode, even
from spiralis.core.media.exporters import ExportJob, export, exporter
from spiralis.core.media.exporters.mp4 import CODECS
from spiralis.core.model import Project
from spiralis.core.render.frame import render_yuv420
from spiralis.demo.stored import stored_demo

FRAMES, ROUNDS = 60, 4
#: Writes so many seconds of a piece at a third of its size and prints its process's peak, in kB (proc(5), VmHWM).
_WRITER = """
import sys
from pathlib import Path
from attrs import evolve
from spiralis.core.media.exporters import ExportJob, export, exporter
from spiralis.demo.stored import stored_demo
count = 25 * int(sys.argv[2])
demo = stored_demo()
piece = demo.composition("button-pulse")
layers = tuple(evolve(layer, last=count) for layer in piece.layers)
piece = evolve(piece, length=count, play_span=None, layers=layers)
demo = evolve(demo, compositions=tuple(piece if each.id == piece.id else each for each in demo.compositions))
export(exporter("mp4"), ExportJob(demo, piece.id, Path(sys.argv[1]), 0, count, 1 / 3))
print(next(line.split()[1] for line in open("/proc/self/status") if line.startswith("VmHWM")))
"""


def run() -> Iterator[str]:
    """Yield the figures."""
    demo = stored_demo()
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        own = [(demo, piece_id) for piece_id in ("kite-day", "square-spot", "squeeze-pair")]
        for project, piece_id in [(reference_scene.scene(folder), "ref"), *own]:
            yield from _figures(project, piece_id, folder)
        short, long = (_peak(folder, seconds) for seconds in (10, 60))
        yield figure("peak memory of a 60 s export / of a 10 s one", long / short, 1.05, note=f"{short / 1e6:.0f} MB")


def _figures(project: Project, piece_id: str, folder: Path) -> Iterator[str]:
    piece = project.composition(piece_id)
    count = min(FRAMES, piece.length)
    ready = [render_yuv420(project, piece_id, frame) for frame in range(count)]
    size = even((piece.width, piece.height))
    job = ExportJob(project, piece_id, folder / "whole.mp4", 0, count, niceness=NICENESS)
    encoding, exporting, codec = [], [], CODECS["H.264"]
    tuned = codec.options(codec.setting("good", 0))
    for _ in range(ROUNDS):
        encoding.append(_taken(lambda: encode(
            folder / "ready.mp4", "mp4", codec, "yuv420p", tuned, size, piece.rate, iter(ready),
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
    least = max(min(each[0] for each in encoding), both / 2)
    yield figure(f"{piece.name}: export / the larger of encoding and half of both, time",
                 min(each[0] for each in exporting) / least, 1.3)  # fmt: skip


def _peak(folder: Path, seconds: int) -> float:
    """Return what a process of its own holds at most, in bytes, that writes so many seconds of Button pulse."""
    found = subprocess.run([sys.executable, "-c", _WRITER, str(folder / "long.mp4"), str(seconds)], check=True,
                           capture_output=True, text=True)  # fmt: skip
    return float(found.stdout) * 1024


def _taken(work: Callable[[], object]) -> tuple[float, float]:
    """Return the time and the processor time that something took."""
    started, used = time.perf_counter(), time.process_time()
    work()
    return time.perf_counter() - started, time.process_time() - used
