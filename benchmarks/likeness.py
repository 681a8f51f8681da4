"""How alike SVG files look to an independent renderer: ``python -m benchmarks.likeness FOLDER``.

Icon and emoji sets from the package registries make good folders; none is shipped.
"""

from __future__ import annotations

import sys
from pathlib import Path

import numpy as np

from spiralis.core.editing.artwork import as_composition
from spiralis.core.errors import SpiralisError
from spiralis.core.media.svg.fallback import draw_document
from spiralis.core.media.svg.reader import read_svg
from spiralis.core.model import Project
from spiralis.core.render import render_frame


def difference(data: bytes, name: str) -> tuple[float, int]:
    """Return the mean difference of the channels in levels of 255, and how many parts came in as pictures."""
    layered = read_svg(data, name)
    project, piece = as_composition(Project(), layered, name)
    ours = render_frame(project, piece.id, 0) * 255
    other = np.asarray(draw_document(data)).astype(np.float32)
    other[..., :3] *= other[..., 3:] / 255
    height, width = (min(a, b) for a, b in zip(ours.shape[:2], other.shape[:2], strict=True))
    return float(np.abs(ours[:height, :width] - other[:height, :width]).mean()), len(layered.notes)


def main(folder: Path) -> None:
    """Print the mean and the worst ten."""
    found, refused = [], []
    for path in sorted(folder.rglob("*.svg")):
        try:
            found.append((*difference(path.read_bytes(), path.name), path.name))
        except SpiralisError as error:
            refused.append(str(error))
    if found:
        mean = sum(gap for gap, _, _ in found) / len(found)
        print(f"{len(found)} files, mean difference {mean:.3f} of 255, {sum(n for _, n, _ in found)} notes")
        for gap, notes, name in sorted(found, reverse=True)[:10]:
            print(f"  {gap:.3f}  {name}{f'  ({notes} notes)' if notes else ''}")
    for sentence in refused:
        print(sentence)


if __name__ == "__main__":
    main(Path(sys.argv[1]))
