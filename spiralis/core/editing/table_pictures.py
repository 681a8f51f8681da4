"""Pictures of the project that rows of tables name."""

from __future__ import annotations

from pathlib import Path

from attrs import evolve

from spiralis.core.editing.slots import open_slots
from spiralis.core.model import Composition, Kind, Project, Source
from spiralis.core.model.slots import Variant


def tables_naming(project: Project, source: Source) -> tuple[str, ...]:
    """Return the names of the compositions in whose tables a cell of a picture or footage names a source."""
    return tuple(piece.name for piece in project.compositions if _names(source) & _named(project, piece))


def rows_following(project: Project, before: Source, name: str) -> Project:
    """Return the project where the rows that named a source (as it was ``before``) name it by its other ``name``."""
    names = _names(before) - {before.id}
    others = [source for source in project.sources if source.id != before.id and names & _names(source)]
    if before.name == name or others:
        return project  # Another one has that name: nobody knows which of them a row means.

    def row(old: Variant, slots: set[str]) -> Variant:
        return Variant(tuple((n, name if n in slots and text.strip() in names else text) for n, text in old.cells))

    for piece in project.compositions:
        if piece.variants and (slots := _pictures(project, piece)):
            rows = tuple(row(old, slots) for old in piece.variants)
            if rows != piece.variants:
                project = project.with_composition(evolve(piece, variants=rows))
    return project


def _names(source: Source) -> set[str]:
    """Return what a cell may say for a source."""
    return {source.name, Path(source.name).stem, source.id}


def _named(project: Project, piece: Composition) -> set[str]:
    """Return what the rows of a composition say for pictures and footage."""
    slots = _pictures(project, piece)
    return {text.strip() for row in piece.variants for name, text in row.cells if name in slots}


def _pictures(project: Project, piece: Composition) -> set[str]:
    """Return the names of the slots that hold pictures or footage."""
    slots = open_slots(project, piece) if piece.variants else ()
    return {slot.name for slot in slots if slot.kind(project) is Kind.SOURCE}
