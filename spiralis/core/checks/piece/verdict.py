"""What is to be said of a piece as a whole."""

from __future__ import annotations

from collections.abc import Callable

from attrs import frozen

from spiralis.core.checks.findings import NOTE, Cause, sorted_out
from spiralis.core.checks.piece.case import GRAVE, PieceCase, piece_finders
from spiralis.core.model import Composition, Project


@frozen
class Findings:
    """``causes`` count, ``notes`` are worth knowing, ``ignored`` pairs findings with the reasons they are left for.

    ``whole`` tells whether pictures were looked at too.
    """

    causes: tuple[Cause, ...] = ()
    notes: tuple[Cause, ...] = ()
    ignored: tuple[tuple[Cause, str], ...] = ()
    whole: bool = True

    @property
    def clean(self) -> bool:
        """Whether nothing counts."""
        return not self.causes

    @property
    def grave(self) -> bool:
        """Whether something can harm somebody."""
        return any(cause.sort == GRAVE for cause in self.causes)

    @property
    def words(self) -> str:
        """The verdict in two or three words."""
        if self.clean:
            return "Nothing found"
        return "1 finding" if len(self.causes) == 1 else f"{len(self.causes)} findings"


def check_piece(
    project: Project, piece: Composition, drawn: bool = True, known: frozenset[str] | None = None,
    stops: Callable[[], bool] = lambda: False,
) -> Findings:  # fmt: skip
    """Look a piece over.

    Args:
        project: the version that the piece is in.
        piece: the composition, with its play span.
        drawn: whether frames are drawn to look at, small: seconds for long pieces.
        known: words that are spelled right, in small letters; None asks for no spelling.
        stops: asked between frames and finders; where it says True the work ends.

    Raises:
        Cancelled: ``stops`` said so.
    """
    case = PieceCase(project, piece, known, stops)
    found: list[Cause] = []
    for finder in piece_finders():
        case.heed()
        if drawn or not finder.drawn:
            found += finder.find(case)
    left, ignored = sorted_out(piece, found)
    causes = sorted((cause for cause in left if cause.sort != NOTE), key=lambda cause: cause.sort != GRAVE)
    return Findings(tuple(causes), tuple(cause for cause in left if cause.sort == NOTE), ignored, drawn)
