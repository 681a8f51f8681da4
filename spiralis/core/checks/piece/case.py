"""What finders of the piece's own faults look at, and the registry of them."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator
from functools import cached_property

import numpy as np
from attrs import field, frozen

from spiralis.core.checks.findings import Cause
from spiralis.core.checks.piece.reading import Reader, readers_of
from spiralis.core.checks.seam.case import Case
from spiralis.core.errors import Cancelled
from spiralis.core.model import Composition, Project
from spiralis.core.registry import Registry
from spiralis.core.render.frame import render_frame

#: What can harm somebody, and what makes a piece weaker.
GRAVE, WEAK = "grave", "weak"
#: The longer side of the pictures in which flashes are looked for, in px.
_SMALL = 160
#: Frames of the span that are looked at one by one; a longer span is looked at in even steps.
_MOST_FRAMES = 1500


@frozen(eq=False, slots=False)
class PieceCase:
    """A piece to be looked at over its play span.

    ``known`` are the words that are spelled right, in small letters; None asks for no spelling. ``stops`` ends the
    work where it says True.
    """

    project: Project
    piece: Composition
    known: frozenset[str] | None = None
    stops: Callable[[], bool] = lambda: False
    seam: Case = field(init=False)

    @seam.default
    def _seam(self) -> Case:
        return Case(self.project.with_composition(self.piece), self.piece)

    @cached_property
    def frames(self) -> tuple[int, ...]:
        """Every frame of the span, or so many of them, evenly, that no long piece takes long."""
        begin, end = self.piece.span
        step = -(-(end - begin) // _MOST_FRAMES)
        return tuple(range(begin, end, step))

    @property
    def rate(self) -> float:
        """How many of ``frames`` make a second."""
        begin, end = self.piece.span
        return float(self.piece.rate) * len(self.frames) / (end - begin)

    @cached_property
    def small(self) -> np.ndarray:
        """Those frames, small: float32 (frames, h, w, 3), sRGB-encoded, over black where nothing is."""
        scale = min(_SMALL / max(self.piece.width, self.piece.height), 1.0)
        made = []
        for frame in self.frames:
            self.heed()
            made.append(render_frame(self.seam.project, self.piece.id, frame, scale)[:, :, :3])
        return np.stack(made)

    @cached_property
    def readers(self) -> tuple[Reader, ...]:
        """All words of the piece, also those in nested compositions, with how they are seen at each of ``frames``."""
        return readers_of(self.seam.project, self.piece, self._heeding())

    def _heeding(self) -> Iterator[int]:
        for frame in self.frames:
            self.heed()
            yield frame

    def heed(self) -> None:
        """Raise Cancelled where the work is to end."""
        if self.stops():
            raise Cancelled("Looking at the piece was stopped.")


@frozen
class PieceFinder:
    """One sort of finding. ``find(case)`` yields what it finds; lower ``order`` comes first.

    ``drawn`` ones look at pictures, which takes seconds for long pieces.
    """

    name: str
    label: str
    find: Callable[[PieceCase], Iterable[Cause]]
    order: int = 500
    drawn: bool = False


_FINDERS: Registry[PieceFinder] = Registry("check", "spiralis.core.checks.piece.finders")


def register_piece_finder(finder: PieceFinder) -> None:
    """Make a finder known; raises ValueError where the name is taken."""
    _FINDERS.register(finder.name, finder)


def piece_finders() -> tuple[PieceFinder, ...]:
    """Return all finders in their order."""
    return tuple(sorted(_FINDERS.all(), key=lambda finder: finder.order))
