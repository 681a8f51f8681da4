"""What is to be said of a piece's loop as a whole."""

from __future__ import annotations

from collections.abc import Callable

from attrs import frozen

from spiralis.core.checks.findings import NOTE, Cause, sorted_out
from spiralis.core.checks.seam.case import DOUBLED, GAP, JUMP, KINK, Case, finders
from spiralis.core.model import Composition, Project

CLEAN, ONCE = "clean", "once"
_WORDS = {
    CLEAN: "Loop is clean", ONCE: "Plays once", DOUBLED: "Doubled frame", JUMP: "Jump", GAP: "Gap",
    KINK: "Kink in speed",
}  # fmt: skip
#: The gravest first.
_GRAVE = (JUMP, GAP, DOUBLED, KINK)


@frozen
class Verdict:
    """``sort`` is clean, once, or the gravest sort of cause; ``ignored`` pairs causes with the reasons given."""

    sort: str
    causes: tuple[Cause, ...] = ()
    notes: tuple[Cause, ...] = ()
    ignored: tuple[tuple[Cause, str], ...] = ()

    @property
    def clean(self) -> bool:
        """Whether nothing breaks the loop."""
        return self.sort in (CLEAN, ONCE)

    @property
    def words(self) -> str:
        """The verdict in two or three words."""
        more = len(self.causes) - 1
        return _WORDS[self.sort] + (f" and {more} more" if more > 0 else "")


def check(
    project: Project, piece: Composition, full: bool = False, stops: Callable[[], bool] = lambda: False
) -> Verdict:
    """Look for everything that breaks the loop of a piece.

    Args:
        project: the version that the piece is in.
        piece: the composition, with its play span.
        full: whether every frame is drawn, small, to see how the seam compares with the rest: seconds for long pieces.
        stops: asked between finders and pictures; where it says True the work ends.

    Raises:
        Cancelled: ``stops`` said so.
    """
    return judged(Case(project.with_composition(piece), piece, full=full, stops=stops))


def judged(case: Case) -> Verdict:
    """Return what ``check`` does of a piece that is looked at already; raises Cancelled as it does."""
    piece = case.piece
    if not piece.loop:
        return Verdict(ONCE)
    found: list[Cause] = []
    for finder in finders():
        case.heed()
        found += finder.find(case)
    left, ignored = sorted_out(piece, found)
    causes = tuple(cause for cause in left if cause.sort != NOTE)
    sort = next((sort for sort in _GRAVE if any(cause.sort == sort for cause in causes)), CLEAN)
    return Verdict(sort, causes, tuple(cause for cause in left if cause.sort == NOTE), ignored)
