"""Pop: grows too far, then sits."""

from spiralis.core.animation.easing import from_softness
from spiralis.core.moves.base import How, Point, entrance


def _points(how: How) -> tuple[Point, ...]:
    over = 1 + 0.16 * how.strength
    return (
        Point(0.0, how.arriving, scale=(0.0, 0.0)),
        Point(0.55, from_softness(40, 40), scale=(over, over)),
        Point(0.8, from_softness(40, 40), scale=(2 - over**0.4, 2 - over**0.4)),
        Point(1.0),
    )


entrance("pop-in", "Pop in", "Grows too far, then sits", ("pop-out", "Pop out", "Swells, then is gone"), _points,
         length=0.6)  # fmt: skip
