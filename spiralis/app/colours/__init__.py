"""Choosing colours: the field, the panel with its planes and swatches, the dropper."""

from spiralis.app.colours.field import ColourField
from spiralis.app.colours.panel import ColourPanel, choose_colour

__all__ = ["ColourField", "ColourPanel", "choose_colour"]
