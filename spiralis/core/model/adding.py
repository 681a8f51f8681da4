"""How a layer kind offers itself where layers are added, and what of it can be grabbed on the canvas."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import Any

from attrs import frozen

from spiralis.core.colour import Colour

Point = tuple[float, float]


def _nothing(width: int, height: int) -> Mapping[str, Any]:
    return {}


@frozen
class AddEntry:
    """One entry of the menu that adds layers.

    ``values(width, height)`` gives what departs from the defaults in a frame of that size; entries are ordered by
    ``order``, a line between each hundred; ``behind`` puts the layer behind all but other grounds. Entries of one
    ``menu`` lie in a menu of their own. ``keys`` gives keys to a property: parts of the layer's time, and the value
    there, softly or ``even``ly. What is chosen becomes the value of the property ``of``.
    """

    label: str
    order: int = 500
    behind: bool = False
    values: Callable[[int, int], Mapping[str, Any]] = _nothing
    menu: str = ""
    keys: Mapping[str, tuple[tuple[float, Any], ...]] = {}
    of: str = ""
    even: bool = False


@frozen
class Grip:
    """Something of a layer's content to grab: what it is, its number, its place in the layer's units, its colour."""

    what: str
    index: int
    place: Point
    colour: Colour | None = None


@frozen
class Grips:
    """The grips of a kind of layer.

    ``of(values, width, height)`` lists them as a layer stands, in a frame of that size;
    ``moved(values, width, height, grip, here, even)`` gives the values that put a grip to a point, at even angles where
    asked. ``name`` is what a drag of one is called among the steps to undo.
    """

    of: Callable[[Mapping[str, Any], float, float], list[Grip]]
    moved: Callable[[Mapping[str, Any], float, float, Grip, Point, bool], Mapping[str, Any]]
    name: str = "Gradient"
