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


if __name__ == "__main__":
    print(json.dumps(measure(Path(sys.argv[1]))))
