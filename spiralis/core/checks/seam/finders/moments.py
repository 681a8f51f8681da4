"""Footage, flipbooks and nested compositions that do not come back to the picture they began with."""

from __future__ import annotations

from collections.abc import Iterator

from spiralis.core.checks.findings import Cause
from spiralis.core.checks.seam.case import JUMP, Case, Finder, register_finder, seen_at_seam
from spiralis.core.model import layer_kind


def _find(case: Case) -> Iterator[Cause]:
    if case.meets:
        return
    for layer in case.piece.layers:
        if layer.reference or layer_kind(layer.kind).moment is None or not seen_at_seam(case, layer):
            continue
        if case.first.moment(layer) != case.after.moment(layer):
            own = layer.track("retime").value if layer.has("retime") else False
            mends: tuple[str, ...] = ("cross-fade",) if own else ("make-it-loop", "cross-fade", "run-there-and-back")
            if not layer.has("ends"):
                # Nothing here can be run backwards.
                mends = tuple(name for name in mends if name != "run-there-and-back")
            yield Cause(
                "moments", JUMP, case.piece.id, layer.id, "", 0.0, "",
                f"{layer.name}: at the end it does not show what it began with.", mends,
            )  # fmt: skip


register_finder(Finder("moments", "Pictures that do not come back", _find, order=110))
