"""Flicker: like a tube that takes a moment to light."""

from spiralis.core.animation.easing import HOLD
from spiralis.core.moves.base import How, Point, entrance

_TIMES = (0.0, 0.16, 0.22, 0.42, 0.5, 0.62, 0.7, 1.0)


def _points(how: How) -> tuple[Point, ...]:
    dark = 1 - min(how.strength, 1.0)
    return tuple(Point(at, HOLD, opacity=dark if index % 2 == 0 and at < 1 else 1.0) for index, at in enumerate(_TIMES))


entrance("flicker-on", "Flicker on", "Lights like a tube", ("flicker-off", "Flicker off", "Fails like a tube"), _points,
         by_parts=False)  # fmt: skip
