"""Change the look of a drawing's figures: fills, strokes, dashes; one of them or all."""

from __future__ import annotations

from collections.abc import Callable

from attrs import evolve

from spiralis.core.model.art import Bundle, Figure, Item, Paint, Ramp, Stroke
from spiralis.core.raster.vectors import art_box

Path = tuple[int, ...]


def restyled(art: Bundle, change: Callable[[Figure], Figure], only: Path | None = None) -> Bundle:
    """Return the art with figures changed: the one at the place ``only``, or all of them."""

    def visit(item: Item, path: Path) -> Item:
        if isinstance(item, Bundle):
            return evolve(item, items=tuple(visit(part, (*path, i)) for i, part in enumerate(item.items)))
        return change(item) if only is None or path == only else item

    made = visit(art, ())
    assert isinstance(made, Bundle)
    return made


def with_stroke(figure: Figure, **changes: object) -> Figure:
    """Return the figure with its stroke changed; one without gets a stroke first."""
    stroke = figure.stroke if figure.stroke is not None else Stroke((1.0, 1.0, 1.0, 1.0), 4.0, "round", "round")
    return evolve(figure, stroke=evolve(stroke, **changes))  # type: ignore[arg-type]


def ramp_over(figure: Figure, radial: bool, stops: tuple[tuple[float, float, float, float, float], ...]) -> Ramp:
    """Return a gradient that spans a figure's own box, from left to right or from its middle outwards."""
    left, top, right, bottom = art_box(evolve(figure, stroke=None, fill=(0.0, 0.0, 0.0, 1.0))) or (0.0, 0.0, 1.0, 1.0)
    cx, cy = (left + right) / 2, (top + bottom) / 2
    if radial:
        reach = max(right - left, bottom - top) / 2
        return Ramp(True, (cx, cy, max(reach, 1e-3), cx, cy, 0.0), stops)
    return Ramp(False, (left, cy, max(right, left + 1e-3), cy), stops)


def painted(figure: Figure, style: str) -> Figure:
    """Return the figure filled in another way: ``none``, ``flat``, ``linear`` or ``radial``; colours are kept."""
    if style == "none":
        return evolve(figure, fill=None)
    colours = _colours(figure.fill)
    if style == "flat":
        return evolve(figure, fill=colours[0])
    last = colours[-1] if len(colours) > 1 else (*(min(c * 0.55, 1.0) for c in colours[0][:3]), colours[0][3])
    middle = tuple((i / (len(colours) - 1), *c) for i, c in enumerate(colours)) if len(colours) > 1 else ()
    stops = middle or ((0.0, *colours[0]), (1.0, *last))
    if isinstance(figure.fill, Ramp):
        stops = figure.fill.stops
    return evolve(figure, fill=ramp_over(figure, style == "radial", stops))  # type: ignore[arg-type]


def _colours(paint: Paint | None) -> list[tuple[float, float, float, float]]:
    if paint is None:
        return [(0.933, 0.376, 0.298, 1.0)]
    if isinstance(paint, Ramp):
        return [(stop[1], stop[2], stop[3], stop[4]) for stop in paint.stops]
    return [paint]


def style_of(figure: Figure) -> str:
    """Return how a figure is filled: ``none``, ``flat``, ``linear`` or ``radial``."""
    if figure.fill is None:
        return "none"
    return ("radial" if figure.fill.radial else "linear") if isinstance(figure.fill, Ramp) else "flat"
