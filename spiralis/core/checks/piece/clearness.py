"""How clearly words stand out: contrast by WCAG 2.2 (1.4.3) between their letters and what lies around them."""

from __future__ import annotations

import cv2
import numpy as np
from attrs import evolve, frozen

from spiralis.core.checks.piece.reading import PHONE, Reader, Seen
from spiralis.core.colour import contrast_of, srgb_to_linear
from spiralis.core.model import Composition, Layer, Project, Track
from spiralis.core.model.blocks import FINISH
from spiralis.core.render.frame import render_frame

_LUMINANCE = np.array([0.2126, 0.7152, 0.0722])
#: The longest side of what is drawn to measure in, in px, and how high the type is drawn at least where that can be.
_SIDE, _TYPE = 720, 28.0
#: What is left out where letters are to be told from what lies around them.
_LOOKS = ("opacity", "content_opacity", "blend", "visible", "motion_blur", "plate", "line")
_SHARE = 0.3
#: WCAG: large type needs less. 18 points, as CSS counts them.
LARGE_TYPE, ENOUGH, ENOUGH_LARGE = 24.0, 4.5, 3.0


@frozen
class Clearness:
    """A contrast (1 to 21), what is enough for words of this size, luminance of the letters and of what is around."""

    ratio: float
    enough: float
    letters: float
    around: float


def enough_for(piece: Composition, seen: Seen) -> float:
    """Return the contrast that words of this size need when the piece is seen on a phone."""
    return ENOUGH_LARGE if seen.size * PHONE / piece.width >= LARGE_TYPE else ENOUGH


def clearness(project: Project, piece: Composition, reader: Reader, seen: Seen) -> Clearness | None:
    """Measure words at one frame, or return None where they are hidden by others or too small to measure.

    Letters count where they cover pixels wholly, their surroundings in a ring around them; so much of the ring may be
    like the letters: words over a busy picture have to be read there too.
    """
    scale = min(_SIDE / max(piece.width, piece.height), max(_TYPE / max(seen.size, 1e-3), 0.1), 1.0)
    whole = render_frame(project, piece.id, seen.frame, scale)
    cover = render_frame(_alone(project, piece, reader), piece.id, seen.frame, scale)[:, :, 3]
    inside = cover > 0.95
    if inside.sum() < 12:
        return None
    ink = cover > 0.02
    around = cv2.getStructuringElement(cv2.MORPH_CROSS, (3, 3))
    spread = [cv2.dilate(ink.astype(np.uint8), around, iterations=times) > 0 for times in (1, 3)]
    ring = spread[1] & ~spread[0]
    light = srgb_to_linear(np.clip(whole[:, :, :3], 0, 1)) @ _LUMINANCE
    if not ring.any() or _hidden(project, piece, reader, seen, scale, whole, inside):
        return None
    core = cv2.erode(inside.astype(np.uint8), around) > 0
    letters = float(np.median(light[core if core.sum() >= 12 else inside]))
    nearest = sorted(light[ring].tolist(), key=lambda value: contrast_of(letters, value))
    near = nearest[int(_SHARE * len(nearest))]
    return Clearness(contrast_of(letters, near), enough_for(piece, seen), letters, near)


def _hidden(
    project: Project, piece: Composition, reader: Reader, seen: Seen, scale: float, whole: np.ndarray,
    inside: np.ndarray,
) -> bool:  # fmt: skip
    """Whether something lies over the words: without them the frame looks the same there."""
    bare = render_frame(_without(project, piece, reader), piece.id, seen.frame, scale)
    changed = np.abs(bare - whole).max(axis=2)[inside] > 1 / 255
    return float(changed.mean()) < 0.3


def _alone(project: Project, piece: Composition, reader: Reader) -> Project:
    """Return the project where nothing but the words shows: no finishes, plate or ground; effects may bend them."""
    way = [*reader.way, reader.layer.id]
    at = piece
    for layer_id in way:
        layer = at.layer(layer_id)
        for block in layer.blocks_of(FINISH):
            layer = layer.without_block(block.id)
        plain = {n: t for n, t in layer.properties.items() if n not in _LOOKS}
        bare = evolve(layer, solo=True, properties=plain)
        layers = tuple(bare if y.id == layer_id else evolve(y, solo=False) for y in at.layers)
        above = set(at.groups_around(layer_id))
        layers = tuple(_seen_through(y) if y.id in above else y for y in layers)
        project = project.with_composition(evolve(at, layers=layers, background=None))
        inner = layer.track("composition").value if layer.has("composition") else ""
        at = project.find(inner) or at
    return project


def _seen_through(layer: Layer) -> Layer:
    return layer.with_track("opacity", Track(100.0)).with_track("visible", Track(True))


def _without(project: Project, piece: Composition, reader: Reader) -> Project:
    """Return the project where the words are hidden."""
    hidden = reader.layer.with_track("visible", Track(False))
    return project.with_composition(project.composition(reader.piece.id).with_layer(hidden))
