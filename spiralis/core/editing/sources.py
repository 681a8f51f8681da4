"""Edits of a project's sources: replace, relink, collect, link, drop what nobody uses."""

from __future__ import annotations

import re
from collections.abc import Iterable, Sequence
from pathlib import Path

from attrs import evolve

from spiralis.core.editing.exchanging import fitting, of_kind, size_of, with_content_sized
from spiralis.core.editing.table_pictures import rows_following, tables_naming
from spiralis.core.editing.uses import sources_of, use_counts
from spiralis.core.errors import FileError, SpiralisError
from spiralis.core.media.files import digest_of, read_bytes
from spiralis.core.media.sources import read_source
from spiralis.core.model import Composition, Layer, Project, Source, Value, layer_kind

#: Names are cut to this many letters.
LONGEST_NAME = 200
FITS = ("fit", "fill", "keep")


def relinked(project: Project, source_id: str, path: Path) -> tuple[Project, int]:
    """Return the project with a missing source found again, and how many others in that folder followed.

    Raises:
        FileError: the file cannot be read, or is of another sort.
    """
    old = project.source(source_id)
    if old is None:
        return project, 0
    project = project.with_changed(_found(old, path))
    followed = 0
    for other in project.sources:
        candidate = path.parent / Path(other.file or other.name).name
        if other.missing and candidate.is_file():
            try:
                project = project.with_changed(_found(other, candidate))
                followed += 1
            except SpiralisError:
                # It has the name but not the sort of what is missing: it stays missing.
                continue
    return project, followed


def _found(old: Source, path: Path) -> Source:
    new = read_source(path)
    if new.kind != old.kind:
        raise FileError(f"“{path.name}” is a {new.kind} and “{old.name}” was a {old.kind}; choose a {old.kind}.")
    if old.linked:
        return evolve(new, id=old.id, name=old.name, linked=True, place=path,
                      data=None if new.sort.streamed else new.data)  # fmt: skip
    return evolve(new, id=old.id, name=old.name)


def replaced(project: Project, source_id: str, new: Source, how: str = "fit") -> Project:
    """Return the project with a source replaced everywhere; placement and motion of its layers stay.

    Args:
        project: the version at hand.
        source_id: which source.
        new: what takes its place; it keeps the old id.
        how: ``fit`` or ``fill`` scale each layer so that it fits into or fills the old size, ``keep`` leaves scales;
            ``anew`` fits where the proportions are as they were, and else leaves scales.
    """
    old = project.source(source_id)
    if old is None:
        return project
    project = project.with_changed(evolve(new, id=source_id))
    project = rows_following(project, old, new.name)
    by = fitting(size_of(old), size_of(new), how)
    compositions = []
    for piece in project.compositions:
        for layer_id in [layer.id for layer in piece.layers if _shows(layer, source_id)]:
            layer = of_kind(piece.layer(layer_id), new.sort.layer)
            piece = with_content_sized(piece, layer, size_of(old), size_of(new), (by, by))
        compositions.append(piece)
    return evolve(project, compositions=tuple(compositions))


def _shows(layer: Layer, source_id: str) -> bool:
    return layer.has("source") and source_id in sources_of(layer)


def keys_gone(before: Iterable[Layer], after: Iterable[Layer]) -> str:
    """Return a sentence where layers became of another kind that has no place for some of their keys, else nothing."""
    now = {layer.id: layer for layer in after}
    gone = [
        f"{layer.parameter(name).label} of “{layer.name}”" for layer in before
        if layer.id in now and now[layer.id].kind != layer.kind
        for name, track in layer.properties.items() if track.moving and name not in now[layer.id].properties
    ]  # fmt: skip
    return f"What it shows now has no place for the keys of {', '.join(gone)}; undo brings them back." if gone else ""


def collected(project: Project) -> Project:
    """Return the project with every linked file read into it.

    Raises:
        FileError: one of them cannot be read; missing ones are passed over.
    """
    sources = []
    for source in project.sources:
        if source.linked and not source.missing:
            data = source.data if source.data is not None else read_bytes(source.place or Path())
            source = evolve(source, data=data, linked=False, place=None, digest=digest_of(data))
        sources.append(source)
    return evolve(project, sources=tuple(sources))


def linked(project: Project, folder: Path) -> Project:
    """Return the project with its files outside of it.

    What came from a file that is still the same is linked to that file; everything else is written to ``folder``.

    Raises:
        FileError: a file cannot be written.
    """
    sources = []
    for source in project.sources:
        if source.data is None or not source.shows:
            sources.append(source)
            continue
        place = Path(source.file) if source.file else None
        if place is None or not place.is_file() or digest_of(place) != source.digest:
            place = _written(source, folder)
        sources.append(
            evolve(
                source,
                file=str(place),
                place=place,
                linked=True,
                data=None if source.sort.streamed else source.data,
            )
        )
    return evolve(project, sources=tuple(sources))


def _written(source: Source, folder: Path) -> Path:
    stem = re.sub(r"[^\w. -]", "_", Path(source.name).stem)[:80] or "source"
    path = folder / f"{stem}-{source.digest[:8]}{source.suffix}"
    try:
        folder.mkdir(parents=True, exist_ok=True)
        path.write_bytes(source.data or b"")
    except OSError as error:
        raise FileError(f"“{path}” may not be written to; choose another folder.") from error
    return path


def unused_removed(project: Project) -> Project:
    """Return the project without files that nothing shows; fonts, palettes and lookups stay, what a row of a table
    names, and what a picture that is shown was made of."""
    counts = use_counts(project)
    kept = {s.id for s in project.sources if counts.get(s.id) or not s.shows or tables_naming(project, s)}
    # What a picture was cut out of is needed to change the cut-out; that may be one of another kind again.
    while more := {s.made.of for s in project.sources if s.id in kept and s.made is not None} - kept:
        kept |= more
    return evolve(project, sources=tuple(s for s in project.sources if s.id in kept))


def renamed(project: Project, thing_id: str, name: str) -> Project:
    """Return the project where a composition or a source of this id is called otherwise; rows of tables follow."""
    piece = project.find(thing_id)
    if piece is not None:
        return project.with_composition(evolve(piece, name=name))
    source = project.source(thing_id)
    return project if source is None else rows_following(project.with_changed(evolve(source, name=name)), source, name)


def without_composition(project: Project, composition_id: str) -> Project:
    """Return the project without a composition; raises FileError naming those that show it."""
    users = [c.name for c in project.compositions if composition_id in c.nested]
    if users:
        raise FileError(
            f"“{project.composition(composition_id).name}” is shown in “{users[0]}”; remove it there first."
        )
    return evolve(project, compositions=tuple(c for c in project.compositions if c.id != composition_id))


def picture_layer(source: Source, composition: Composition, at: tuple[float, float] | None = None) -> Layer:
    """Return a layer over the whole composition that shows a picture or footage, fitted into the frame, or lets a
    sound be heard."""
    kind = source.sort.layer
    if layer_kind(kind).unseen:
        return Layer(Path(source.name).stem or kind, kind, 0, composition.length).with_values(source=source.id)
    place = artwork_place((source.width, source.height), composition, at, moves=not source.sort.still)
    return Layer(Path(source.name).stem or kind, kind, 0, composition.length).with_values(source=source.id, **place)


def artwork_place(
    size: tuple[int, int], piece: Composition, at: tuple[float, float] | None, moves: bool = False, grows: bool = False
) -> dict[str, Value]:
    """Return the place and scale of artwork of a size in px: in its own size or fitted into four fifths of the frame,
    with its middle at a place, of the frame at least, or in the middle.

    What is made for the frame covers it wherever it is dropped: artwork of just its size, and what ``moves`` if it has
    the frame's proportions. What ``grows`` stays crisp at any size, so a small one may be as large as a large one.
    """
    across, down = piece.width / size[0], piece.height / size[1]
    covers = size == (piece.width, piece.height) or (moves and across <= 1 and abs(across / down - 1) < 0.005)
    if covers:
        share, at = max(across, down), None
    else:
        share = 0.8 * min(across, down)
        share = share if grows else min(share, 1.0)
    x, y = at or (piece.width / 2, piece.height / 2)
    place = (min(max(x, 0.0), float(piece.width)), min(max(y, 0.0), float(piece.height)))
    return {"position": place, "scale": (round(100 * share, 2),) * 2}


def flipbook_layer(
    sources: Sequence[Source], composition: Composition, at: tuple[float, float] | None = None, exposure: int = 2
) -> Layer:
    """Return a flipbook of pictures in this order, each shown for ``exposure`` frames of 12 a second."""
    size = max((source.width for source in sources), default=1), max((source.height for source in sources), default=1)
    layer = Layer("Flipbook", "flipbook", 0, composition.length)
    drawings = tuple((source.id, exposure) for source in sources)
    return layer.with_values(drawings=drawings, **artwork_place(size, composition, at))
