"""Turn one frame into a small table of draw operations (see ``compositing/kernels/bands.py``)."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence

import numpy as np

from spiralis.core.errors import Cancelled
from spiralis.core.geometry import Affine, WholeBox, box_of
from spiralis.core.model import Composition, Layer, Project, layer_kind
from spiralis.core.render.building import Builder, built, wrapped
from spiralis.core.render.crossing import may_cross
from spiralis.core.render.crowd import FEWEST, Member, crowd, member_of
from spiralis.core.render.layered import add_item, add_items
from spiralis.core.render.nodes import Item
from spiralis.core.render.pictures_ahead import prepare_pictures
from spiralis.core.render.row_cache import RowCache, Rows
from spiralis.core.render.table import FramePlan, Table, premultiplied

__all__ = ["output_size", "plan_frame", "wrapped"]


def output_size(composition: Composition, scale: float) -> tuple[int, int]:
    """Return the size in pixels of a frame at a scale, at least 1 by 1."""
    return max(1, round(composition.width * scale)), max(1, round(composition.height * scale))


def plan_frame(
    project: Project, composition_id: str, frame: float, scale: float = 1.0,
    stops: Callable[[], bool] = lambda: False, region: WholeBox | None = None,
) -> FramePlan:  # fmt: skip
    """Return the plan of a frame, or of a region of it in output pixels, which may reach beyond the frame.

    Frames outside the composition wrap where it loops, else they clamp.

    Raises:
        UnknownName: no such composition.
        Cancelled: ``stops()`` said so, between two layers.
    """
    composition = project.composition(composition_id)
    width, height = output_size(composition, scale)
    to_grid = Affine.scaling(width / composition.width, height / composition.height)
    area = (0, 0, width, height) if region is None else region
    table = Table(box_of(area), composition.linear)
    # The rows of a layer must not depend on how much lies beneath it: they may be kept.
    table.background, table.ground = composition.background, table.frame
    builder = built(project, composition, frame, to_grid, table.frame)
    kept = _add_layers(table, builder, project, stops)
    background = None if kept else table.background
    return table.plan(area, premultiplied(background))


def _add_layers(table: Table, builder: Builder, project: Project, stops: Callable[[], bool]) -> bool:
    """Add all layers that are seen; return whether the background is among the operations from now on.

    Rows of layers that depend on nothing else are kept.
    """
    shown = builder.shown()
    whole = builder.frame()
    if may_cross(shown) or any(layer_kind(layer.kind).beneath is not None for layer in shown):
        return add_items(table, builder.items(), table.background, whole)
    rows = RowCache(builder.to_grid, table.frame, builder.piece, builder.at.frame, project.sources)
    for together, layers, members in _runs(builder, shown):
        if together:
            _add_crowd(table, builder, rows, layers, members, stops)
        else:
            _add_singly(table, builder, rows, layers, stops)
    return False


def _runs(builder: Builder, shown: Sequence[Layer]) -> Iterator[tuple[bool, list[Layer], list[Member]]]:
    """Yield layers in their order: runs that are drawn together, with their members, and what lies between those."""
    members = [member_of(builder.at, layer) for layer in shown]
    ends = [n for n, member in enumerate(members) if member is None]
    waiting: list[Layer] = []
    first = 0
    for end in [*ends, len(shown)]:
        if end - first >= FEWEST:
            yield False, waiting, []
            yield True, list(shown[first:end]), [member for member in members[first:end] if member is not None]
            waiting = []
        else:
            waiting += shown[first:end]
        waiting += shown[end : end + 1]
        first = end + 1
    yield False, waiting, []


def _add_singly(
    table: Table, builder: Builder, rows: RowCache, layers: Sequence[Layer], stops: Callable[[], bool]
) -> None:
    kept = [rows.of(layer) for layer in layers]
    prepare_pictures(builder, [layer for layer, held in zip(layers, kept, strict=True) if held is None])
    for layer, held in zip(layers, kept, strict=True):
        if held is None:
            if stops():
                raise Cancelled("The frame is not wanted any more.")
            held = _added(table, builder, layer)
            rows.keep(layer, held)
        else:
            table.add_rows(*held)


def _add_crowd(
    table: Table, builder: Builder, rows: RowCache, layers: Sequence[Layer], members: Sequence[Member],
    stops: Callable[[], bool],
) -> None:  # fmt: skip
    """Add layers that are drawn together; those that have to be drawn singly come where they belong."""
    if stops():
        raise Cancelled("The frame is not wanted any more.")
    made = crowd(builder.at, builder.to_grid, table.frame, layers, members)
    table.keeps += made.keeps
    ends = [int(np.searchsorted(made.of, place)) for place in made.singly]
    for start, end, single in zip([0, *ends], [*ends, len(made.rows)], [*made.singly, None], strict=True):
        if end > start:
            table.add_rows([made.rows[start:end]], [])
        if single is not None:
            _add_singly(table, builder, rows, [layers[single]], stops)


def _added(table: Table, builder: Builder, layer: Layer) -> Rows:
    before, kept = len(table.rows), len(table.keeps)
    item: Item | None = builder.item(layer)
    if item is not None:
        add_item(table, item)
    return table.rows[before:], table.keeps[kept:]
