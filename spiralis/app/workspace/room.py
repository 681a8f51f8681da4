"""How much room the panels have: worked out for a window, and what a person has set instead, by the shape of the piece.

What was set is kept in the state folder, so that every upright piece opens as the last one was left.
"""

from __future__ import annotations

from pathlib import Path
from typing import Any

from attrs import frozen

from spiralis.app.canvas.viewport import MARGIN
from spiralis.app.strips.transport import HEIGHT, NARROWEST
from spiralis.app.widgets.dividers import GRIP
from spiralis.app.work.noted import note, note_file, noted_by_key
from spiralis.core.model import Composition

_NOTES = "room"
#: The panels that fold away, by the names of their view options.
FOLDING = ("layers", "pace", "details")
DETAILS = 300
#: What the layer list and Pace need to be of use, in px: width, height.
LAYERS, PACE = (340, 240), (460, 252)
TRANSPORT = (404, HEIGHT)


def room_file() -> Path:
    """Return where what was set is kept."""
    return note_file(_NOTES)


def shape_of(piece: Composition) -> str:
    """Return upright, square or wide."""
    ratio = piece.width / piece.height
    return "wide" if ratio > 1.15 else "upright" if ratio < 0.87 else "square"


@frozen
class Need:
    """What the panels are to fit into: a box in px, a piece of so many px, and what is open in it."""

    width: int
    height: int
    piece: tuple[int, int]
    across: bool
    open: frozenset[str]

    @property
    def ring_under_picture(self) -> bool:
        """Whether the loop ring stands under the picture, and not beside it: where time has no room for it."""
        alone = not self.open and self.piece[0] <= self.piece[1]
        return not self.across and not alone and ("pace" in self.open or "layers" not in self.open)

    def outer(self) -> tuple[int, int]:
        """Return the two sides of the first division: beside, picture | time | Details as picture and the rest."""
        return self._across() if self.across else self._beside()

    def _beside(self) -> tuple[int, int]:
        """Return the widths of the picture's column and of time."""
        details = DETAILS + GRIP if "details" in self.open else 0
        least = max([LAYERS[0]] * ("layers" in self.open) + [PACE[0]] * ("pace" in self.open) + [0])
        under = TRANSPORT[1] if self.ring_under_picture else 0
        least = max(least, 0 if under else NARROWEST)
        most = self.width - details - (least + GRIP if least else 0)
        if not self.open or not least:
            return most, least
        wanted = (self.height - under - 2 * MARGIN) * self.piece[0] / self.piece[1] + 2 * MARGIN
        left = max(round(min(wanted, most)), TRANSPORT[0] if under else 320)
        return left, self.width - details - GRIP - left

    def _across(self) -> tuple[int, int]:
        """Return the heights of the picture and of time beneath it."""
        beside = DETAILS + GRIP if "details" in self.open else 0
        wanted = (self.width - beside - 2 * MARGIN) * self.piece[1] / self.piece[0] + 2 * MARGIN
        least = max(
            [TRANSPORT[1]] + [LAYERS[1]] * ("layers" in self.open) + [PACE[1]] * ("pace" in self.open)
        )  # fmt: skip
        # A ribbon of a piece needs little height; what is beside it needs some all the same.
        top = round(min(max(wanted, 0.5 * self.height), self.height - GRIP - least))
        return top, self.height - GRIP - top


class Remembered:
    """What was set by hand, by shape: which panels are folded, how the picture lies, and sizes by arrangement."""

    def __init__(self) -> None:
        self._held = noted_by_key(_NOTES)

    def _of(self, shape: str) -> dict[str, Any]:
        held = self._held.get(shape)
        return held if isinstance(held, dict) else {}

    def folded(self, shape: str) -> frozenset[str]:
        """Return the names of folded panels."""
        names = self._of(shape).get("folded")
        if not isinstance(names, list):
            # Under a wide picture there is height for the layers, but hardly for curves as well.
            return frozenset({"pace"}) if shape == "wide" else frozenset()
        return frozenset(name for name in names if name in FOLDING)

    def across(self, shape: str) -> bool:
        """Whether the picture lies across the top: of wide pieces, unless something else was chosen."""
        chosen = self._of(shape).get("across")
        return chosen if isinstance(chosen, bool) else shape == "wide"

    def sizes(self, shape: str, arrangement: str) -> dict[str, list[int]]:
        """Return the sizes that were set in an arrangement, by the name of the division."""
        sizes = self._of(shape).get("sizes")
        held = sizes.get(arrangement) if isinstance(sizes, dict) else None
        if not isinstance(held, dict):
            return {}
        return {
            str(name): value for name, value in held.items()
            if isinstance(value, list) and all(isinstance(size, int) and 0 <= size < 20_000 for size in value)
        }  # fmt: skip

    def keep(self, shape: str, folded: frozenset[str], across: bool) -> None:
        """Remember which panels are folded, and how the picture lies."""
        self._held[shape] = {**self._of(shape), "folded": sorted(folded), "across": across}

    def keep_sizes(self, shape: str, arrangement: str, sizes: dict[str, list[int]]) -> None:
        """Remember sizes; none stands for the usual ones."""
        held = self._of(shape).get("sizes")
        every = dict(held) if isinstance(held, dict) else {}
        every[arrangement] = sizes
        self._held[shape] = {**self._of(shape), "sizes": {name: kept for name, kept in every.items() if kept}}

    def write(self) -> None:
        """Put it into its file; where that cannot be done it holds until the program ends."""
        note(_NOTES, self._held)
