"""What pins a layer, across or down, to the frame or to another layer, whatever becomes of either's content."""

from __future__ import annotations

import math

from attrs import frozen

from spiralis.core.errors import ModelError

ACROSS, DOWN = ("left", "middle", "right"), ("top", "centre", "bottom")
#: What of a layer itself may be pinned.
OWN_ACROSS, OWN_DOWN = (*ACROSS, "pivot across"), (*DOWN, "pivot down")
#: The ends of what is drawn of a shape's outline, for both ways.
LINE_ENDS = ("drawn end", "drawn beginning")


@frozen
class EdgePin:
    """The ``edge`` of the layer's box, or its pivot, stays ``gap`` px right of, or below, ``to`` of a layer (empty: of
    the frame).

    That is an edge, or an end of what is drawn of the first outline of a shape, ``along`` % of its length further on.
    """

    edge: str
    to: str
    layer: str = ""
    gap: float = 0.0
    along: float = 0.0

    def __attrs_post_init__(self) -> None:
        alike = ((OWN_ACROSS, ACROSS), (OWN_DOWN, DOWN))
        if not any(self.edge in own and (self.to in edges or self.on_line) for own, edges in alike):
            raise ModelError(f"An edge across ({', '.join(ACROSS)}) or down ({', '.join(DOWN)}) goes to one alike.")
        if self.on_line and not self.layer:
            raise ModelError("The frame has no line that something could be pinned to.")
        if not all(math.isfinite(number) and abs(number) <= 1e7 for number in (self.gap, self.along)):
            raise ModelError("An edge pin's gap is an ordinary number of pixels, and so is how far along it lies.")

    @property
    def axis(self) -> int:
        """0 for an edge across, 1 for one down."""
        return 0 if self.edge in OWN_ACROSS else 1

    @property
    def on_line(self) -> bool:
        """Whether it is pinned to an outline."""
        return self.to in LINE_ENDS


def edge_place(box: tuple[float, float, float, float], edge: str) -> float:
    """Return where an edge of a box (left, top, right, bottom) is."""
    axis, names = (0, ACROSS) if edge in ACROSS else (1, DOWN)
    low, high = box[axis], box[axis + 2]
    return (low, (low + high) / 2, high)[names.index(edge)]
