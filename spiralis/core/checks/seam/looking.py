"""All that is to be seen of a seam: verdict, the frames on both of its sides, the change around the loop."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from attrs import frozen

from spiralis.core.checks.seam.case import Case
from spiralis.core.checks.seam.verdict import Verdict, judged
from spiralis.core.model import Composition, Project
from spiralis.core.render.frame import render_rgba8

#: The longer side of the frames that are compared, in px.
_SIDE = 480


@frozen(eq=False)
class Look:
    """What was worked out for one version of a piece.

    ``frames`` are the last and the first one, small: uint8 (h, w, 4) premultiplied; ``changes`` is float64 (n,), as
    ``frame_changes`` returns it.
    """

    verdict: Verdict
    frames: tuple[np.ndarray, np.ndarray]
    changes: np.ndarray


def look_at(project: Project, piece: Composition, stops: Callable[[], bool] = lambda: False) -> Look:
    """Return what is to be seen of a piece's seam; every frame is drawn, small.

    Raises:
        Cancelled: ``stops()`` said so.
    """
    begin, end = piece.span
    scale = min(_SIDE / max(piece.width, piece.height), 1.0)
    last, first = (render_rgba8(project, piece.id, frame, scale) for frame in (end - 1, begin))
    # Verdict and plot look at the same frames, which are drawn once.
    case = Case(project.with_composition(piece), piece, full=True, stops=stops)
    return Look(judged(case), (last, first), case.changes)
