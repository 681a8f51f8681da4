"""Words that do not stand out enough from what is behind them."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from spiralis.core.checks.findings import Cause
from spiralis.core.checks.piece.case import WEAK, PieceCase, PieceFinder, register_piece_finder
from spiralis.core.checks.piece.clearness import clearness
from spiralis.core.checks.piece.reading import Reader, Seen
from spiralis.core.errors import Cancelled

#: Moments at which one layer's words are measured at most.
_MOMENTS = 8
#: Words that are hardly to be made out in so much of them fail; coming and going they may.
_SHARE = 0.3
_CLEAR = 0.85


def _moments(reader: Reader) -> list[Seen]:
    clear = [seen for seen in reader.seen if seen.opacity >= _CLEAR]
    if not clear:
        return []
    return [clear[i] for i in np.unique(np.linspace(0, len(clear) - 1, _MOMENTS).round().astype(int))]


def _find(case: PieceCase) -> Iterator[Cause]:
    for reader in case.readers:
        measured = []
        for seen in _moments(reader):
            if case.stops():
                raise Cancelled("Looking at the piece was stopped.")
            found = clearness(case.seam.project, case.piece, reader, seen)
            if found is not None:
                measured.append((found, seen))
        weak = [pair for pair in measured if pair[0].ratio < pair[0].enough]
        if not weak or len(weak) < _SHARE * len(measured):
            continue
        clear, seen = min(weak, key=lambda pair: pair[0].ratio / pair[0].enough)
        fill = reader.layer.track("fill") if reader.layer.has("fill") else None
        plain = fill is not None and not fill.moving and not reader.way
        yield Cause(
            "contrast", WEAK, reader.piece.id, reader.layer.id, "", clear.ratio, "",
            f"{reader.told} stands out by {clear.ratio:.1f} : 1 at frame {seen.frame}, where {clear.enough:g} : 1 is "
            "enough for its size on a phone.",
            ("clearer-fill",) if plain else (), (seen.frame, seen.frame),
        )  # fmt: skip


register_piece_finder(PieceFinder("contrast", "Contrast of words", _find, order=300, drawn=True))
