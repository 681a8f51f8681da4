"""Bring art into few levels and plain numbers: what was drawn stays, matrices and empty wrappers go."""

from __future__ import annotations

import math

from attrs import evolve

from spiralis.core.geometry import Affine
from spiralis.core.model.art import Bundle, Figure, Item, Paint, Ramp


def simplified(item: Item, matrix: Affine, clips: tuple[tuple[Figure, ...], ...]) -> tuple[Affine, Bundle]:
    """Return (map to the document, art) of an item under ``matrix``, cut by clips in document units.

    A turned or slanted item keeps its own upright units, so that its layer says how far it is turned;
    everything else comes in document units.
    """
    own = matrix @ item.matrix
    if clips:
        return Affine(), Bundle((flattened(item, matrix),), clips=clips)
    if not _upright(own):
        flat = flattened(evolve(item, matrix=Affine()), Affine())
        return own, flat if isinstance(flat, Bundle) else Bundle((flat,))
    flat = flattened(item, matrix)
    return Affine(), flat if isinstance(flat, Bundle) else Bundle((flat,))


def flattened(item: Item, outer: Affine) -> Item:
    """Return the item with ``outer`` and its own matrices worked into its numbers, as far as that is exact."""
    total = outer @ item.matrix
    if isinstance(item, Figure):
        return _flat_figure(item, total)
    items: list[Item] = []
    for part in item.items:
        flat = flattened(part, total)
        if isinstance(flat, Bundle) and flat.plain and flat.matrix == Affine():
            items += flat.items
        else:
            items.append(flat)
    clips = tuple(tuple(_flat_figure(figure, total @ figure.matrix) for figure in clip) for clip in item.clips)
    mask = flattened(item.mask, total) if item.mask is not None else None
    if len(items) == 1 and isinstance(items[0], Bundle) and not item.clips and mask is None and item.blend == "normal":
        only = items[0]
        return evolve(only, opacity=only.opacity * item.opacity) if only.blend == "normal" else evolve(
            item, items=(only,), matrix=Affine())  # fmt: skip
    return evolve(item, items=tuple(items), clips=clips, mask=mask, matrix=Affine())  # type: ignore[arg-type]


def _flat_figure(figure: Figure, total: Affine) -> Figure:
    if figure.stroke is not None and not _even(total):
        return evolve(figure, matrix=total)
    stroke = figure.stroke
    if stroke is not None:
        by = math.sqrt(abs(total.determinant))
        stroke = evolve(
            stroke, paint=_flat_paint(stroke.paint, total), width=stroke.width * by,
            dash=tuple(value * by for value in stroke.dash), dash_offset=stroke.dash_offset * by,
        )  # fmt: skip
    return evolve(
        figure,
        contours=tuple(contour.mapped(total).rounded() for contour in figure.contours),
        fill=_flat_paint(figure.fill, total) if figure.fill is not None else None,
        stroke=stroke,
        matrix=Affine(),
    )


def _flat_paint(paint: Paint, total: Affine) -> Paint:
    return evolve(paint, matrix=total @ paint.matrix) if isinstance(paint, Ramp) else paint


def _even(matrix: Affine) -> bool:
    """Whether a map scales alike in all directions (turns and mirrors may come with it)."""
    first, second = matrix.stretch()
    across = abs(matrix.a * matrix.c + matrix.b * matrix.d)
    size = max(first, second, 1e-12)
    return abs(first - second) <= 1e-6 * size and across <= 1e-6 * size * size


def _upright(matrix: Affine) -> bool:
    """Whether a map only shifts and scales by positive numbers."""
    size = max(*matrix.stretch(), 1e-12)
    return abs(matrix.b) <= 1e-9 * size and abs(matrix.c) <= 1e-9 * size and matrix.a > 0 and matrix.d > 0
