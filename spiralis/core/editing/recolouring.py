"""The flat colours of vector art, and changing one of them everywhere."""

from __future__ import annotations

from attrs import evolve

from spiralis.core.colour import Colour
from spiralis.core.model.art import Bundle, Figure, Paint, Ramp, figures_of, with_figures


def colours_of(art: Bundle) -> list[Colour]:
    """Return the flat colours of fills and strokes, the most used first."""
    counts: dict[Colour, int] = {}
    for figure in figures_of(art):
        for paint in (figure.fill, figure.stroke.paint if figure.stroke is not None else None):
            if paint is not None and not isinstance(paint, Ramp):
                counts[paint] = counts.get(paint, 0) + 1
    return sorted(counts, key=lambda colour: -counts[colour])


def recoloured(art: Bundle, old: Colour, new: Colour) -> Bundle:
    """Return the art with one flat colour replaced by another, in every fill and stroke."""

    def paint(value: Paint) -> Paint:
        return new if value == old else value

    def change(item: Figure) -> Figure:
        stroke = item.stroke
        if stroke is not None:
            stroke = evolve(stroke, paint=paint(stroke.paint))
        return evolve(item, fill=paint(item.fill) if item.fill is not None else None, stroke=stroke)

    return with_figures(art, change)
