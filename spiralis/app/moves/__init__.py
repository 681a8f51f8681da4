"""Ready-made moves: the chooser that shows them moving, and the section of Details that lists a layer's own."""

from spiralis.app.moves.chooser import MovesChooser

__all__ = ["MovesChooser"]
