"""Details: the values of the chosen layers, or of the composition where none is chosen."""

from spiralis.app.details.panel import DetailsPanel

__all__ = ["DetailsPanel"]
