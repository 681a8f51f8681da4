"""How the words of a piece are seen: where, how large, how clear, frame by frame, also through nested compositions."""

from __future__ import annotations

import math
from collections.abc import Iterable, Iterator

from attrs import define, field, frozen

from spiralis.core.checks.seam.case import Case
from spiralis.core.geometry import Affine, Box, Map
from spiralis.core.model import Composition, Layer, Project, layer_kind
from spiralis.core.raster.layer_image import Inner
from spiralis.core.render.layers import Evaluated
from spiralis.core.render.plan import wrapped
from spiralis.core.render.space import seen as seen_through

#: A page of a phone is so many px wide, as CSS counts them, and a piece is shown across it.
PHONE = 390.0


@frozen
class Seen:
    """Words at one frame: how opaque (0 to 1), the box of their letters and the height of their type, in px of the
    frame."""

    frame: int
    words: str
    opacity: float
    box: Box
    size: float


@define(eq=False)
class Reader:
    """Words of one layer over time. ``way`` are the ids of the nested layers that lead to it, outermost first."""

    piece: Composition
    layer: Layer
    way: tuple[str, ...]
    seen: list[Seen] = field(factory=list)

    @property
    def told(self) -> str:
        """The longest of its words, as a sentence names them."""
        return quoted(max((seen.words for seen in self.seen), key=len, default=""))


def quoted(words: str) -> str:
    """Return words, cut, as a sentence names them."""
    line = " ".join(words.split())
    return f"“{line[:40]}{'…' if len(line) > 40 else ''}”"


def readers_of(project: Project, piece: Composition, frames: Iterable[int]) -> tuple[Reader, ...]:
    """Return all words of a piece with how they are seen at these frames; where they are not seen, nothing is told."""
    found: dict[tuple[str, ...], Reader] = {}
    shown: dict[str, set[str]] = {}
    for frame in frames:
        at = Evaluated(project, piece, frame)
        for way, inside, layer, seen in _words(at, frame, Affine(), 1.0, (), shown):
            found.setdefault((*way, layer.id), Reader(inside, layer, way)).seen.append(seen)
    return tuple(found.values())


def _words(
    at: Evaluated, frame: int, outer: Map, opacity: float, way: tuple[str, ...], shown: dict[str, set[str]]
) -> Iterator[tuple[tuple[str, ...], Composition, Layer, Seen]]:
    piece = at.composition
    if piece.id not in shown:
        kinds = {y.id: layer_kind(y.kind) for y in Case(at.scene.project, piece).layers}
        shown[piece.id] = {i for i, kind in kinds.items() if kind.reads or kind.nests or kind.placements}
    for layer in piece.layers:
        if layer.id not in shown[piece.id] or not layer.shown_at(at.frame):
            continue
        clear = opacity * _opacity(at, layer)
        if clear <= 0:
            continue
        kind, matrix = layer_kind(layer.kind), outer @ seen_through(at, layer)
        if kind.reads is not None:
            words, size, box = kind.reads(at.values(layer), at.scene)
            if words.strip():
                yield way, piece, layer, Seen(frame, words, clear, matrix.box(box), size * _enlarged(matrix, box))
            continue
        if kind.placements is not None:
            copied = _copied_words(at, layer)
            if copied is not None:
                yield way, piece, layer, Seen(frame, copied[0], clear, matrix.box(at.box(layer)), copied[1])
            continue
        drawing = at.drawing(layer, at.matrix(layer), (0.0, 0.0, float(piece.width), float(piece.height)))
        if isinstance(drawing, Inner):
            inner = Evaluated(at.scene.project, drawing.composition, wrapped(drawing.composition, drawing.frame))
            yield from _words(inner, frame, matrix, clear, (*way, layer.id), shown)


def _copied_words(at: Evaluated, layer: Layer) -> tuple[str, float] | None:
    """Return the words that copies show again and again and the height of their type; None where they show more."""
    piece = at.composition
    sources = [piece.layer(tie.target) for tie in layer.ties if tie.whole and tie.target in piece.by_id]
    members = [y for source in sources for y in (source, *piece.descendants(source.id))]
    pictured = [y for y in members if not layer_kind(y.kind).unseen and not y.gathers]
    found = []
    for one in pictured:
        reads = layer_kind(one.kind).reads
        if reads is None:
            return None
        words, size, _ = reads(at.values(one), at.scene)
        found.append((words, size * min(at.matrix(one).stretch())))
    return (" ".join(words for words, _ in found), min(size for _, size in found)) if found else None


def _enlarged(way: Map, box: Box) -> float:
    """Return how many px a px of words is shown as, in the middle of their box; 0 where that lies behind the eye."""
    if isinstance(way, Affine):
        return min(way.stretch())
    x, y = (box[0] + box[2]) / 2, (box[1] + box[3]) / 2
    try:
        middle, right, below = way.apply(x, y), way.apply(x + 1, y), way.apply(x, y + 1)
    except ValueError:
        return 0.0
    return min(math.dist(middle, right), math.dist(middle, below))


def _opacity(at: Evaluated, layer: Layer) -> float:
    """Return how opaque a layer is with the groups around it, 0 to 1."""
    made = 1.0
    for one in (layer.id, *at.composition.groups_around(layer.id)):
        values = at.values(at.composition.layer(one))
        if not values["visible"]:
            return 0.0
        made *= values["opacity"] / 100
    return made * at.values(layer)["content_opacity"] / 100
