"""Change a composition's format, crop or enlarge it, change its rate or length; say what moves and what scales."""

from __future__ import annotations

from fractions import Fraction

import numpy as np
from attrs import evolve

from spiralis.core.editing.edits import shifted, with_length
from spiralis.core.editing.placed_by import with_lengths, with_measures, with_place, with_rolls, with_size
from spiralis.core.editing.posing import poses_mapped
from spiralis.core.geometry import Box, rounded_out
from spiralis.core.model import Composition, Key, Layer, Project, Track, layer_kind
from spiralis.core.model.drivers import Follow
from spiralis.core.model.references import What

#: What layers do in another format: keep their size, or scale together to fit into it, to cover it.
SCALES = ("keep", "fit", "cover")
#: What keys and spans do at another rate or length: stay on their frames, keep their seconds, stretch with the length.
TIMES = ("frames", "seconds", "stretch")


def reformatted(
    piece: Composition, width: int, height: int, rate: Fraction, length: int, scales: str = "keep",
    times: str = "frames",
) -> Composition:  # fmt: skip
    """Return the composition in another format. Layers without a parent keep their place about the middle.

    Args:
        piece: the composition.
        width, height: the new size in px.
        rate: the new frames per second.
        length: the new length in frames.
        scales: one of SCALES.
        times: one of TIMES.

    Raises:
        ModelError: the format is outside the limits.
    """
    shares = (width / piece.width, height / piece.height)
    by = {"keep": 1.0, "fit": min(shares), "cover": max(shares)}[scales]
    old, new = (piece.width / 2, piece.height / 2), (width / 2, height / 2)
    layers = piece.layers
    if by != 1 or old != new:
        standing = {layer.id for layer in layers if not layer.parent}

        def placed(layer: Layer) -> Layer:
            return with_rolls(_placed(layer, by, old, new), lambda i: by if i in standing else 1.0)

        shift = (new[0] - by * old[0], new[1] - by * old[1])
        artwork = piece.artwork.moved(by, shift) if piece.artwork is not None else None
        piece = evolve(piece, layers=tuple(map(placed, layers)), poses=poses_mapped(piece, placed), artwork=artwork)
    guides = tuple((axis, new[axis] + by * (place - old[axis])) for axis, place in piece.guides)
    changed = evolve(piece, guides=guides)
    if times == "frames":
        changed = with_length(changed, length) if length != piece.length else changed
        return evolve(changed, width=width, height=height, rate=rate)
    factor = rate / piece.rate if times == "seconds" else Fraction(length, piece.length)
    return evolve(_stretched(changed, factor, length), width=width, height=height, rate=rate)


def _placed(layer: Layer, by: float, old: tuple[float, float], new: tuple[float, float]) -> Layer:
    """Move a layer that stands by itself from one middle to the other, and scale it and its way."""
    shift = (new[0] - by * old[0], new[1] - by * old[1])
    layer = with_measures(layer, (by, by), shift)
    if layer.parent:
        return layer
    if by == 1:
        return shifted(layer, *shift)
    moved = with_place(layer, (by, by), shift)
    if layer_kind(layer.kind).fills_frame:
        return with_lengths(moved, (by, by))
    return with_size(moved, "scale", (by, by))


def cropped(piece: Composition, area: Box) -> Composition:
    """Return the composition with its frame moved to a box of its pixels, smaller or larger; what is seen stays.

    Layers that fill the frame (backdrops) fill the new one.

    Raises:
        ModelError: the box is no size for a composition.
    """
    left, top, right, bottom = rounded_out(area)
    width, height = right - left, bottom - top
    resized = evolve(piece, width=width, height=height)
    dx, dy = (width - piece.width) / 2, (height - piece.height) / 2

    def placed(layer: Layer) -> Layer:
        if layer.parent:
            return layer
        by = (dx, dy) if layer_kind(layer.kind).fills_frame else (-left, -top)
        return shifted(layer, float(by[0]), float(by[1]))

    guides = tuple((axis, place - (left, top)[axis]) for axis, place in piece.guides)
    layers = tuple(map(placed, piece.layers))
    artwork = piece.artwork.moved(1.0, (float(-left), float(-top))) if piece.artwork is not None else None
    return evolve(resized, guides=guides, layers=layers, poses=poses_mapped(piece, placed), artwork=artwork)


def retimed(piece: Composition, rate: Fraction) -> Composition:
    """Return the composition at another rate, everything in it keeping its seconds."""
    factor = rate / piece.rate
    return evolve(_stretched(piece, factor, max(round(piece.length * factor), 1)), rate=rate)


def _stretched(piece: Composition, factor: Fraction, length: int) -> Composition:
    """Return the composition with all its times multiplied and rounded to frames; where two keys fall together the
    later one stays."""

    def frame(value: float) -> int:
        return round(Fraction(value) * factor)

    layers = tuple(_timed(layer, factor) for layer in piece.layers)
    markers = tuple(evolve(marker, frame=frame(marker.frame)) for marker in piece.markers)
    poses = tuple(
        evolve(pose, stay=max(frame(pose.stay), 1), between=max(frame(pose.between), 0)) for pose in piece.poses.poses
    )
    span = piece.play_span
    if span is not None:
        first = min(frame(span[0]), length - 1)
        span = (first, min(max(frame(span[1]), first + 1), length))
    strip = evolve(piece.poses, first=frame(piece.poses.first), poses=poses)
    return evolve(piece, length=length, play_span=span, markers=markers, layers=layers, poses=strip)


def _timed(layer: Layer, factor: Fraction) -> Layer:
    """Return a layer with its span, keys, moves, delays and every number that counts frames multiplied."""

    def frame(value: float) -> int:
        return round(Fraction(value) * factor)

    def track(name: str, old: Track) -> Track:
        landed: dict[int, Key] = {}
        by = float(factor) if layer.parameter(name).counts_frames else 1.0
        for key in old.keys:
            value = key.value * by if by != 1 else key.value
            landed[frame(key.frame)] = evolve(key, frame=frame(key.frame), value=value)
        driver = old.driver
        if isinstance(driver, Follow):
            driver = evolve(driver, delay=driver.delay * float(factor))
        value = layer.parameter(name).from_array(np.array([old.value * by])) if by != 1 else old.value
        if name == "start":
            value = float(round(value))
        return evolve(old, value=value, keys=tuple(landed.values()), driver=driver)

    properties = {name: track(name, old) for name, old in layer.properties.items()}
    first = frame(layer.first)
    moves = tuple(evolve(use, first=frame(use.first), length=max(frame(use.length), 1)) for use in layer.moves)
    return evolve(layer, first=first, last=max(frame(layer.last), first + 1), properties=properties, moves=moves)


def cropped_everywhere(project: Project, composition_id: str, area: Box) -> Project:
    """Return the project with a composition cropped, and every layer that shows it placed so that nothing moves.

    Raises:
        ModelError: the box is no size for a composition.
    """
    old = project.composition(composition_id)
    left, top, right, bottom = rounded_out(area)
    project = project.with_composition(cropped(old, area))

    def pivot(value: tuple[float, float]) -> tuple[float, float]:
        x = (old.width * value[0] / 100 - left) / (right - left) * 100
        y = (old.height * value[1] / 100 - top) / (bottom - top) * 100
        return x, y

    for outer in project.compositions:
        layers = []
        for layer in outer.layers:
            shows = any(tie.what is What.COMPOSITION and tie.target == old.id for tie in layer.ties)
            if shows:
                layer = layer.with_track("pivot", layer.track("pivot").mapped(pivot))
            layers.append(layer)
        if any(new is not was for new, was in zip(layers, outer.layers, strict=True)):
            project = project.with_composition(evolve(outer, layers=tuple(layers)))
    return project
