"""A sliding picture whose edge comes into view, so that nothing is left behind it."""

from __future__ import annotations

from collections.abc import Iterator

from spiralis.core.checks.findings import Cause
from spiralis.core.checks.seam.case import GAP, Case, Finder, register_finder, shows
from spiralis.core.checks.seam.covering import uncovered
from spiralis.core.model import layer_kind

#: A layer covers the frame as a rule where it does so at this part of the moments.
_MOSTLY = 0.5
_PLACES = ("position", "position_x", "position_y", "scale", "rotation", "skew")


def _find(case: Case) -> Iterator[Cause]:
    if case.piece.background is not None and case.piece.background[3] >= 1:
        return
    for place, layer in reversed(list(enumerate(case.piece.layers))):
        if layer not in case.layers or layer_kind(layer.kind).fills_frame or layer.blocks:
            continue
        if not any(name in _PLACES for name in layer.animated()):
            continue
        gaps = [uncovered(at, layer) for at in case.moments if shows(at, layer)]
        bare = [gap for gap in gaps if gap > 0.5]
        if not bare or len(bare) > (1 - _MOSTLY) * len(gaps) or len(gaps) < len(case.moments):
            continue
        if _covered_behind(case, place):
            continue
        sentence = f"{layer.name}: its edge comes into view by up to {max(bare):.0f} px, with nothing behind it."
        yield Cause("edge-in-view", GAP, case.piece.id, layer.id, "", max(bare), "px", sentence, ("tile",))


def _covered_behind(case: Case, place: int) -> bool:
    """Whether what lies behind fills the frame all the time."""
    for layer in case.piece.layers[place + 1 :]:
        if layer not in case.layers:
            continue
        if all(shows(at, layer) and at.values(layer)["opacity"] >= 100 for at in case.moments) and (
            layer_kind(layer.kind).fills_frame or all(uncovered(at, layer) <= 0.5 for at in case.moments)
        ):
            return True
    return False


register_finder(Finder("edge-in-view", "Edges that come into view", _find, order=300))
