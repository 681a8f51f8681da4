"""Words that are too small on a phone, cut by the frame, or outside of what stays free."""

from __future__ import annotations

from collections.abc import Iterator

from spiralis.core.checks.findings import NOTE, Cause
from spiralis.core.checks.piece.case import WEAK, PieceCase, PieceFinder, register_piece_finder
from spiralis.core.checks.piece.reading import PHONE, Reader, Seen

#: The height of type that a phone still shows legibly, in px of a page.
SMALLEST = 9.0
_CLEAR = 0.85
#: So much of the frame may lie beyond its edge before words count as cut: rounding of boxes.
_SLACK = 0.004


def _resting(reader: Reader) -> list[Seen]:
    """Return how words are seen while they are clear and stand still."""
    found = []
    for before, seen in zip(reader.seen, reader.seen[1:], strict=False):
        moved = max(abs(a - b) for a, b in zip(before.box, seen.box, strict=True))
        if seen.opacity >= _CLEAR and moved < 0.5:
            found.append(seen)
    return found


def beyond(box: tuple[float, ...], area: tuple[float, ...]) -> tuple[float, float]:
    """Return how far a box has to be moved, x and y, to lie within an area; 0 where it does or cannot."""
    move = []
    for axis in (0, 1):
        low, high = area[axis] - box[axis], area[axis + 2] - box[axis + 2]
        move.append(max(low, 0.0) + min(high, 0.0) if low <= high else 0.0)
    return move[0], move[1]


def safe_area_of(case: PieceCase) -> tuple[float, float, float, float]:
    """Return the box of the frame that the composition's safe area leaves, in px."""
    piece = case.piece
    across, down = piece.width * piece.safe_area[0] / 100, piece.height * piece.safe_area[1] / 100
    return across, down, piece.width - across, piece.height - down


def _find(case: PieceCase) -> Iterator[Cause]:
    piece = case.piece
    phone = PHONE / piece.width
    slack = _SLACK * max(piece.width, piece.height)
    for reader in case.readers:
        clear = [seen for seen in reader.seen if seen.opacity >= _CLEAR]
        largest = max(clear, key=lambda seen: seen.size, default=None)
        own = () if reader.way else ("larger-words",)
        if largest is not None and largest.size * phone < SMALLEST:
            yield Cause(
                "small-words", WEAK, reader.piece.id, reader.layer.id, "", largest.size * phone, "px",
                f"{reader.told} is {largest.size * phone:.1f} px high on a phone, where {SMALLEST:.0f} px is the least "
                "that is read.", own, (largest.frame, largest.frame),
            )  # fmt: skip
        resting = _resting(reader)
        if not resting:
            continue
        frames = resting[0].frame, resting[-1].frame
        cut = _over(resting, (0.0, 0.0, float(piece.width), float(piece.height)))
        own = () if reader.way else ("into-the-frame",)
        if cut > slack:
            yield Cause(
                "cut-words", WEAK, reader.piece.id, reader.layer.id, "", cut, "px",
                f"{reader.told} stands still with {cut:.0f} px of it beyond the frame's edge.", own, frames,
            )  # fmt: skip
            continue
        close = _over(resting, safe_area_of(case))
        if close > slack:
            yield Cause(
                "safe-area", NOTE, reader.piece.id, reader.layer.id, "", close, "px",
                f"{reader.told} stands {close:.0f} px outside of the safe area, where a feed may lay its marks.",
                own, frames,
            )  # fmt: skip


def _over(resting: list[Seen], area: tuple[float, float, float, float]) -> float:
    """Return by how much words that rest lie beyond an area, in px; those wholly outside of it count for nothing."""
    found = [0.0]
    for seen in resting:
        left, top, right, bottom = seen.box
        if right <= area[0] or left >= area[2] or bottom <= area[1] or top >= area[3]:
            continue
        found.append(max(area[0] - left, area[1] - top, right - area[2], bottom - area[3]))
    return max(found)


register_piece_finder(PieceFinder("word-places", "Size and place of words", _find, order=400))
