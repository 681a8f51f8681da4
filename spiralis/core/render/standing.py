"""From layers that stand in space to nodes: seen through the camera, shaded, with sides, planes and depth of their own.

Functions of a builder's moment and grid; layers that lie flat there are left to it.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING

from spiralis.core.colour import Shade
from spiralis.core.geometry import Affine, Projection
from spiralis.core.model import Layer, layer_kind
from spiralis.core.render.covers import Covered
from spiralis.core.render.defocus import LEAST, Defocused
from spiralis.core.render.effecting import Acting, each_part
from spiralis.core.render.layered import Layered
from spiralis.core.render.layers import Outer
from spiralis.core.render.lighting import Shaded, light_of, shade_of
from spiralis.core.render.nodes import Item, Node
from spiralis.core.render.projected import Drawn, Projected, fineness
from spiralis.core.render.receding import goes_on, receding
from spiralis.core.render.shadows import thrown
from spiralis.core.render.solids import planes_seen
from spiralis.core.render.space import camera_of, distance, seen, seen_behind, standing
from spiralis.core.render.thickness import Sides, end_seen, is_thick

if TYPE_CHECKING:
    from spiralis.core.render.building import Builder


def in_space(builder: Builder, layer: Layer, acting: Sequence[Acting], masks: Sequence[object]) -> Node | None:
    """Return a layer that stands in space as it is seen, with its effects and the mattes that hang on it.

    None where it looks as it would lying flat.
    """
    at = builder.at
    kind = layer_kind(layer.kind)
    if kind.planes is not None or kind.swarm or _keeps_depth(builder, layer):
        # What it shows stands in space part by part.
        return builder.effected(layer, acting, masks)
    thick = is_thick(at, layer)
    end = end_seen(at, layer) if thick else 0.0
    # Of what has a thickness the back may be what is seen.
    map_ = seen_behind(at, layer, end) if end else seen(at, layer)
    shade = shade_of(at, layer)
    if isinstance(map_, Projection):
        node = _in_perspective(builder, layer, map_, acting, masks, shade)
    elif shade is not None or thick:
        node = builder.in_own_grid(layer, acting, masks)
        node = each_part(node, lambda part: Shaded(part, shade)) if shade is not None else node
    else:
        return None
    if not thick:
        return node
    sides = Item(Sides(at, layer, builder.to_grid, builder.frame()))
    return builder.layered((sides, Item(node)) if end is not None else (sides,), builder.to_grid)


def _in_perspective(
    builder: Builder, layer: Layer, map_: Projection, acting: Sequence[Acting], masks: Sequence[object],
    shade: Shade | None,
) -> Node:  # fmt: skip
    """Return a layer under a projective map of its units, with its effects, which work upright on it, then shaded."""
    at = builder.at
    to_grid, inverse = builder.to_grid @ map_, at.matrix(layer).inverse()
    if inverse is None:
        return Layered((), Affine())
    bare = not (acting or masks or builder.crop(layer)) and at.values(layer)["content_opacity"] >= 100
    if bare and (drawn := Drawn(at, layer, to_grid, shade)).can:
        return drawn
    if bare and shade is not None and (drawn := Drawn(at, layer, to_grid)).can:
        # What is brighter than white is shaded after it is drawn.
        return Shaded(drawn, shade)

    def upright(fine: float) -> Node:
        inner = builder.elsewhere(Affine.scaling(fine, fine) @ inverse).effected(layer, acting, masks, still=True)
        return each_part(inner, lambda part: Shaded(part, shade)) if shade is not None else inner

    if goes_on(acting) and (bands := receding(to_grid, builder.frame(), builder.within_shutter, upright)) is not None:
        return bands
    fine, spans = fineness(to_grid, at.box(layer), builder.frame(), builder.within_shutter)
    fine = builder.fine.setdefault(layer.id, fine)
    space = Affine.scaling(1 / fine, 1 / fine)
    return each_part(upright(fine), lambda part: Projected(part, space, to_grid, spans))


def by_the_lens(builder: Builder, layer: Layer, node: Node) -> tuple[Node, float]:
    """Return a layer as it is seen out of focus, and how much of it is left by its distance."""
    camera, far = camera_of(builder.at), distance(builder.at, layer)
    spread = camera.spread(far) * max(builder.to_grid.stretch())
    if spread >= LEAST:
        node = each_part(node, lambda part: Defocused(part, round(spread, 2)))
    return node, camera.left(far)


def shadows(builder: Builder, light: Layer) -> Node | None:
    """Return the shadows that a light shows, with its mattes; None where there are none."""
    node = thrown(builder, light) if not builder.flat else None
    if node is None:
        return None
    mattes = builder.mattes(light, light.mattes)
    return Covered(node, mattes) if mattes else node


def parts_in_space(builder: Builder, layer: Layer) -> Node | None:
    """Return what is made of planes or layers that stand in space by themselves; None for other layers."""
    if layer_kind(layer.kind).planes is not None:
        planes = planes_seen(builder.at, layer, max(builder.to_grid.stretch()), builder.flat)
        return builder.layered([Item(builder.whole(plane)) for plane in planes], builder.to_grid)
    return _deep(builder, layer) if _keeps_depth(builder, layer) else None


def _keeps_depth(builder: Builder, layer: Layer) -> bool:
    """Whether what a nest shows stands in this composition's space by itself."""
    return builder.stands(layer) and bool(builder.at.values(layer).get("keeps_depth", False))


def _deep(builder: Builder, layer: Layer) -> Node:
    """Return the layers of a nested composition, each as it is seen from here."""
    at, inner = builder.at, builder.inner(layer)
    if inner is None:
        return Layered((), Affine())
    outer = Outer(standing(at, layer), camera_of(at), light_of(at), at.seen_size)
    items = builder.within(inner, outer)
    return Layered(items, builder.to_grid, whole=builder.frame(), linear=inner.composition.linear)
