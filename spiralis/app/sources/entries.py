"""What the drawer lists: pure values made from a project."""

from __future__ import annotations

from fractions import Fraction
from pathlib import Path

import numpy as np
from attrs import frozen

from spiralis.app.work.renderers import RENDERERS
from spiralis.core.arithmetic import size_text
from spiralis.core.editing.uses import use_counts
from spiralis.core.media.footage import frame_levels
from spiralis.core.model import Composition, Layer, Project, Source
from spiralis.core.model.pieces import whole_pieces
from spiralis.core.model.source import SourceKind
from spiralis.core.render.frame import render_rgba8
from spiralis.core.sound.outline import peaks_of

COMPOSITIONS, LAYERED = "Compositions", "Layered files"
#: The colour of a sound's outline, premultiplied.
_LINE = (236, 232, 240, 255)
PIECES, PARTS = "Pieces", "Parts of pieces"


@frozen
class Entry:
    """One row: what it is, its name, a second line, how often it is used, whether it is missing.

    ``heading`` is what it is listed under, where that is not its group: pieces, parts of them, or a folder. A file
    says its ``sort``.
    """

    group: str
    id: str
    name: str
    detail: str
    uses: int = 0
    missing: bool = False
    linked: bool = False
    file: str | None = None
    heading: str = ""
    sort: SourceKind | None = None

    @property
    def listed_under(self) -> str:
        """The heading above it."""
        return self.heading or self.group

    @property
    def shows(self) -> bool:
        """Whether it is a file that a layer can show."""
        return self.sort is not None and bool(self.sort.layer)

    @property
    def sets_words(self) -> bool:
        """Whether it is a font."""
        return self.sort is not None and self.sort.sets_words


def entries_of(project: Project, search: str = "") -> list[Entry]:
    """Return the rows in their order; with ``search`` only those whose name or kind holds all its words."""
    counts = use_counts(project)
    whole = {piece.id for piece in whole_pieces(project)}
    rows = [_composition_entry(piece, counts.get(piece.id, 0), piece.id in whole) for piece in project.compositions]
    rows += _layered_entries(project)
    rows += [_source_entry(source, counts.get(source.id, 0)) for source in project.sources]
    words = search.lower().split()
    texts = {id(row): f"{row.name} {row.group} {row.heading} {row.detail}".lower() for row in rows}
    found = [row for row in rows if all(word in texts[id(row)] for word in words)]
    return sorted(found, key=_order)


def _order(row: Entry) -> tuple[int, str, int, str, str]:
    """Pieces come first, then folders by name, then parts; then files: what shows something, then what serves it."""
    among = {PIECES: 0, PARTS: 2}.get(row.heading, 1)
    if row.sort is None:
        return 0, row.group, among, row.listed_under.lower(), row.name.lower()
    first = (row.sort.still, row.shows, row.sets_words, True).index(True)
    return 1 + first, row.group, among, row.listed_under.lower(), row.name.lower()


def folders(project: Project) -> list[str]:
    """Return the names of the folders that compositions lie in."""
    return sorted({piece.folder for piece in project.compositions if piece.folder}, key=str.lower)


def _composition_entry(piece: Composition, uses: int, whole: bool) -> Entry:
    detail = f"{piece.width} × {piece.height} · {float(piece.seconds):.2f} s · {_many(len(piece.layers), 'layer')}"
    heading = piece.folder or (PIECES if whole else PARTS)
    return Entry(COMPOSITIONS, piece.id, piece.name, detail, uses, heading=heading)


def _layered_entries(project: Project) -> list[Entry]:
    files: dict[str, list[Composition]] = {}
    for piece in project.compositions:
        if piece.artwork is not None:
            files.setdefault(piece.artwork.file, []).append(piece)
    rows = []
    for file, pieces in files.items():
        layers = sum(layer.origin is not None for piece in pieces for layer in piece.layers)
        gone = not _exists(file)
        detail = f"{_many(layers, 'layer')} · {'not found outside' if gone else 'can be refreshed'}"
        rows.append(Entry(LAYERED, f"file:{file}", Path(file).name, detail, len(pieces), file=file))
    return rows


def _exists(file: str) -> bool:
    try:
        return Path(file).is_file()
    except (OSError, ValueError):
        return False


def _source_entry(source: Source, uses: int) -> Entry:
    size = f"{source.width} × {source.height}" if source.width else source.suffix.lstrip(".").upper()
    if source.frames and not source.width:
        size += f" · {float(source.seconds):.2f} s"
    elif source.frames:
        rate = f"{float(source.rate):.4g} fps" if source.rate else ""
        size += f" · {_many(source.frames, 'frame')} · {rate}"
    where = "missing" if source.missing else "linked" if source.linked else size_text(len(source.data or b""))
    return Entry(
        source.sort.heading, source.id, source.name, f"{size} · {where}", uses, source.missing,
        source.linked, source.file, sort=source.sort,
    )  # fmt: skip


def _many(count: int, what: str) -> str:
    return f"{count} {what}" if count == 1 else f"{count} {what}s"


def entry_picture(project: Project, entry: Entry, size: int) -> np.ndarray | None:
    """Return what an entry looks like, premultiplied uint8 (h, w, 4) that fits into a square; None for nothing."""
    piece = project.find(entry.id)
    if entry.group == LAYERED:
        piece = next((c for c in project.compositions if c.artwork and c.artwork.file == entry.file), None)
    if piece is not None:
        return RENDERERS.picture(project, piece.id, piece.length // 3, size / max(piece.width, piece.height))
    source = project.source(entry.id)
    return source_picture(project, source, size) if source is not None else None


def source_picture(project: Project, source: Source, size: int) -> np.ndarray | None:
    """Return what a source shows, premultiplied uint8 (h, w, 4) that fits into a square; None for nothing."""
    if source.missing or not source.shows:
        return None
    if not source.width:
        return outline_picture(source, size)
    if source.frames:
        frame_levels(source, source.frames // 3, 0)
    width, height = max(source.width, 1), max(source.height, 1)
    layer = Layer("it", source.sort.layer, 0, 1).with_values(source=source.id, position=(width / 2, height / 2))
    if source.frames:
        layer = layer.with_values(**{"in": float(source.frames // 3)})
    alone = Composition("alone", width, height, Fraction(25), 1, layers=(layer,))
    return render_rgba8(project.with_composition(alone), alone.id, 0, size / max(width, height))


def outline_picture(source: Source, size: int) -> np.ndarray:
    """Return how loud a sound is, from its beginning to its end, as a picture of so many pixels across and down."""
    peaks = peaks_of(source)
    parts = np.array_split(peaks, size // 4) if len(peaks) else []
    pixels = np.zeros((size, size, 4), dtype=np.uint8)
    for place, part in enumerate(parts):
        half = round(min(float(part.max(initial=0.0)), 1.0) * (size / 2 - 4)) + 1
        pixels[size // 2 - half : size // 2 + half, 4 * place : 4 * place + 2] = _LINE
    return pixels
