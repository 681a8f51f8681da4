"""Flashes that can bring on seizures: more than three a second over too large an area."""

from __future__ import annotations

from collections.abc import Iterator

from spiralis.core.checks.findings import Cause
from spiralis.core.checks.piece.case import GRAVE, PieceCase, PieceFinder, register_piece_finder
from spiralis.core.checks.piece.flashing import general_changes, red_changes, worst_flashing


def _find(case: PieceCase) -> Iterator[Cause]:
    size, loops = (case.piece.width, case.piece.height), case.piece.loop
    frames = case.small
    for name, label, changes in (
        ("flashes", "flashes", general_changes(frames)), ("red-flashes", "red flashes", red_changes(frames)),
    ):  # fmt: skip
        found = worst_flashing(changes, case.rate, size, loops)
        if found is None:
            continue
        first, last = case.frames[found.first], case.frames[found.last]
        yield Cause(
            name, GRAVE, case.piece.id, "", "", found.flashes, "a second",
            f"{found.flashes:.0f} {label} within a second over {found.area * 100:.0f} % of the frame, frames {first} "
            f"to {last}: more than three can bring on seizures (WCAG 2.3.1). Make them slower, smaller or weaker.",
            frames=(first, last),
        )  # fmt: skip


register_piece_finder(PieceFinder("flashes", "Flash safety", _find, order=100, drawn=True))
