"""A layered file of 100 layers at 4000 by 5000 px: time to its first picture, and the memory it takes."""

from __future__ import annotations

import io
import json
import subprocess
import sys
import tempfile
import time
import zipfile
from collections.abc import Iterator
from pathlib import Path

import numpy as np
from PIL import Image

from benchmarks.measure import figure
from spiralis.core.editing.artwork import as_composition
from spiralis.core.media.layered_files import layers_of
from spiralis.core.model import Project
from spiralis.core.render.frame import render_rgba8
from spiralis.core.warm import warm

LAYERS, WIDTH, HEIGHT = 100, 4000, 5000
SECONDS, BYTES = 3.0, 1.5e9


def layered_file() -> bytes:
    """Return the file: layers of a third of the canvas each way, soft shapes over nothing, and a full ground."""
    random = np.random.Generator(np.random.Philox(5))
    buffer = io.BytesIO()
    rows = []
    with zipfile.ZipFile(buffer, "w") as archive:
        archive.writestr("mimetype", "image/openraster")
        for number in range(LAYERS):
            full = number == LAYERS - 1
            width, height = (WIDTH, HEIGHT) if full else (1300, 1600)
            y, x = np.mgrid[0:height, 0:width].astype(np.float32)
            reach = np.hypot((x - width / 2) / width, (y - height / 2) / height)
            alpha = np.full_like(x, 255) if full else np.clip(1020 * (0.5 - reach), 0, 255)
            shade = random.integers(0, 200, 3)
            pixels = np.dstack(
                [shade[0] + x / width * 55, shade[1] + y / height * 55, np.full_like(x, shade[2]), alpha]
            )
            packed = io.BytesIO()
            Image.fromarray(pixels.astype(np.uint8)).save(packed, "PNG", compress_level=3)
            archive.writestr(f"data/{number}.png", packed.getvalue())
            left, top = (
                int(random.integers(0, whole - part + 1)) for whole, part in ((WIDTH, width), (HEIGHT, height))
            )
            rows.append(f'<layer name="Layer {number}" src="data/{number}.png" x="{left}" y="{top}"/>')
        archive.writestr("stack.xml", f'<image w="{WIDTH}" h="{HEIGHT}"><stack>{"".join(rows)}</stack></image>')
    return buffer.getvalue()


def most_memory() -> float:
    """Return the peak of this process' own memory; resource usage would count that of its parent."""
    lines = Path("/proc/self/status").read_text().splitlines()
    return next(float(line.split()[1]) * 1024 for line in lines if line.startswith("VmHWM"))


def measure(file: Path) -> dict[str, float]:
    """Read and show the file; return seconds and bytes."""
    warm()
    data = file.read_bytes()
    started = time.perf_counter()
    project, piece = as_composition(Project(), layers_of(data, "large.ora"), "large.ora")
    read = time.perf_counter() - started
    render_rgba8(project, piece.id, 0, 0.12)
    shown = time.perf_counter() - started
    return {"read": read, "shown": shown, "bytes": most_memory()}


def run() -> Iterator[str]:
    """Yield the figures, measured in a process that did not make the file."""
    with tempfile.TemporaryDirectory() as folder:
        file = Path(folder) / "large.ora"
        file.write_bytes(layered_file())
        command = [sys.executable, "-m", "benchmarks.artwork", str(file)]
        found = json.loads(subprocess.run(command, capture_output=True, text=True, check=True).stdout)
    yield figure("reading 100 layers at 4000 x 5000 / 3 s", found["read"] / SECONDS, None)
    yield figure("their first picture / 3 s", found["shown"] / SECONDS, 1.0)
    yield figure("memory at its peak / 1.5 GB", found["bytes"] / BYTES, 1.0)
    yield figure("an SVG of 50 kB with 40 filters, processor time / 0.5 s", filters() / 0.5, 1.0)


def filters() -> float:
    """Return the processor seconds of reading an SVG of 50 kB in which forty things have filters."""
    blurs = "".join(f'<filter id="f{k}"><feGaussianBlur stdDeviation="{k + 1}"/></filter>' for k in range(5))
    things = "".join(
        f'<circle cx="{i % 8 * 60 + 30}" cy="{i // 8 * 60 + 30}" r="22" fill="#28a" filter="url(#f{i % 5})"/>'
        for i in range(40)
    )
    head = '<svg xmlns="http://www.w3.org/2000/svg" width="1080" height="1080" viewBox="0 0 480 480">'
    data = f"{head}<defs>{blurs}</defs><!-- {'x' * 45_000} -->{things}</svg>".encode()
    layers_of(data, "warm.svg")
    started = time.process_time()
    layers_of(data, "filters.svg")
    return time.process_time() - started


if __name__ == "__main__":
    print(json.dumps(measure(Path(sys.argv[1]))))
