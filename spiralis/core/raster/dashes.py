"""Dashes that move along their lines."""

from __future__ import annotations

from collections.abc import Callable
from functools import lru_cache

from attrs import evolve

from spiralis.core.model.art import Bundle, Figure, Item, Stroke, figures_of


def is_dashed(art: Bundle) -> bool:
    """Whether some stroke of a drawing is dashed."""
    return any(_dashed(figure.stroke) is not None for figure in figures_of(art))


def _dashed(stroke: Stroke | None) -> Stroke | None:
    return stroke if stroke is not None and stroke.width > 0 and sum(stroke.dash) > 0 else None


@lru_cache(maxsize=512)
def with_dashes_moved(art: Bundle, share: float) -> Bundle:
    """Return a drawing whose dashes lie further along their lines, by a share of a dash and its gap."""

    def moved(figure: Figure) -> Figure:
        stroke = _dashed(figure.stroke)
        if stroke is None:
            return figure
        # A pattern of an odd number of lengths is taken twice (SVG 2, section 13.5.6).
        whole = sum(stroke.dash) * (1 + len(stroke.dash) % 2)
        return evolve(figure, stroke=evolve(stroke, dash_offset=stroke.dash_offset - share * whole))

    return _changed(art, moved)


def _changed(art: Bundle, change: Callable[[Figure], Figure]) -> Bundle:
    items: list[Item] = [_changed(y, change) if isinstance(y, Bundle) else change(y) for y in art.items]
    return evolve(art, items=tuple(items))
