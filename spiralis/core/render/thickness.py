"""The sides of shapes and words that have a thickness: strips behind their outlines, each as bright as it is turned.

Those that look away are left out, the others drawn from the farthest to the nearest (Newell, Newell, Sancha, *A
Solution to the Hidden Surface Problem*, 1972, without splitting), several samples a pixel.
"""

from __future__ import annotations

from collections.abc import Hashable

import cv2
import numpy as np
from attrs import frozen

from spiralis.core.colour import Colour
from spiralis.core.geometry import Affine, Box, WholeBox, intersect_whole, rounded_out
from spiralis.core.model import Layer, layer_kind
from spiralis.core.raster.raster import Raster
from spiralis.core.raster.silhouettes import Silhouette, silhouette
from spiralis.core.render.contents import content_key
from spiralis.core.render.layers import Evaluated
from spiralis.core.render.lighting import Light, light_of, normal_of, turned_to_viewer
from spiralis.core.render.nodes import Pictured
from spiralis.core.render.space import NEAREST, Camera, camera_of, world

#: Samples a pixel and axis; fewer where a picture is large.
_FINE, _COARSE, _LARGE = 4, 2, 1_500_000
#: Fractions of a sample that points lie on.
_BITS = 4
_MOST_STEPS = 24


def depths_of(at: Evaluated, layer: Layer, apart: float) -> list[float]:
    """Return how far behind its front a layer reaches, in steps of so many px at most, the front's 0 first."""
    deep = at.values(layer)["thickness"] if is_thick(at, layer) else 0.0
    count = min(int(np.ceil(deep / max(apart, 1.0))), _MOST_STEPS)
    return [0.0, *(deep * step / count for step in range(1, count + 1))] if count else [0.0]


def is_thick(at: Evaluated, layer: Layer) -> bool:
    """Whether a layer has sides, where it stands in space."""
    return bool(at.values(layer).get("thickness", 0.0) > 0 and layer_kind(layer.kind).outlines is not None)


def end_seen(at: Evaluated, layer: Layer) -> float | None:
    """Return how far behind its front the end of a thick layer lies that is seen: its front, its back, or neither."""
    deep = at.values(layer)["thickness"]
    before = turned_to_viewer(at, layer)
    if before > 0:
        return 0.0
    across = abs(float(world(at, layer)[:3, 2] @ normal_of(at, layer)))
    return deep if before + across * deep < 0 else None


@frozen(eq=False)
class _Strips:
    """Quadrilaterals in space, (n, 4, 3), with their outward normals (n, 3) and which colour each has (n,)."""

    corners: np.ndarray
    normals: np.ndarray
    colour: np.ndarray


class Sides(Pictured):
    """What is seen of a layer's sides, and of its back or front beneath what is drawn there."""

    def __init__(self, at: Evaluated, layer: Layer, to_grid: Affine, frame: Box) -> None:
        self.at, self.layer, self.to_grid = at, layer, to_grid
        self.frame = rounded_out(frame)
        self.values = at.values(layer)

    def make_key(self) -> Hashable:
        at = self.at
        light, camera = light_of(at), camera_of(at)
        lit = (light.way.tobytes(), light.colour, light.all_around) if light is not None else None
        return (
            content_key(at, self.layer), world(at, self.layer).tobytes(), camera.matrix.tobytes(),
            camera.place.tobytes(), lit, self.values["lit"], self.to_grid, self.frame,
        )  # fmt: skip

    def drawn_in(self, region: WholeBox) -> Raster | None:
        outlines = layer_kind(self.layer.kind).outlines
        assert outlines is not None
        covered = silhouette(outlines(self.values, self.at.scene))
        if not len(covered.points):
            return None
        strips = self._strips(covered)
        camera = camera_of(self.at)
        shown = ((camera.place - strips.corners.mean(axis=1)) * strips.normals).sum(axis=1) > 0
        corners, normals, colour = strips.corners[shown], strips.normals[shown], strips.colour[shown]
        points, depth = camera.sees(corners)
        before = depth.min(axis=1) > NEAREST
        order = np.argsort(-depth.mean(axis=1)[before], kind="stable")
        colours = self._shaded(normals[before][order], colour[before][order])
        caps, cap_colour = self._caps(camera, covered)
        points = self.to_grid.apply_all(points[before][order])
        return _drawn(points, colours, caps, cap_colour, self.frame, region)

    def _strips(self, covered: Silhouette) -> _Strips:
        """Return the sides in space: a slope behind the front first, where there is one."""
        deep = self.values["thickness"]
        bevel = min(self.values["bevel"], deep)
        rings = [(covered.points, 0.0)]
        if bevel > 0:
            rings.append((covered.points + bevel * covered.outwards, bevel))
        if bevel < deep:
            rings.append((rings[-1][0], deep))
        corners, normals, colour = [], [], []
        for (near, z), (far, below) in zip(rings, rings[1:], strict=False):
            a, b = self._standing(near, z), self._standing(far, below)
            corners.append(np.stack([a, a[covered.after], b[covered.after], b], axis=1))
            # Outwards and, on a slope, forwards as much.
            slope = 1.0 if z == 0 and bevel > 0 else 0.0
            flat = np.column_stack([covered.normals, np.full(len(near), -slope)])
            normals.append(flat @ _turning(world(self.at, self.layer)[:3, :3]))
            colour.append(np.full(len(near), int(slope)))
        normal = np.concatenate(normals)
        normal /= np.maximum(np.linalg.norm(normal, axis=1, keepdims=True), 1e-12)
        return _Strips(np.concatenate(corners), normal, np.concatenate(colour))

    def _standing(self, points: np.ndarray, z: float) -> np.ndarray:
        """Return points (n, 2) of a plane behind the front in space, (n, 3)."""
        standing = world(self.at, self.layer)
        return np.asarray(points @ standing[:3, :2].T + standing[:3, 2] * z + standing[:3, 3])

    def _shaded(self, normals: np.ndarray, colour: np.ndarray) -> np.ndarray:
        """Return colours (n, 4) as the light falls on each; straight."""
        plain = np.array([self.values["side_fill"], self.values["bevel_fill"]])[colour]
        light = light_of(self.at)
        if light is None or not self.values["lit"]:
            return plain
        return np.column_stack([plain[:, :3] * _shades(light, normals), plain[:, 3:]])

    def _caps(self, camera: Camera, covered: Silhouette) -> tuple[list[np.ndarray], Colour | None]:
        """Return the outline of the end that is turned to the viewer, so that nothing shows between it and the
        sides."""
        end = end_seen(self.at, self.layer)
        if end is None:
            return [], None
        front, deep, bevel = end == 0, self.values["thickness"], self.values["bevel"]
        at, caps = 0, []
        for outline in covered.outlines:
            rows = slice(at, at + len(outline))
            wider = outline + min(bevel, deep) * covered.outwards[rows]
            points, depth = camera.sees(self._standing(outline if front else wider, end))
            if depth.min() <= NEAREST:
                return [], None
            caps.append(self.to_grid.apply_all(points))
            at += len(outline)
        fill = self.values["bevel_fill"] if front and bevel > 0 else self.values["side_fill"]
        return caps, fill


def _turning(matrix: np.ndarray) -> np.ndarray:
    """Return what normals (n, 3) are multiplied by from behind where points are moved by a (3, 3) map."""
    try:
        return np.linalg.inv(matrix)
    except np.linalg.LinAlgError:
        return matrix.T


def _shades(light: Light, normals: np.ndarray) -> np.ndarray:
    turned = np.maximum(-normals @ light.way, 0.0)
    return light.all_around + turned[:, None] * np.array(light.colour)


def _drawn(
    points: np.ndarray, colours: np.ndarray, caps: list[np.ndarray], cap: Colour | None, frame: WholeBox,
    region: WholeBox,
) -> Raster | None:  # fmt: skip
    """Return quadrilaterals (n, 4, 2) in their order with a colour each, over them the caps; cut to a region."""
    every = [points.reshape(-1, 2), *caps]
    whole = np.concatenate(every)
    if not len(whole):
        return None
    low, high = np.clip(whole.min(axis=0), -1e6, 1e6), np.clip(whole.max(axis=0), -1e6, 1e6)
    area = intersect_whole(rounded_out((low[0], low[1], high[0], high[1]), 1.0), frame)
    wanted = intersect_whole(area, region) if area is not None else None
    if area is None or wanted is None:
        return None
    left, top, right, bottom = area
    fine = _FINE if (right - left) * (bottom - top) <= _LARGE else _COARSE
    pixels = np.zeros(((bottom - top) * fine, (right - left) * fine, 4), dtype=np.uint8)

    def placed(some: np.ndarray) -> np.ndarray:
        # Whole numbers are the middles of samples.
        return np.round(np.clip((some - (left, top)) * fine - 0.5, -1e5, 1e5) * 2**_BITS).astype(np.int32)

    # What is brighter than 1 is drawn within bytes all the same.
    most = max(float(colours[:, :3].max(initial=1.0)), 1.0)
    each = np.round(np.column_stack([colours[:, :3] * colours[:, 3:] / most, colours[:, 3:]]) * 255)
    for corners, tint in zip(placed(points), each.tolist(), strict=True):
        cv2.fillConvexPoly(pixels, corners, tint, cv2.LINE_8, _BITS)
    if cap is not None and caps:
        red, green, blue, alpha = cap
        tint = [round(255 * v) for v in (red * alpha / most, green * alpha / most, blue * alpha / most, alpha)]
        cv2.fillPoly(pixels, [placed(outline) for outline in caps], tint, cv2.LINE_8, _BITS)
    made = cv2.resize(pixels, (right - left, bottom - top), interpolation=cv2.INTER_AREA)
    scaled = made.astype(np.float32) * np.array([most / 255] * 3 + [1 / 255], dtype=np.float32)
    return Raster(scaled, corner=(left, top)).cut(wanted)
