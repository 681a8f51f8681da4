"""Words set in another manner: their letters stay where they are seen, and as large as the manner lets them."""

from __future__ import annotations

from attrs import evolve

from spiralis.core.editing.edits import shifted
from spiralis.core.editing.placed_by import Pair, with_place
from spiralis.core.editing.posing import poses_mapped
from spiralis.core.geometry import Box, point_in
from spiralis.core.model import Composition, Layer
from spiralis.core.raster.fitting import ink_of
from spiralis.core.raster.kinds.text import setting_of
from spiralis.core.raster.setting import Setting
from spiralis.core.render.layers import Evaluated, own_matrix

#: Sizes that differ by a smaller share are the same: a fitted one is found by halving.
_SAME_SIZE = 1e-3


def with_flow(at: Evaluated, piece: Composition, layer: Layer, flow: str) -> Composition:
    """Return the composition with a text layer set in another manner (a ``flow``).

    A box that nobody has set, or that just holds the words, is the one around the words; a size that was fitted is
    kept. What hangs on the words stays with their letters.
    """
    values = at.values(layer)
    before = setting_of(values, at.scene)
    made = layer.with_values(flow=flow)
    if values["path_layer"] or not before.letters:
        return piece.with_layer(made)
    plain = setting_of({**values, "flow": "lines"}, at.scene)
    if _holds(layer, values["flow"], plain):
        made = made.with_values(frame=_frame_around(plain, flow))
    if values["flow"].startswith("fit") and not flow.startswith("fit") and not layer.track("size").keys:
        made = _as_large(made, before.size)
    after = setting_of(Evaluated(at.scene.project, piece.with_layer(made), at.frame).values(made), at.scene)
    along, own = _way(before, after), _way_about(values["pivot"], before, after)
    x, y = own_matrix(layer, values, at.scene).apply_direction(*own)

    def placed(other: Layer) -> Layer:
        if other.id == layer.id:
            set_so = {name: made.properties[name] for name in ("flow", "frame", "size") if name in made.properties}
            return shifted(evolve(other, properties={**other.properties, **set_so}), round(x, 3), round(y, 3))
        return with_place(other, (1.0, 1.0), along) if other.parent == layer.id else other

    return evolve(piece, layers=tuple(map(placed, piece.layers)), poses=poses_mapped(piece, placed))


def _holds(layer: Layer, flow: str, plain: Setting) -> bool:
    """Whether nobody has set a box, or it is as large as the words that are plainly set."""
    box = layer.track("frame")
    if box.animated or box.driver is not None:
        return False
    return "frame" not in layer.properties or box.value == _frame_around(plain, flow)


def _frame_around(setting: Setting, flow: str) -> Pair:
    """Return the size of the box in which words look as they do: what is inked of them where they fill it."""
    left, top, right, bottom = ink_of(setting) if flow == "stretch" else setting.box
    # What is a hair too narrow breaks a line.
    return (max(round(right - left + 0.005, 2), 1.0), max(round(bottom - top + 0.005, 2), 1.0))


def _as_large(layer: Layer, size: float) -> Layer:
    same = abs(size / layer.track("size").value - 1) < _SAME_SIZE
    return layer if same else layer.with_values(size=round(size, 2))


def _way(before: Setting, after: Setting) -> Pair:
    """Return how far the middle of the letters is from where it was, in the layer's units."""
    return _between(_middle(ink_of(before)), _middle(ink_of(after)))


def _way_about(pivot: Pair, before: Setting, after: Setting) -> Pair:
    """Return how far the layer has to go so that the letters' middle, seen from its pivot, is where it was."""
    was, now = (_between(point_in(s.box, pivot), _middle(ink_of(s))) for s in (before, after))
    return _between(now, was)


def _middle(box: Box) -> Pair:
    return point_in(box, (50.0, 50.0))


def _between(first: Pair, second: Pair) -> Pair:
    return (second[0] - first[0], second[1] - first[1])
