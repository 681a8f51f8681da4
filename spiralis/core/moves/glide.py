"""Glide: a short way while it comes into sight."""

from spiralis.core.moves.base import How, Point, entrance


def _points(how: How) -> tuple[Point, ...]:
    return Point(0.0, how.arriving, place=how.along(-how.reach), opacity=0.0), Point(1.0)


entrance(
    "glide-in", "Glide in", "Drifts to its place and comes into sight",
    ("glide-away", "Glide away", "Drifts off and out of sight"), _points, -90.0,
)  # fmt: skip
