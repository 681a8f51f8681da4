"""A layer whose bar ends shortly before the loop does, or begins shortly after it: it is gone for some frames."""

from __future__ import annotations

from collections.abc import Iterator

from spiralis.core.checks.findings import Cause
from spiralis.core.checks.seam.case import GAP, Case, Finder, register_finder, visible
from spiralis.core.model import Layer
from spiralis.core.render.layers import Evaluated

#: A gap longer than this part of the loop is meant.
_SHARE = 0.2


def _find(case: Case) -> Iterator[Cause]:
    for layer in case.layers:
        late, early = layer.first - case.begin, case.end - layer.last
        if _is_gap(case, layer, early, late, layer.last, (layer.last - 1, case.begin)):
            yield _cause(case, layer, early, f"ends {_frames(early)} before the loop does")
        elif _is_gap(case, layer, late, early, layer.first, (layer.first, case.end - 1)):
            yield _cause(case, layer, late, f"begins {_frames(late)} after the loop does")


def _is_gap(case: Case, layer: Layer, missing: int, other: int, cut: int, seen: tuple[int, int]) -> bool:
    """Whether a bar lacks some frames at one end of the loop and none at the other, and is seen on both sides of them.

    ``cut`` is where its bar ends towards the gap, ``seen`` are the frames beside it.
    """
    short = 0 < missing <= _SHARE * case.length and other <= 0
    return short and not _replaced(case, layer, cut) and all(_seen(case, layer, frame) for frame in seen)


def _seen(case: Case, layer: Layer, frame: int) -> bool:
    return visible(Evaluated(case.project, case.piece, frame), layer)


def _replaced(case: Case, layer: Layer, frame: int) -> bool:
    """Whether another layer comes or goes where this one does: a cut."""
    return any(
        y.id != layer.id and (abs(y.first - frame) <= 1 or abs(y.last - frame) <= 1)
        and not (y.first <= case.begin and y.last >= case.end)
        and (y.first, y.last) != (layer.first, layer.last)
        for y in case.layers
    )  # fmt: skip


def _frames(count: int) -> str:
    return "a frame" if count == 1 else f"{count} frames"


def _cause(case: Case, layer: Layer, count: int, what: str) -> Cause:
    sentence = f"{layer.name}: its bar {what}, so that it is gone for {_frames(count)}."
    return Cause(
        "early-end", GAP, case.piece.id, layer.id, "", float(count), "frames", sentence, ("extend-span",)
    )  # fmt: skip


register_finder(Finder("early-end", "Bars that end early", _find, order=150))
