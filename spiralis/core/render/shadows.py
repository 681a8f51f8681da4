"""The shadows that layers in depth throw along a light's way on a level floor or an upright wall.

Along parallel light a plane falls on a plane by an affine map (Blinn, *Me and My (Fake) Shadow*, 1988), so the shadows
are drawn flat in the ground's own plane, softened there, and seen through the camera as one.
"""

from __future__ import annotations

from collections.abc import Hashable, Sequence
from typing import TYPE_CHECKING

import numpy as np
from attrs import frozen

from spiralis.core.colour import Colour
from spiralis.core.geometry import (
    Affine,
    Box,
    Projection,
    WholeBox,
    box_around,
    box_around_points,
    corners_of,
    intersect,
)
from spiralis.core.model import Layer, layer_kind
from spiralis.core.raster.blurring import reach, softened
from spiralis.core.raster.raster import Raster
from spiralis.core.render.hulls import Hull, Point, hull_of
from spiralis.core.render.in_sight import all_seen
from spiralis.core.render.layered import Layered
from spiralis.core.render.layers import Evaluated
from spiralis.core.render.lighting import light_of
from spiralis.core.render.maps_in_space import Rows
from spiralis.core.render.nodes import Item, Node, Pictured
from spiralis.core.render.projected import Projected, fineness
from spiralis.core.render.solids import body_of, planes_of
from spiralis.core.render.space import camera_of, standing, standing_behind, stands_in_space
from spiralis.core.render.thickness import depths_of

if TYPE_CHECKING:
    from spiralis.core.render.building import Builder

#: A shadow reaches no farther than this over the ground, in px.
_FAR = 20_000.0
#: The least blur, in pixels: it closes the seams of shadows that meet.
_LEAST = 0.6


@frozen(eq=False)
class Ground:
    """A plane across one axis of space (1 is y, 2 is z) at a place; ``along`` are the two axes that lie in it."""

    axis: int
    at: float
    along: tuple[int, int]

    def fallen(self, standing: Rows, way: Sequence[float]) -> list[tuple[float, float, float]] | None:
        """Return the map, two rows of three, of a plane's units to where they fall along a way; None where they never
        do. ``standing`` maps the units to space."""
        if abs(way[self.axis]) < 1e-3:
            return None
        # How far along its way each point is from the ground.
        a, b, _, d = standing[self.axis]
        made = []
        for axis in self.along:
            p, q, _, s = standing[axis]
            share = way[axis] / way[self.axis]
            made.append((p - share * a, q - share * b, s + share * (self.at - d)))
        return made

    def embedded(self) -> np.ndarray:
        """Return the map, float64 (4, 3), of the plane to space."""
        made = np.zeros((4, 3))
        made[self.along[0], 0] = made[self.along[1], 1] = made[3, 2] = 1.0
        made[self.axis, 2] = self.at
        return made


def ground_of(at: Evaluated, light: Layer) -> Ground | None:
    """Return what the light's shadows fall on."""
    values = at.values(light)
    if values["ground"] == "floor":
        return Ground(1, values["ground_y"], (0, 2))
    return Ground(2, values["ground_z"], (0, 1)) if values["ground"] == "wall" else None


class Fallen(Pictured):
    """The shadow of a node: one colour where the node shows anything, softened."""

    def __init__(self, inner: Node, colour: Colour, sigma: float) -> None:
        self.inner, self.colour, self.sigma = inner, colour, sigma

    def make_key(self) -> Hashable:
        return self.inner.key, self.colour, self.sigma

    def drawn_in(self, region: WholeBox) -> Raster | None:
        far = reach(self.sigma)
        left, top, right, bottom = region
        picture = self.inner.picture((left - far, top - far, right + far, bottom + far))
        if picture is None:
            return None
        x0, y0, x1, y1 = picture.box
        area = (max(x0 - far, left), max(y0 - far, top), min(x1 + far, right), min(y1 + far, bottom))
        if area[2] <= area[0] or area[3] <= area[1]:
            return None
        whole = picture.spread_over((area[0] - far, area[1] - far, area[2] + far, area[3] + far))
        cover = softened(np.clip(whole.as_float[..., 3], 0, 1), self.sigma, self.sigma, whole.corner)
        cover = cover[far : far + area[3] - area[1], far : far + area[2] - area[0]]
        red, green, blue, density = self.colour
        tint = np.array([red * density, green * density, blue * density, density], dtype=np.float32)
        return Raster(cover[..., None] * tint, corner=area[:2])


def thrown(builder: Builder, light: Layer) -> Node | None:
    """Return the shadows on a light's ground as they are seen; None where there are none, or somebody else's light
    counts."""
    at, found = builder.at, light_of(builder.at)
    if at.outer is not None:
        return None
    ground, values = ground_of(at, light), at.values(light)
    if ground is None or found is None or values["shadow"][3] <= 0:
        return None
    soft, way = values["softness"], found.way.tolist()
    bodies, planes = _throwing(builder)
    maps = [
        (layer, map_) for layer in planes
        # What has a thickness throws as many shadows of its front as look like one.
        for z in depths_of(at, layer, 4.0 + soft)
        if (map_ := _map(at, ground, layer, z, way)) is not None
    ]  # fmt: skip
    outlines = [corners for body in bodies if (corners := _fallen_body(at, ground, body, way)) is not None]
    boxes = [map_.box(at.box(layer)) for layer, map_ in maps]
    boxes += [box_around_points(corners) for corners in outlines]
    boxes = [near for box in boxes if (near := _within(box)) is not None]
    if not boxes:
        return None
    box = box_around(boxes)
    around = (box[0] - 3 * soft, box[1] - 3 * soft, box[2] + 3 * soft, box[3] + 3 * soft)
    plane = camera_of(at).matrix @ ground.embedded()
    to_grid = builder.to_grid @ Projection.from_array(plane)
    fine, spans = fineness(to_grid, around, builder.frame(), True)
    # What is soft needs no more pixels than show its softness.
    fine = min(fine, max(6.0 / soft, 1 / 64)) if soft > 6 else fine
    upright = Affine.scaling(fine, fine)
    items = [Item(_lying(builder, layer, upright @ map_), 0, at.values(layer)["opacity"] / 100) for layer, map_ in maps]
    items += [Item(Hull(tuple((fine * x, fine * y) for x, y in corners))) for corners in outlines]
    inner = Layered(items, Affine(), whole=upright.box(around))
    shadow = Fallen(inner, values["shadow"], max(soft * fine, _LEAST))
    return Projected(shadow, Affine.scaling(1 / fine, 1 / fine), to_grid, spans)


def _throwing(builder: Builder) -> tuple[list[list[tuple[Layer, Box]]], list[Layer]]:
    """Return the bodies and the planes that throw shadows; where only the light is to be seen, the shadows of all the
    others are."""
    at, planes = builder.at, []
    bodies: list[list[tuple[Layer, Box]]] = []
    for layer in all_seen(builder.piece, builder.at.frame, heeds_solo=False):
        values = at.values(layer)
        plain = not layer_kind(layer.kind).unseen and layer_kind(layer.kind).beneath is None
        if plain and stands_in_space(at, layer) and values["casts"] and values["visible"] and values["opacity"] > 0:
            body = body_of(at, layer)
            if body:
                bodies.append(body)
            else:
                planes += planes_of(at, layer) or [layer]
    return bodies, planes


def _fallen_body(
    at: Evaluated, ground: Ground, body: Sequence[tuple[Layer, Box]], way: Sequence[float]
) -> tuple[Point, ...] | None:
    """Return the outline of a convex body's shadow: around all that its corners throw."""
    points: list[Point] = []
    for plane, box in body:
        fallen = ground.fallen(standing(at, plane), way)
        if fallen is None:
            return None
        (a, c, e), (b, d, f) = fallen
        points += [(round(a * x + c * y + e, 6), round(b * x + d * y + f, 6)) for x, y in corners_of(box)]
    return hull_of(points)


def _map(at: Evaluated, ground: Ground, layer: Layer, z: float, way: Sequence[float]) -> Affine | None:
    fallen = ground.fallen(standing_behind(at, layer, z), way)
    if fallen is None:
        return None
    (a, c, e), (b, d, f) = fallen
    left, top, right, bottom = at.box(layer)
    # What is seen from its edge along the light throws nothing.
    thin = abs(a * d - b * c) * (right - left) * (bottom - top) < 1.0
    return None if thin else Affine(*(round(part, 9) for part in (a, b, c, d, e, f)))


def _lying(builder: Builder, layer: Layer, to_grid: Affine) -> Node:
    """Return a layer lying flat under a map from its units to a grid."""
    inverse = builder.at.matrix(layer).inverse()
    return Layered((), Affine()) if inverse is None else builder.elsewhere(to_grid @ inverse).whole(layer)


def _within(box: Box) -> Box | None:
    return intersect(box, (-_FAR, -_FAR, _FAR, _FAR))
