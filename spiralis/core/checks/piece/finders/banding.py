"""Soft gradients that have come down to a few steps, which the eye sees as bands."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from spiralis.core.checks.findings import NOTE, Cause
from spiralis.core.checks.piece.case import PieceCase, PieceFinder, register_piece_finder
from spiralis.core.errors import Cancelled
from spiralis.core.render.frame import render_frame

#: Moments that are looked at, and the longest side of what is drawn, in px.
_MOMENTS, _SIDE = 3, 1080
#: A band is so wide and the next one lies so many levels of 255 away; so many of them in a row are seen as bands.
_WIDE, _LEAST, _MOST, _ROW = 6, 1.7, 12.0, 5
_SHARE = 0.02


def banded_share(pixels: np.ndarray) -> float:
    """Return which part of the lines and columns of a picture, float (h, w, 3), shows a staircase, 0 to 1."""
    light = pixels @ np.array([0.2126, 0.7152, 0.0722]) * 255
    lines = [*light[::4], *light.T[::4]]
    return sum(_staircase(line) for line in lines) / len(lines)


def _staircase(line: np.ndarray) -> bool:
    """Whether a line of levels goes up or down in even treads, several one after another the same way."""
    step = np.diff(line)
    edges = np.flatnonzero(np.abs(step) > 0.35)
    if len(edges) < _ROW:
        return False
    treads = np.diff(edges)
    sizes = step[edges]
    good = (treads >= _WIDE) & (np.abs(sizes[1:]) >= _LEAST) & (np.abs(sizes[1:]) <= _MOST)
    same = np.sign(sizes[1:]) == np.sign(sizes[:-1])
    run = 0
    for fits in (good & same).tolist():
        run = run + 1 if fits else 0
        if run >= _ROW:
            return True
    return False


def _find(case: PieceCase) -> Iterator[Cause]:
    scale = min(_SIDE / max(case.piece.width, case.piece.height), 1.0)
    worst, at = 0.0, 0
    for index in np.unique(np.linspace(0, len(case.frames) - 1, _MOMENTS).round().astype(int)).tolist():
        if case.stops():
            raise Cancelled("Looking at the piece was stopped.")
        share = banded_share(render_frame(case.seam.project, case.piece.id, case.frames[index], scale)[:, :, :3])
        worst, at = max((worst, at), (share, case.frames[index]))
    if worst >= _SHARE:
        yield Cause(
            "banding", NOTE, case.piece.id, "", "", worst * 100, "%",
            f"Bands show in a soft gradient at frame {at}, along {worst * 100:.0f} % of its lines: a picture of few "
            "levels, or a posterised one. A little grain over it hides them.", ("add-grain",), (at, at),
        )  # fmt: skip


register_piece_finder(PieceFinder("banding", "Banding", _find, order=450, drawn=True))
