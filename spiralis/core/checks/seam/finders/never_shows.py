"""A layer that is never seen within the play span."""

from __future__ import annotations

from collections.abc import Iterator

from spiralis.core.checks.findings import NOTE, Cause
from spiralis.core.checks.seam.case import Case, Finder, register_finder, shows
from spiralis.core.render.layers import Evaluated


def _find(case: Case) -> Iterator[Cause]:
    for layer in case.layers:
        if not layer.track("visible").moving and not layer.track("visible").value:
            continue  # Somebody has shut its eye.
        if any(shows(at, layer) for at in case.moments):
            continue
        # Something short may show between the moments that were looked at.
        first, last = max(layer.first, case.begin), min(layer.last, case.end)
        within = range(first, last) if last - first <= 500 else ()
        if any(shows(Evaluated(case.project, case.piece, frame), layer) for frame in within):
            continue
        yield Cause(
            "never-shows", NOTE, case.piece.id, layer.id, "", 0.0, "",
            f"{layer.name} is never seen in the play span.", ("hide-layer",),
        )  # fmt: skip


register_finder(Finder("never-shows", "Layers that never show", _find, order=800))
