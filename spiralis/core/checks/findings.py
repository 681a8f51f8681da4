"""What checks find, what mends it, and what is left alone: shared by the seam and by the piece itself."""

from __future__ import annotations

from collections.abc import Callable

from attrs import evolve, frozen

from spiralis.core.errors import ModelError
from spiralis.core.model import Composition, Project
from spiralis.core.registry import Registry

#: What is worth knowing and breaks nothing.
NOTE = "note"
LONGEST_REASON = 200


@frozen
class Cause:
    """One thing that is found: where, how large, in a sentence, and the names of what mends it, the usual one first.

    ``piece`` is the composition, ``layer`` the layer's id (empty: the whole piece), ``name`` the property (or empty).
    ``size`` is in ``unit``: px, %, °, levels of 255, frames. ``frames`` are the first and the last frame it is about.
    """

    finder: str
    sort: str
    piece: str
    layer: str
    name: str
    size: float
    unit: str
    sentence: str
    mends: tuple[str, ...] = ()
    frames: tuple[int, int] | None = None

    @property
    def key(self) -> tuple[str, str, str]:
        """What it is known by from one look to the next."""
        return self.finder, self.layer, self.name


@frozen
class Mend:
    """One way to mend a cause. ``apply(project, cause)`` returns the project without it; it raises SpiralisError."""

    name: str
    label: str
    help: str
    apply: Callable[[Project, Cause], Project]


_MENDS: Registry[Mend] = Registry("mend", "spiralis.core.checks.mends")


def register_mend(mend: Mend) -> None:
    """Make a mend known; raises ValueError where the name is taken."""
    _MENDS.register(mend.name, mend)


mend = _MENDS.get


def mends_of(cause: Cause) -> tuple[Mend, ...]:
    """Return what can mend a cause, the usual way first."""
    return tuple(mend(name) for name in cause.mends)


def mended(project: Project, cause: Cause, name: str) -> Project:
    """Return the project with a cause mended in one of its ways.

    Raises:
        SpiralisError: one sentence, where that way is not open: the layer is locked, its opacity is animated …
    """
    if cause.layer and project.composition(cause.piece).layer(cause.layer).locked:
        raise ModelError(f"“{project.composition(cause.piece).layer(cause.layer).name}” is locked, and stays as it is.")
    return mend(name).apply(project, cause)


def ignored(piece: Composition, cause: Cause, reason: str) -> Composition:
    """Return the composition that remembers to leave a cause alone, and why."""
    rest = tuple(held for held in piece.left_alone if held[:3] != cause.key)
    return evolve(piece, left_alone=(*rest, (*cause.key, reason.strip()[:LONGEST_REASON])))


def not_ignored(piece: Composition, cause: Cause) -> Composition:
    """Return the composition that looks at a cause again."""
    return evolve(piece, left_alone=tuple(held for held in piece.left_alone if held[:3] != cause.key))


def sorted_out(piece: Composition, found: list[Cause]) -> tuple[list[Cause], tuple[tuple[Cause, str], ...]]:
    """Return what is found, each once, without what is left alone; and that, with the reasons given."""
    reasons = {(finder, layer, name): reason for finder, layer, name, reason in piece.left_alone}
    once: dict[tuple[str, ...], Cause] = {}
    for cause in found:
        once.setdefault((cause.piece, *cause.key), cause)
    left = [cause for cause in once.values() if cause.key not in reasons]
    return left, tuple((cause, reasons[cause.key]) for cause in once.values() if cause.key in reasons)
