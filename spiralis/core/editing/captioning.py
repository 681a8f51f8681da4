"""Captions as a layer of words that change when others are to be read."""

from __future__ import annotations

from collections.abc import Sequence

from attrs import evolve

from spiralis.core.animation.easing import LINEAR
from spiralis.core.editing.wording import plain_words
from spiralis.core.media.captions import Caption
from spiralis.core.model import Composition, Key, Layer, Project, Track, layer_kind
from spiralis.core.raster.bars import PLATES
from spiralis.core.raster.typesetting import FLOWS
from spiralis.core.render.layers import Evaluated

#: Beside the shorter side of the frame: how high the type is, and how far its box stays from the sides and the bottom.
_SIZE, _MARGIN = 0.055, 0.08
_LINES = 3


def captions_layer(captions: Sequence[Caption], piece: Composition, name: str) -> Layer:
    """Return a text layer near the bottom of the frame whose words are keys, each where a caption begins or ends.

    Captions that are to be read at the same time stand below one another. What begins after the piece's end has its
    keys all the same.
    """
    short = min(piece.width, piece.height)
    size, margin = float(round(_SIZE * short)), _MARGIN * short
    width, height = round(piece.width - 2 * margin), round(1.25 * _LINES * size)
    values = {
        "size": size, "weight": 700.0, "leading": 125.0,
        "flow": FLOWS[1], "frame": (float(width), float(height)), "stands": "bottom",
        "position": (piece.width / 2, piece.height - margin - height / 2),
        "plate": PLATES[2], "plate_colour": (0.06, 0.05, 0.09, 0.78),
        "plate_room": (round(0.4 * size), round(0.15 * size)), "plate_corners": float(round(0.2 * size)),
    }  # fmt: skip
    keys = tuple(Key(frame, words, LINEAR) for frame, words in _said(captions, float(piece.rate)))
    layer = Layer(name, "text", 0, piece.length).with_values(**values)
    return layer.with_track("text", Track(keys[0].value, keys))


def captions_from(project: Project, piece: Composition, layer: Layer) -> tuple[Caption, ...]:
    """Return what is to be read in a text layer while its piece plays, in seconds from the first frame that plays."""
    first, last = piece.span
    found: list[Caption] = []
    for frame in range(first, last):
        words = _read_at(Evaluated(project, piece, frame), layer)
        begin, end = ((moment - first) / float(piece.rate) for moment in (frame, frame + 1))
        if words and found and found[-1].words == words and found[-1].end == begin:
            found[-1] = evolve(found[-1], end=end)
        elif words:
            found.append(Caption(begin, end, words))
    return tuple(found)


def _read_at(at: Evaluated, layer: Layer) -> str:
    """Return the words of a layer, or nothing where it, or a group around it, is hidden."""
    around = (layer, *map(at.composition.layer, at.composition.groups_around(layer.id)))
    if not all(each.shown_at(at.frame) and at.values(each)["visible"] for each in around):
        return ""
    reads = layer_kind(layer.kind).reads
    return reads(at.values(layer), at.scene)[0].strip() if reads is not None else ""


def late_ones(captions: Sequence[Caption], piece: Composition) -> int:
    """Return how many captions begin after a piece has ended."""
    return sum(round(caption.begin * float(piece.rate)) >= piece.length for caption in captions)


def _said(captions: Sequence[Caption], rate: float) -> list[tuple[int, str]]:
    """Return (frame, words) of each change, from frame 0 on; nothing is said in between."""
    spans = [(round(c.begin * rate), max(round(c.end * rate), round(c.begin * rate) + 1), c.words) for c in captions]
    found: list[tuple[int, str]] = []
    for frame in sorted({0, *(first for first, _, _ in spans), *(last for _, last, _ in spans)}):
        words = plain_words("\n".join(words for first, last, words in spans if first <= frame < last))
        if not found or found[-1][1] != words:
            found.append((frame, words))
    return found
