"""Kinds of still files, and what writing them shares."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

import numpy as np
from attrs import evolve, frozen

from spiralis.core.errors import ExportError
from spiralis.core.media.files import check_target, unwritten
from spiralis.core.media.pixels import visible_box
from spiralis.core.media.placing import placed
from spiralis.core.model import Composition, Layer, Project, Track, layer_kind
from spiralis.core.raster.layer_image import Inner
from spiralis.core.registry import Registry
from spiralis.core.render.frame import render_straight8
from spiralis.core.render.layers import Evaluated
from spiralis.core.render.plan import wrapped

#: From the outermost composition inwards: which layer of which composition.
Chain = tuple[tuple[str, str], ...]


@frozen
class Still:
    """One kind of still file. ``write(project, composition, frame, path)`` returns notes on what was left out."""

    name: str
    label: str
    suffix: str
    help: str
    write: Callable[[Project, Composition, float, Path], tuple[str, ...]]


_STILLS: Registry[Still] = Registry("still format", "spiralis.core.media.stills")
stills = _STILLS.all


def register_still(kind: Still) -> None:
    """Make a kind known; raises ValueError where the name is taken."""
    _STILLS.register(kind.name, kind)


def still_suffixes() -> tuple[str, ...]:
    """Return what the names of still files end in."""
    return tuple(kind.suffix for kind in stills())


def write_still(project: Project, composition_id: str, frame: float, path: Path) -> tuple[str, ...]:
    """Write a frame of a composition; the ending of the name says as what. Returns notes.

    Raises:
        ExportError: one sentence; what was at ``path`` before is still there.
        UnknownName: no such composition, or an ending that no kind has.
    """
    path = Path(path)
    kind = next((kind for kind in stills() if kind.suffix == path.suffix.lower()), None)
    if kind is None:
        raise ExportError(f"“{path.name}” ends in none of {', '.join(still_suffixes())}; give it one of these.")
    project = project.without_references()
    composition = project.composition(composition_id)
    check_target(path)
    try:
        with placed(path) as temporary:
            return kind.write(project, composition, wrapped(composition, frame), temporary)
    except OSError as error:
        raise ExportError(unwritten(path, error)) from error


def inner_frame(
    project: Project, composition: Composition, layer: Layer, frame: float
) -> tuple[Composition, float] | None:
    """Return the composition that a nested layer shows and its frame, or None."""
    at = Evaluated(project, composition, frame)
    drawing = at.drawing(layer, at.matrix(layer), (0.0, 0.0, 1.0, 1.0))
    return (drawing.composition, wrapped(drawing.composition, drawing.frame)) if isinstance(drawing, Inner) else None


def drawn_alone(project: Project, chain: Chain, frame: float) -> tuple[np.ndarray, tuple[int, int]] | None:
    """Return one layer by itself, straight uint8 (h, w, 4) trimmed to what is seen, and its corner in the frame.

    The layer's opacity and blend, and those of the nested layers around it, are left out.
    """
    for composition_id, layer_id in chain:
        composition = project.composition(composition_id)
        whole = {layer_id, *(y.id for y in composition.descendants(layer_id) if composition.layer(layer_id).gathers)}
        around = {layer_id, *composition.groups_around(layer_id)}
        layers = tuple(
            layer if layer.id in whole - {layer_id} else _shown(layer, layer.id in around)
            for layer in composition.layers
        )
        if layer_kind(composition.layer(layer_id).kind).lights:
            # The others throw the shadows that it shows.
            light = evolve(_shown(composition.layer(layer_id), True), solo=True)
            layers = tuple(light if layer.id == layer_id else layer for layer in composition.layers)
        project = project.with_composition(evolve(composition, layers=layers, background=None))
    pixels = render_straight8(project, chain[0][0], frame, dither=False)
    box = visible_box(pixels)
    if box is None:
        return None
    return np.ascontiguousarray(pixels[box[1] : box[3], box[0] : box[2]]), (box[0], box[1])


def _shown(layer: Layer, alone: bool) -> Layer:
    kind = layer_kind(layer.kind)
    if kind.sees:
        # Layers in depth are seen through it.
        return layer
    if kind.lights and not alone:
        # It goes on shading them; its own picture are the shadows, which lie elsewhere.
        return layer.with_track("opacity", Track(0.0))
    if not alone:
        return layer.with_track("visible", Track(False))
    return (
        layer.with_track("visible", Track(True))
        .with_track("opacity", Track(100.0))
        .with_track("blend", Track("normal"))
    )
