"""How a picture was made from another one: a subject cut out of it, or a hole in it filled."""

from __future__ import annotations

import math

from attrs import evolve, frozen

from spiralis.core.errors import ModelError

CUT_OUT, FILL = "cut-out", "fill"
#: What a stroke says of what it touches: it belongs to the subject, it does not, its edge is soft; it is to be filled;
#: it is copied from elsewhere; or what it goes around belongs to the subject, and nothing else does.
KEEP, DROP, SOFT, AREA, COPY, INSIDE = "keep", "drop", "soft", "area", "copy", "inside"
STROKES = (KEEP, DROP, SOFT, AREA, COPY, INSIDE)
MOST_STROKES, MOST_POINTS = 2000, 5000
LARGEST_RADIUS, LARGEST_FEATHER = 4000, 500


@frozen
class Stroke:
    """A way of a round brush over the picture, in its pixels; a copying one takes what lies at ``away`` from it."""

    kind: str
    radius: float
    points: tuple[tuple[float, float], ...]
    away: tuple[float, float] = (0.0, 0.0)

    def __attrs_post_init__(self) -> None:
        numbers = (self.radius, *self.away, *(part for point in self.points for part in point))
        if self.kind not in STROKES or not all(math.isfinite(number) for number in numbers):
            raise ModelError(f"A stroke is one of {', '.join(STROKES)}, along finite points.")
        if not 0 < self.radius <= LARGEST_RADIUS or not 1 <= len(self.points) <= MOST_POINTS:
            raise ModelError(f"A stroke has a radius up to {LARGEST_RADIUS} px and 1 to {MOST_POINTS} points.")


@frozen
class Touched:
    """Which source a picture was made of, what was done, and with which strokes, so that they can be changed.

    ``box`` is drawn roughly around a subject: left, top, right, bottom. ``feather`` softens its edge, ``shift`` moves
    it out (above zero) or in, both in px; ``clean`` takes the old ground's colour from the edge, in %.
    """

    of: str
    what: str
    box: tuple[float, float, float, float] | None = None
    strokes: tuple[Stroke, ...] = ()
    feather: float = 0.0
    shift: float = 0.0
    clean: float = 100.0
    inverted: bool = False

    def __attrs_post_init__(self) -> None:
        if self.what not in (CUT_OUT, FILL) or len(self.strokes) > MOST_STROKES:
            raise ModelError(f"A picture is made by {CUT_OUT} or {FILL}, with up to {MOST_STROKES} strokes.")
        numbers = (*(self.box or ()), self.feather, self.shift, self.clean)
        if not all(math.isfinite(number) for number in numbers) or not 0 <= self.feather <= LARGEST_FEATHER:
            raise ModelError(f"The numbers of a cut-out are finite, and a feather is 0 to {LARGEST_FEATHER} px.")

    def scaled(self, across: float, down: float) -> Touched:
        """Return the same for a picture so many times as wide and high: strokes and box where they lay in it."""
        even = math.sqrt(across * down)
        strokes = tuple(
            evolve(
                stroke, radius=min(max(stroke.radius * even, 0.5), LARGEST_RADIUS),
                points=tuple((x * across, y * down) for x, y in stroke.points),
                away=(stroke.away[0] * across, stroke.away[1] * down),
            ) for stroke in self.strokes
        )  # fmt: skip
        box = self.box
        if box is not None:
            box = (box[0] * across, box[1] * down, box[2] * across, box[3] * down)
        feather = min(self.feather * even, LARGEST_FEATHER)
        return evolve(self, box=box, strokes=strokes, feather=feather, shift=self.shift * even)
