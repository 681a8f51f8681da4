"""The film behind every lens: 36 mm wide, with 50 mm as the usual focal length."""

from __future__ import annotations

#: The width of the film, and the focal length that is meant where nothing says another one, in mm.
FILM, LENS = 36.0, 50.0


def reach(width: float, lens: float = LENS) -> float:
    """Return how far off things are shown 1:1 in a frame of that width, both in px, with a focal length in mm."""
    return width * lens / FILM
