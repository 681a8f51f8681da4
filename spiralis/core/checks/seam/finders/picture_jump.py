"""A seam that stands out among all changes of the picture, whatever its values say: a clip that does not close."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from spiralis.core.checks.findings import Cause
from spiralis.core.checks.seam.case import JUMP, Case, Finder, register_finder, seen_at_seam
from spiralis.core.model import layer_kind

#: The seam stands out where it changes this many times as much as the greatest change elsewhere, and so much at least.
_TIMES, _LEAST = 1.6, 2.5 / 255


def _find(case: Case) -> Iterator[Cause]:
    if not case.full or case.length < 6 or not case.meets:
        return
    changes = case.changes
    seam, others = changes[-1], changes[:-1]
    if seam < _LEAST or seam < _TIMES * float(np.max(others)):
        return
    size, unit = seam * 255, "levels"
    clips = [y for y in case.piece.layers if layer_kind(y.kind).moment is not None and y.has("ends")]
    clips = [y for y in clips if not y.reference and seen_at_seam(case, y) and y.track("ends").value == "loop"]
    for layer in clips:
        yield Cause(
            "picture-jump", JUMP, case.piece.id, layer.id, "", size, unit,
            f"{layer.name}: it begins anew at the seam, and its last picture does not lead to its first.",
            ("cross-fade", "run-there-and-back"),
        )  # fmt: skip
    if not clips:
        sentence = f"The picture changes by {size:.0f} levels at the seam, more than anywhere else."
        yield Cause("picture-jump", JUMP, case.piece.id, "", "", size, unit, sentence)


register_finder(Finder("picture-jump", "Pictures that jump at the seam", _find, order=120))
