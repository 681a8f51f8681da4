"""Between Qt's colours and the model's."""

from __future__ import annotations

from PyQt6.QtGui import QColor

from spiralis.core.colour import Colour


def as_qcolor(value: Colour) -> QColor:
    """Return a colour of the model as Qt's."""
    return QColor.fromRgbF(*(min(max(v, 0.0), 1.0) for v in value))


def as_colour(value: QColor) -> Colour:
    """Return Qt's colour as the model's, with the six decimals that survive a file."""
    return tuple(round(v, 6) for v in value.getRgbF())  # type: ignore[return-value]
