"""Cut a subject out of a picture layer, and fill the picture behind it: new sources, the old one untouched."""

from __future__ import annotations

from pathlib import Path

import cv2
import numpy as np
from attrs import evolve

from spiralis.core.editing.edits import unused_name
from spiralis.core.errors import ModelError
from spiralis.core.media.filling import filled
from spiralis.core.media.matting import cut_out
from spiralis.core.media.pictures import decode_sound, picture_source
from spiralis.core.media.png_file import png_bytes
from spiralis.core.media.steps import Stops, never, part_of
from spiralis.core.model import Composition, Layer, Project, Source, new_id
from spiralis.core.model.touching import AREA, CUT_OUT, FILL, Stroke, Touched


def touchable(project: Project, layer: Layer) -> Source:
    """Return the picture of a layer that can be cut out or filled.

    Raises:
        ModelError: it shows no picture, or one that is missing.
    """
    source = project.source(layer.track("source").value) if layer.has("source") else None
    if source is None or not source.sort.still:
        raise ModelError(f"“{layer.name}” shows no picture; choose a picture layer.")
    if source.missing:
        raise ModelError(f"The file of “{layer.name}”, {source.name}, is missing; find it first in Sources.")
    return source


def pixels_of(source: Source) -> np.ndarray:
    """Return a source's picture, straight uint8 (h, w, 4)."""
    return decode_sound(source.data or b"", source.name)


def _made(source: Source, pixels: np.ndarray, touched: Touched, what: str) -> Source:
    name = f"{Path(source.name).stem} {what}.png"
    return evolve(picture_source(png_bytes(pixels), name), made=touched, id=new_id())


def cut_source(source: Source, touched: Touched, stops: Stops = never) -> Source:
    """Return a new picture: the subject of a source. Raises as ``cut_out``, and ModelError where nothing is left."""
    pixels = cut_out(pixels_of(source), touched, part_of(stops, 0, 0.9))
    if not pixels[..., 3].any():
        raise ModelError("Nothing of the picture is the subject; draw the box around it, or strokes on it.")
    return _made(source, pixels, touched, "cut out")


def filled_source(source: Source, touched: Touched, stops: Stops = never) -> Source:
    """Return a new picture: a source with its painted area filled. Raises as ``filled_behind``."""
    return _made(source, filled(pixels_of(source), touched, part_of(stops, 0, 0.7)), touched, "filled")


def made_of(project: Project, source_id: str) -> tuple[Source, ...]:
    """Return the pictures that were cut out of a source or are that source filled."""
    return tuple(source for source in project.sources if source.made is not None and source.made.of == source_id)


def remade(made: Source, of: Source, before: tuple[int, int], stops: Stops = never) -> Source:
    """Return a picture made anew, as it was made, of a source that is another one since; ``before`` is the width and
    height that this had. Raises as :func:`cut_source` and :func:`filled_source` do."""
    assert made.made is not None
    touched = made.made.scaled(of.width / max(before[0], 1), of.height / max(before[1], 1))
    make = cut_source if touched.what == CUT_OUT else filled_source
    return evolve(make(of, touched, stops), id=made.id, name=made.name)


def with_cut_out(project: Project, piece: Composition, layer_id: str, source: Source) -> tuple[Project, str]:
    """Return the project with a subject as a layer of its own over the picture it was cut from, and its id.

    Where the layer shows a cut-out already, that one is replaced.
    """
    layer = piece.layer(layer_id)
    old = project.source(layer.track("source").value)
    if old is not None and old.made is not None and old.made.what == CUT_OUT:
        return _shown(project, piece, layer, source), layer_id
    name = unused_name(f"{layer.name} cut out", {y.name for y in piece.layers})
    subject = evolve(layer, id=new_id(), name=name, origin=None, moves=(), slots=()).with_values(source=source.id)
    place = piece.place_of[layer_id]
    layers = (*piece.layers[:place], subject, *piece.layers[place:])
    project = evolve(project, sources=(*project.sources, source))
    return project.with_composition(evolve(piece, layers=layers)), subject.id


def with_filled(project: Project, piece: Composition, layer_id: str, source: Source) -> Project:
    """Return the project where a layer shows its picture with the hole filled; the old picture stays among Sources."""
    return _shown(project, piece, piece.layer(layer_id), source)


def _shown(project: Project, piece: Composition, layer: Layer, source: Source) -> Project:
    project = evolve(project, sources=(*project.sources, source))
    return project.with_composition(piece.with_layer(layer.with_values(source=source.id)))


def area_behind(project: Project, piece: Composition, layer_id: str) -> np.ndarray | None:
    """Return bool (h, w): where a subject was cut out of the picture that a layer shows, a little wider; None for none.

    The newest cut-out of that picture in the composition counts.
    """
    own = project.source(piece.layer(layer_id).track("source").value)
    if own is None:
        return None
    first = own.made.of if own.made is not None and own.made.what == FILL else own.id
    for layer in piece.layers:
        source = project.source(layer.track("source").value) if layer.has("source") else None
        if source is not None and source.made is not None and source.made.what == CUT_OUT and source.made.of == first:
            alpha = pixels_of(source)[..., 3]
            reach = max(round(max(alpha.shape) / 160), 3)
            kernel = cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (2 * reach + 1, 2 * reach + 1))
            return np.asarray(cv2.dilate(alpha, kernel) > 8)
    return None


def area_strokes(area: np.ndarray) -> tuple[Stroke, ...]:
    """Return strokes that paint an area, bool (h, w): a few rows of it at a time."""
    height, width = area.shape
    radius = max(min(height, width) / 220, 1.5)
    strokes = []
    for y in np.arange(radius / 2, height, 1.4 * radius):
        row = area[min(int(y), height - 1)]
        edges = np.flatnonzero(np.diff(np.concatenate([[0], row.astype(np.int8), [0]])))
        for begin, end in zip(edges[::2], edges[1::2], strict=True):
            points = ((float(begin), float(y)), (float(end), float(y)))
            strokes.append(Stroke(AREA, float(radius), points))
    return tuple(strokes)
