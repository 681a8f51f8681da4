"""Outlines put together: union, difference, intersection, exclusion of shapes; words into outlines; simplifying."""

from __future__ import annotations

from collections.abc import Container, Sequence
from typing import Any

import skia
from attrs import evolve

from spiralis.core.editing.edits import unused_name
from spiralis.core.editing.reparenting import with_parent
from spiralis.core.errors import ModelError
from spiralis.core.geometry import Box
from spiralis.core.model import Composition, Layer, Project, Track
from spiralis.core.model.art import Bundle, Figure, Item, figures_in
from spiralis.core.model.kinds import is_common
from spiralis.core.model.parameter import Value
from spiralis.core.model.references import Repointing, repointed, repointed_poses
from spiralis.core.raster.kinds.shape import art_of
from spiralis.core.raster.kinds.text import coloured_signs, figures_of_words
from spiralis.core.raster.vectors import art_box, contours_of_path, skia_matrix, skia_path
from spiralis.core.render.layers import Evaluated, pivot_point

#: Ways to combine shapes, by Skia's names for them.
OPERATIONS = {
    "union": "kUnion_PathOp", "subtract": "kDifference_PathOp",
    "intersect": "kIntersect_PathOp", "exclude": "kXOR_PathOp",
}  # fmt: skip

#: What a layer has of its own that one of several shapes put together does not take over.
_NOT_TAKEN = ("crop_across", "crop_down", "depth")


def _operation(how: str) -> Any:
    return getattr(skia.PathOp, OPERATIONS[how])


def _outline(at: Evaluated, layer: Layer) -> Any:
    """Return everything a shape layer fills, as one Skia path in the composition's pixels."""
    whole = skia.Path()
    matrix = at.matrix(layer)
    for _, figure, own in figures_in(art_of(at.values(layer))):
        path = skia.Path(skia_path(figure))
        path.transform(skia_matrix(matrix @ own))
        whole = skia.Op(whole, path, _operation("union")) or whole
    return whole


def combined(project: Project, piece: Composition, ids: Sequence[str], how: str, frame: int) -> tuple[Composition, str]:
    """Return the composition with shape layers put together into one, and its id.

    The backmost shape is what the others are united with, taken away from, cut to or excluded from; the result has its
    look, and stands where it stood in the order.

    Raises:
        ModelError: fewer than two shapes are chosen, or nothing is left of them.
    """
    at = Evaluated(project, piece, frame)
    layers = [layer for layer in reversed(piece.layers) if layer.id in set(ids) and layer.has("form")]
    if len(layers) < 2:
        raise ModelError("Choose two or more shapes to put together.")
    path = _outline(at, layers[0])
    for layer in layers[1:]:
        path = skia.Op(path, _outline(at, layer), _operation(how)) or skia.Path()
    contours = contours_of_path(path)
    if not contours:
        raise ModelError("Nothing is left of these shapes when they are put together like that.")
    base = next((figure for _, figure, _ in figures_in(art_of(at.values(layers[0])))), Figure(()))
    fill = base.fill if base.fill is not None else (1.0, 1.0, 1.0, 1.0)
    art = Bundle((Figure(contours, fill, "evenodd", base.stroke),))
    taken = {layer.name for layer in piece.layers}
    made = _standing(Layer(unused_name(how.capitalize(), taken), "shape", layers[0].first, layers[0].last), art)
    made = made.with_values(**{name: at.values(layers[0])[name] for name in ("opacity", "blend", "motion_blur")})
    return _replaced(project, piece, made, layers[0].id, {layer.id for layer in layers}, frame)


def gathered(project: Project, piece: Composition, ids: Sequence[str], frame: int) -> tuple[Composition, str]:
    """Return the composition with shape layers gathered in one layer, each with its own look, and that layer's id.

    Raises:
        ModelError: fewer than two shapes are chosen.
    """
    at = Evaluated(project, piece, frame)
    layers = [layer for layer in reversed(piece.layers) if layer.id in set(ids) and layer.has("form")]
    if len(layers) < 2:
        raise ModelError("Choose two or more shapes to put into one layer.")
    items = tuple(
        evolve(art, matrix=at.matrix(layer) @ art.matrix, opacity=art.opacity * at.values(layer)["opacity"] / 100)
        for layer in layers
        for art in (art_of(at.values(layer)),)
    )
    name = unused_name("Shapes", {layer.name for layer in piece.layers})
    made = _standing(Layer(name, "shape", min(y.first for y in layers), max(y.last for y in layers)), Bundle(items))
    return _replaced(project, piece, made, layers[-1].id, {layer.id for layer in layers}, frame)


def _replaced(
    project: Project, piece: Composition, made: Layer, at_place: str, gone: set[str], frame: int
) -> tuple[Composition, str]:
    """Return the composition with one layer instead of several; what was tied to those is tied to it."""
    known = {made.id, *piece.by_id} - gone
    to = Repointing(layers=dict.fromkeys(gone, made.id), known=known)
    layers = tuple(made if layer.id == at_place else layer for layer in piece.layers)
    grown = evolve(piece, layers=(*piece.layers, made))
    at = Evaluated(project, grown, float(frame))
    hung = {y.id: with_parent(at, y, made.id) for y in piece.layers if y.parent in gone and y.id not in gone}
    kept = tuple(repointed(hung.get(y.id, y), to) for y in layers if y.id not in gone or y is made)
    return evolve(piece, layers=kept, poses=repointed_poses(piece.poses, Repointing(known=known))), made.id


def would_lose(piece: Composition, ids: Sequence[str], names: Container[str] | None = None) -> list[str]:
    """Return, by name, what a layer's new outlines could not keep: keys and links of these properties.

    Without ``names`` the layers go into another one, which has none of their keys, effects, mattes, crops and depths.
    Each entry reads ``layer: property, property``.
    """
    lost = []
    for layer in piece.layers:
        if layer.id not in set(ids):
            continue
        moving = [n for n in layer.shown_tracks() if names is None or n in names]
        labels = [layer.parameter(n).label for n in moving]
        if names is None:
            labels += [layer.parameter(n).label for n in _NOT_TAKEN if n in layer.properties and n not in moving]
            labels += [word for word, there in (("effects", layer.blocks), ("mattes", layer.mattes)) if there]
        if labels:
            lost.append(f"{layer.name}: {', '.join(labels)}")
    return lost


def _standing(layer: Layer, art: Bundle) -> Layer:
    """Return a layer that shows art whose units are the composition's pixels, in place."""
    left, top, right, bottom = art_box(art) or (0.0, 0.0, 1.0, 1.0)
    return layer.with_values(art=art, position=((left + right) / 2, (top + bottom) / 2))


def as_outlines(at: Evaluated, layer: Layer) -> Layer:
    """Return a text layer as a shape of its letters, where it is seen; place and look keep their keys."""
    if not layer.has("text"):
        return layer
    values = at.values(layer)
    signs = coloured_signs(values, at.scene)
    if signs:
        raise ModelError(f"{signs} in “{layer.name}” has colours of its own and no outlines; take it out first.")
    art = figures_of_words(values, at.scene)
    new = art_box(art)
    if new is None:
        return layer
    kept = {name: track for name, track in layer.properties.items() if is_common(name)}
    shape = evolve(layer, kind="shape", properties={**kept, "art": Track(art)})
    return with_pivot_of(at, layer, shape, new)


def with_pivot_of(at: Evaluated, layer: Layer, shape: Layer, box: Box) -> Layer:
    """Return a shape in place of a layer with its pivot on the same point and cropped at the same lines: both are parts
    of the box, and what the shape draws fills another ``box``."""
    old, x, y = at.box(layer), *pivot_point(at.values(layer), at.box(layer))
    across, down = max(box[2] - box[0], 1e-6), max(box[3] - box[1], 1e-6)
    for axis, name in enumerate(("crop_across", "crop_down")):
        if name in shape.properties:
            shape = shape.with_track(name, _recut(shape.track(name), old[axis::2], box[axis::2]))
    return shape.with_values(pivot=(100 * (x - box[0]) / across, 100 * (y - box[1]) / down))


def _recut(crop: Track, old: tuple[float, ...], new: tuple[float, ...]) -> Track:
    """Return a crop from both ends, in %, with the ends at other places and the cuts where they were."""
    whole, size = old[1] - old[0], max(new[1] - new[0], 1e-6)

    def moved(cut: Value) -> Value:
        first, last = old[0] + whole * cut[0] / 100 - new[0], new[1] - (old[1] - whole * cut[1] / 100)
        shares = (100 * first / size if cut[0] > 0 else 0.0, 100 * last / size if cut[1] > 0 else 0.0)
        return tuple(min(max(share, 0.0), 100.0) for share in shares)

    return crop.mapped(moved)


def _uncrossed(figure: Figure) -> Figure:
    closed = tuple(contour for contour in figure.contours if contour.closed)
    lines = tuple(contour for contour in figure.contours if not contour.closed)
    if not closed or (lines and figure.fill is not None):
        return figure
    path = skia.Simplify(skia.Path(skia_path(evolve(figure, contours=closed))))
    return evolve(figure, contours=(*contours_of_path(path), *lines), rule="evenodd") if path is not None else figure


def simplified(layer: Layer, at: Evaluated) -> Layer:
    """Return a shape layer whose closed outlines do not cross themselves; open lines stay as they are.

    Skia's simplification keeps what is filled, which what is open and filled would no longer be beside it.
    """
    if not layer.has("form") or at.values(layer)["form"] != "drawing":
        return layer

    def plain(bundle: Bundle) -> Bundle:
        items: list[Item] = []
        for item in bundle.items:
            if isinstance(item, Bundle):
                items.append(plain(item))
                continue
            items.append(_uncrossed(item))
        return evolve(bundle, items=tuple(items))

    return layer.with_track("art", layer.track("art").mapped(plain))
