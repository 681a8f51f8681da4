"""A piece in another size or over a ground, as it is to be written: filled, stretched, or with bars if asked."""

from __future__ import annotations

from attrs import evolve, frozen

from spiralis.core.errors import ExportError
from spiralis.core.model import Composition, Layer, Project, Value, new_id
from spiralis.core.model.project import LARGEST_SIZE

#: How a piece takes another size: cut to fill it, stretched, or whole with bars beside it.
HOWS = ("fill", "stretch", "fit with bars")


@frozen
class Framing:
    """Another size in px; ``across`` and ``down`` say where it is cut when it fills it, -100 to 100 % of what is over.

    A ``ground`` lies behind see-through parts, and makes the bars; None leaves them clear.
    """

    width: int
    height: int
    how: str = HOWS[0]
    across: float = 0.0
    down: float = 0.0
    ground: Value | None = None


def framed(project: Project, piece: Composition, framing: Framing) -> tuple[Project, Composition, float]:
    """Return a project, the composition in it to be written, and its scale.

    Where the size has the piece's own shape and no ground is asked for, that is the piece itself, drawn larger or
    smaller. Else it is a composition of that size which holds nothing but the piece.

    Raises:
        ExportError: the size is not possible.
    """
    width, height = framing.width, framing.height
    if not (1 <= width <= LARGEST_SIZE and 1 <= height <= LARGEST_SIZE):
        raise ExportError(f"{width} × {height} px cannot be written; sides go from 1 to {LARGEST_SIZE} px.")
    scale = width / piece.width
    if framing.ground is None and round(piece.height * scale) == height:
        return project, piece, scale
    across, down = width / piece.width, height / piece.height
    if framing.how == "fill":
        across = down = max(across, down)
    elif framing.how != "stretch":
        across = down = min(across, down)
    spare = (piece.width * across - width, piece.height * down - height)
    place = (width / 2 - framing.across / 100 * spare[0] / 2, height / 2 - framing.down / 100 * spare[1] / 2)
    if framing.how != "fill":
        place = (width / 2, height / 2)
    inner = Layer(piece.name, "nested", 0, piece.length).with_values(
        composition=piece.id, position=place, scale=(100 * across, 100 * down)
    )
    outer = evolve(
        piece, id=new_id(), width=width, height=height, layers=(inner,), background=framing.ground, guides=(),
        poses=type(piece.poses)(), artwork=None, left_alone=(), variants=(), follows=None,
    )  # fmt: skip
    return evolve(project, compositions=(*project.compositions, outer)), outer, 1.0
