"""Which compositions of a project are pieces by themselves, and which one is meant where none is named."""

from __future__ import annotations

from spiralis.core.errors import UnknownName
from spiralis.core.model.kinds import told_of
from spiralis.core.model.project import Composition, Project


def whole_pieces(project: Project) -> list[Composition]:
    """Return the compositions that are no parts of others, in their order."""
    parts = {inner for piece in project.compositions for inner in piece.nested}
    return [piece for piece in project.compositions if piece.id not in parts]


def asked_for(project: Project, id_or_name: str | None) -> Composition:
    """Return the composition of that id or name or, where none is named, the one that is no part of others.

    Raises:
        UnknownName: there is none of that name, or none is named and it is not clear which is meant.
    """
    if id_or_name is not None:
        return project.composition(id_or_name)
    whole = whole_pieces(project)
    if len(whole) != 1:
        names = told_of([f"“{piece.name}”" for piece in whole], "")
        which = f"holds {len(whole)} pieces; name one of them: {names}" if whole else "holds no piece yet"
        raise UnknownName(f"“{project.name}” {which}.")
    return whole[0]
