"""Is the piece itself fit to be shown? Flashes, words that are read, colours, edges.

``finders/`` holds one file a sort of finding, which registers itself; ``checks/mends`` what mends them.
"""

from spiralis.core.checks.piece.case import GRAVE, WEAK, PieceCase, PieceFinder, piece_finders
from spiralis.core.checks.piece.verdict import Findings, check_piece

__all__ = ["GRAVE", "WEAK", "Findings", "PieceCase", "PieceFinder", "check_piece", "piece_finders"]
