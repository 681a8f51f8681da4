"""What pins an edge of a layer to an edge of the frame or of another layer, whatever becomes of either's content."""

from __future__ import annotations

import math

from attrs import frozen

from spiralis.core.errors import ModelError

ACROSS, DOWN = ("left", "middle", "right"), ("top", "centre", "bottom")


@frozen
class EdgePin:
    """The ``edge`` of the layer's box stays ``gap`` px right of (below) the edge ``to`` of a layer (empty: frame)."""

    edge: str
    to: str
    layer: str = ""
    gap: float = 0.0

    def __attrs_post_init__(self) -> None:
        if not any(self.edge in edges and self.to in edges for edges in (ACROSS, DOWN)):
            raise ModelError(f"An edge across ({', '.join(ACROSS)}) or down ({', '.join(DOWN)}) goes to one alike.")
        if not (math.isfinite(self.gap) and abs(self.gap) <= 1e7):
            raise ModelError("An edge pin's gap is an ordinary number of pixels.")

    @property
    def axis(self) -> int:
        """0 for an edge across, 1 for one down."""
        return 0 if self.edge in ACROSS else 1


def edge_place(box: tuple[float, float, float, float], edge: str) -> float:
    """Return where an edge of a box (left, top, right, bottom) is."""
    axis, names = (0, ACROSS) if edge in ACROSS else (1, DOWN)
    low, high = box[axis], box[axis + 2]
    return (low, (low + high) / 2, high)[names.index(edge)]
