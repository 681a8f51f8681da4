"""Footage: a clip or numbered pictures, each frame exactly at its time."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np
from attrs import evolve

from spiralis.core.animation.source_time import TIMING, Clock, asked_frame, even_clock, shown
from spiralis.core.geometry import Affine, Box, intersect
from spiralis.core.media.footage import clip_of, frame_levels
from spiralis.core.model import Composition, Layer, Project
from spiralis.core.model.heard import Heard
from spiralis.core.model.kinds import VOLUME, LayerKind, register_kind
from spiralis.core.model.parameter import Kind, Parameter, Value
from spiralis.core.model.source import Source
from spiralis.core.raster.layer_image import LayerImage, Scene
from spiralis.core.raster.pyramid import level_for
from spiralis.core.raster.raster import Raster
from spiralis.core.sound.reading import has_sound

PARAMETERS = (
    Parameter("source", "Source", Kind.SOURCE, "", "The footage that is shown", all_shown=True),
    *TIMING,
    Parameter("blend_frames", "Blend frames", Kind.SWITCH, False, "Whether what lies between two own frames mixes both",
              group="Timing", steady=True, needs=("retime", (True,))),
    VOLUME,
)  # fmt: skip


def clock_of(source: Source) -> Clock | None:
    """Return when the frames of a source begin; by its mean rate where the file is missing."""
    clip = clip_of(source)
    if clip is None:
        return even_clock(source.frames, source.rate) if source.frames and source.rate else None
    if source.rate is not None and source.rate != clip.facts.rate:
        return clip.facts.clock.at_rate(source.rate)
    return clip.facts.clock


def _box(values: Mapping[str, Value], scene: Scene) -> Box:
    source = scene.project.source(values["source"])
    return (0.0, 0.0, float(source.width), float(source.height)) if source else (0.0, 0.0, 100.0, 100.0)


def frame_index(values: Mapping[str, Value], scene: Scene) -> int | None:
    """Return which own frame shows, or None for none."""
    source = scene.project.source(values["source"])
    if source is None or source.missing or scene.span is None:
        return None
    clock = clock_of(source)
    return shown(clock, values, scene.span) if clock is not None else None


def _share(values: Mapping[str, Value]) -> float:
    """Return how much of the next own frame shows, 0 to 1."""
    return round(asked_frame(values) % 1, 3) if values["retime"] and values["blend_frames"] else 0.0


def _moment(values: Mapping[str, Value], scene: Scene) -> object:
    index, share = frame_index(values, scene), _share(values)
    return (index, share) if share else index


def _draw(values: Mapping[str, Value], scene: Scene, matrix: Affine, clip: Box) -> LayerImage | None:
    source = scene.project.source(values["source"])
    if source is None or intersect(matrix.box(_box(values, scene)), clip) is None:
        return None
    index = frame_index(values, scene)
    if index is None:
        return None
    level = level_for(max(matrix.stretch()), min(source.width, source.height))
    pixels = frame_levels(source, index, level)
    if pixels is None:
        return None
    share = _share(values)
    if share:
        after = frame_index({**values, "own_frame": values["own_frame"] + 1}, scene)
        following = frame_levels(source, after, level) if after is not None else None
        if following is not None:
            mixed = pixels * np.float32((1 - share) / 255) + following * np.float32(share / 255)
            pixels = mixed.astype(np.float32, copy=False)
    size = float(2**level)
    return Raster(pixels, Affine(size, 0, 0, size, -size, -size))


def _applies(name: str, values: Mapping[str, Value], project: Project) -> bool:
    source = project.source(values["source"])
    return name != "volume" or (source is not None and not source.missing and has_sound(source))


def _hears(layer: Layer, piece: Composition, project: Project) -> Heard | None:
    """The clip's own sound, along with its pictures."""
    values = {parameter.name: layer.track(parameter.name).value for parameter in (*TIMING, PARAMETERS[0])}
    source = project.source(values["source"])
    if source is None or source.missing or not has_sound(source):
        return None
    clip = clip_of(source)
    if clip is None:
        return None
    if values["retime"]:
        ends = "loop" if values["ends"] == "loop" else "once"
        return Heard(source.id, end=float(clip.facts.clock.ticks[-1] * clip.facts.clock.tick), ends=ends,
                     keyed=float(clip.facts.rate))  # fmt: skip
    ticks, tick = clip.facts.clock.ticks, clip.facts.clock.tick
    first = min(int(values["in"]), len(ticks) - 2)
    last = max(min(int(values["out"]), len(ticks) - 1) if values["out"] >= 1 else len(ticks) - 1, first + 1)
    begin, end = float(ticks[first] * tick), float(ticks[last] * tick)
    heard = Heard(source.id, begin=begin, end=end, backwards=values["reverse"])
    if values["fit"]:
        seconds = (layer.last - layer.first) / float(piece.rate)
        return evolve(heard, start=float(layer.first), speed=(end - begin) / seconds)
    rate = float(values["own_rate"] or source.rate or clip.facts.rate)
    ends = "once" if values["ends"] == "hold" else values["ends"]
    speed = values["speed"] / 100 * rate / float(clip.facts.rate)
    return evolve(heard, start=float(values["start"]), speed=speed, ends=ends)


register_kind(
    LayerKind("footage", "Footage", "A clip or numbered pictures", PARAMETERS, _box, _draw, _moment, frame_index,
              applies=_applies, hears=_hears)
)  # fmt: skip
