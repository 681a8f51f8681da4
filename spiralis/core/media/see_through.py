"""Whether anything can be seen through the frames of a piece."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from spiralis.core.errors import Cancelled
from spiralis.core.model import Composition, Project
from spiralis.core.render.frame import render_frame

#: So many moments are looked at, evenly spread, drawn no larger than this, in px.
_MOMENTS, _SMALL = 24, 160
#: What covers so much leaves nothing to be seen.
_COVERS = 0.996


def shows_through(
    project: Project, piece: Composition, stops: Callable[[], bool] = lambda: False,
    times: Sequence[float] | None = None, scale: float = 1.0,
) -> bool:  # fmt: skip
    """Return whether any frame has see-through parts, at up to 24 of the ``times`` (those of the play span).

    Raises:
        Cancelled: ``stops()`` said so.
    """
    times = range(*piece.span) if times is None else times
    small = min(scale, _SMALL / max(piece.width, piece.height))
    for moment in times[:: max(len(times) // _MOMENTS, 1)]:
        if stops():
            raise Cancelled("Looking at the frames was stopped.")
        if float(render_frame(project, piece.id, moment, small)[..., 3].min()) < _COVERS:
            return True
    return False
