"""How words are set, and words as they are set: letters in place, their lines, what is marked."""

from __future__ import annotations

from typing import NamedTuple

from attrs import field, frozen

from spiralis.core.colour import Colour
from spiralis.core.geometry import Affine, Box
from spiralis.core.model.art import Contour
from spiralis.core.raster.curves import Track as CurveTrack
from spiralis.core.raster.fonts import FaceAt


class Run(NamedTuple):
    """Letters from ``first`` to ``last`` (left out) that depart from their layer's look.

    Family "", weight 0 and no colour are the layer's own; ``size`` is in % of its size, ``tracking`` in thousandths and
    ``rise`` in % of their own size beyond the layer's. ``marked`` are those that plates and lines may keep to.
    """

    first: int = 0
    last: int = 0
    family: str = ""
    weight: float = 0.0
    size: float = 100.0
    colour: Colour | None = None
    tracking: float = 0.0
    rise: float = 0.0
    marked: bool = False


@frozen
class Manner:
    """How words are set: lengths in px, ``tracking`` in thousandths of the size, ``leading`` and ``rise`` in %.

    ``flow`` says what the frame (width, height) does to lines; ``arc`` bends them by so many degrees, ``path`` lays
    them along a contour from ``along`` (0 to 1 of its length) on. ``number`` stands where # is, unless it is empty.
    In a box words stand at its ``top``, in its ``middle`` or at its ``bottom``.
    """

    font: str
    weight: float
    size: float
    tracking: float = 0.0
    leading: float = 110.0
    rise: float = 0.0
    alignment: str = "centre"
    caps: str = "as typed"
    flow: str = "lines"
    frame: tuple[float, float] = (600.0, 300.0)
    arc: float = 0.0
    path: Contour | None = None
    along: float = 0.0
    axes: tuple[tuple[str, float], ...] = ()
    fill: Colour = (1.0, 1.0, 1.0, 1.0)
    runs: tuple[Run, ...] = ()
    number: str = ""
    stands: str = "top"


@frozen
class Letter:
    """A glyph in place: ``matrix`` maps the font's units (y up) to the layer's; ``cluster`` is its first letter."""

    at: FaceAt
    glyph: int
    matrix: Affine
    colour: Colour
    cluster: int


@frozen
class Line:
    """A set line, or marked words of one: its letters, baseline and extent, the size of its tallest."""

    first: int
    last: int
    baseline: float
    left: float
    width: float
    ascent: float
    descent: float
    size: float
    #: Where the caret stands behind its last letter: before ``last`` where it is wrapped at a space.
    end: int

    def stretched(self, fit: Affine) -> Line:
        """Return the line under a map that turns and slants nothing."""
        left, baseline = fit.apply(self.left, self.baseline)
        ascent, descent, size = (number * fit.d for number in (self.ascent, self.descent, self.size))
        return Line(self.first, self.last, baseline, left, self.width * fit.a, ascent, descent, size, self.end)


@frozen(eq=False)
class Setting:
    """Words as set. ``carets`` tells for each letter, and the end, the foot of the caret and its direction upwards.

    Where they run along a ``curve``, lines and what is ``marked`` are told as if straight, the first one on ``foot``.
    """

    letters: tuple[Letter, ...]
    lines: tuple[Line, ...]
    box: Box
    size: float
    carets: tuple[tuple[float, float, float], ...] = field(repr=False)
    marked: tuple[Line, ...] = ()
    curve: CurveTrack | None = field(default=None, repr=False)
    foot: float = 0.0

    def line_of(self, index: int) -> int:
        """Return the number of the line that a letter stands on."""
        return max((i for i, line in enumerate(self.lines) if line.first <= index), default=0)
