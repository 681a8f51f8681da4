"""Long work on pictures: asked between its steps, with how much is done, whether it is to end."""

from __future__ import annotations

from collections.abc import Callable

from spiralis.core.errors import Cancelled

#: Takes the share that is done, 0 to 1, and says whether the work is to end.
Stops = Callable[[float], bool]


def never(done: float) -> bool:
    """Let work go on to its end."""
    return False


def go_on(stops: Stops, done: float) -> None:
    """Say how much is done; raises Cancelled where the work is to end."""
    if stops(done):
        raise Cancelled("It was stopped.")


def part_of(stops: Stops, first: float, last: float) -> Stops:
    """Return what a part of the work asks that reaches from one share of the whole to another."""
    return lambda done: stops(first + (last - first) * done)
