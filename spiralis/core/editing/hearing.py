"""Motion by what is heard: markers where something begins in a sound, a dial that goes by how loud it is."""

from __future__ import annotations

import numpy as np
from attrs import evolve

from spiralis.core.animation.easing import LINEAR
from spiralis.core.editing.edits import unused_name
from spiralis.core.errors import ModelError
from spiralis.core.model import Composition, Key, Layer, Marker, Project, Track
from spiralis.core.sound.listening import attacks, loudness_of
from spiralis.core.sound.mixing import alone_of
from spiralis.core.sound.reading import RATE

#: How far a dial may be off the loudness between two keys, of 100.
_NEAR = 5.0


def marked_by(project: Project, piece: Composition, layer: Layer) -> Composition:
    """Return the piece with a marker on each frame on which something begins in what is heard of a layer; markers that
    are there stay.

    Raises:
        ModelError: nothing begins in it.
    """
    frames = {round(second * float(piece.rate)) for second in attacks(_alone(project, piece, layer))}
    new = sorted(frame for frame in frames - {marker.frame for marker in piece.markers} if 0 <= frame < piece.length)
    if not frames:
        raise ModelError(f"Nothing begins in “{layer.name}”: it is silent, or even all along.")
    # Without names: there may be dozens.
    markers = (*piece.markers, *map(Marker, new))
    return evolve(piece, markers=tuple(sorted(markers, key=lambda marker: marker.frame)))


def with_loudness(project: Project, piece: Composition, layer: Layer) -> tuple[Composition, str]:
    """Return the piece with a dial, in front of a layer, whose keys go by how loud that is on each frame, from 0 to 100
    at its loudest, and the dial's id.

    Raises:
        ModelError: it is silent.
    """
    edges = np.arange(piece.length + 1) / float(piece.rate)
    loud = loudness_of(_alone(project, piece, layer), edges)
    if loud.max(initial=0.0) <= 0:
        raise ModelError(f"“{layer.name}” is silent.")
    heights = 100 * loud / loud.max()
    keys = tuple(Key(int(frame), round(float(heights[frame]), 1), LINEAR) for frame in _corners(heights))
    name = unused_name(f"Loudness of {layer.name}", {other.name for other in piece.layers})
    dial = Layer(name, "dial", 0, piece.length).with_track("value", Track(keys[0].value, keys))
    place = piece.place_of[layer.id]
    return evolve(piece, layers=(*piece.layers[:place], dial, *piece.layers[place:])), dial.id


def _alone(project: Project, piece: Composition, layer: Layer) -> np.ndarray:
    count = round(piece.length / float(piece.rate) * RATE)
    alone = alone_of(project, piece, layer, 0, count)
    if alone is None:
        raise ModelError(f"“{layer.name}” is silent.")
    return alone


def _corners(heights: np.ndarray) -> list[int]:
    """Return as few places as say the heights by straight lines between them, the ends included (D. Douglas and
    T. Peucker, 1973)."""
    kept, waiting = {0, len(heights) - 1}, [(0, len(heights) - 1)]
    while waiting:
        first, last = waiting.pop()
        if last - first < 2:
            continue
        line = np.interp(np.arange(first, last + 1), (first, last), heights[[first, last]])
        off = np.abs(heights[first : last + 1] - line)
        place = first + int(np.argmax(off))
        if off.max() > _NEAR:
            kept.add(place)
            waiting += [(first, place), (place, last)]
    return sorted(kept)
