"""Dashes that move along their lines."""

from __future__ import annotations

from functools import lru_cache

from attrs import evolve

from spiralis.core.model.art import Bundle, Figure, figures_of, with_figures


def is_dashed(art: Bundle) -> bool:
    """Whether some stroke of a drawing is dashed."""
    return any(_is_dashed(figure) for figure in figures_of(art))


def _is_dashed(figure: Figure) -> bool:
    return figure.stroke is not None and figure.stroke.width > 0 and figure.stroke.dash_period > 0


@lru_cache(maxsize=512)
def with_dashes_moved(art: Bundle, share: float) -> Bundle:
    """Return a drawing whose dashes lie further along their lines, by a share of a dash and its gap."""

    def moved(figure: Figure) -> Figure:
        stroke = figure.stroke
        if stroke is None or not _is_dashed(figure):
            return figure
        return evolve(figure, stroke=evolve(stroke, dash_offset=stroke.dash_offset - share * stroke.dash_period))

    return with_figures(art, moved)
