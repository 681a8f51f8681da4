"""What Seam check looks for too and counts whether a piece loops or not: edges in view, layers that never show."""

from __future__ import annotations

from collections.abc import Iterator

from attrs import evolve

from spiralis.core.checks.findings import NOTE, Cause
from spiralis.core.checks.piece.case import WEAK, PieceCase, PieceFinder, register_piece_finder
from spiralis.core.checks.seam.case import finder

_SHARED = ("edge-in-view", "never-shows")


def _find(case: PieceCase) -> Iterator[Cause]:
    for name in _SHARED:
        for cause in finder(name).find(case.seam):
            yield cause if cause.sort == NOTE else evolve(cause, sort=WEAK)


register_piece_finder(PieceFinder("passing-on", "Edges in view, layers that never show", _find, order=500))
