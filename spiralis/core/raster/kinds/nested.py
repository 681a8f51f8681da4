"""Nested composition: another composition as a layer, in step with this one's time."""

from __future__ import annotations

from collections.abc import Mapping
from fractions import Fraction

from attrs import evolve

from spiralis.core.animation.source_time import stepped
from spiralis.core.geometry import Affine, Box
from spiralis.core.model import Composition, Layer, Project
from spiralis.core.model.heard import Heard
from spiralis.core.model.kinds import VOLUME, LayerKind, register_kind
from spiralis.core.model.parameter import Kind, Parameter, Value
from spiralis.core.raster.layer_image import Inner, LayerImage, Scene
from spiralis.core.sound.mixing import sounds

PARAMETERS = (
    Parameter("composition", "Composition", Kind.COMPOSITION, "", "The composition that is shown", all_shown=True),
    Parameter("keeps_depth", "Keep depth", Kind.SWITCH, False,
              "Whether what is inside stands in this composition's space, each layer by itself, instead of on a page",
              needs=("depth", (True,)), steady=True),
    Parameter("start", "Start", Kind.NUMBER, 0.0, "This composition's frame at which the inner one begins", "f",
              counts_frames=True,
              group="Timing", steady=True),
    Parameter("retime", "Retime", Kind.SWITCH, False, "Whether keys on the inner frame say what shows when",
              group="Timing", steady=True),
    Parameter("own_frame", "Inner frame", Kind.NUMBER, 0.0, "Which frame of the inner composition shows", "f",
              -1e6, 1e6, group="Timing", needs=("retime", (True,))),
    Parameter("step_time", "Step time", Kind.NUMBER, 1.0, "Every how many frames a new picture may come", "f", 1, 100,
              counts_frames=True,
              group="Timing", steady=True),
    VOLUME,
)  # fmt: skip


def _box(values: Mapping[str, Value], scene: Scene) -> Box:
    inner = scene.project.find(values["composition"])
    return (0.0, 0.0, float(inner.width), float(inner.height)) if inner else (0.0, 0.0, 100.0, 100.0)


def inner_frame(values: Mapping[str, Value], scene: Scene) -> Fraction | None:
    """Return the inner composition's frame, folded into it, or None where there is none."""
    inner, frame = scene.project.find(values["composition"]), own_frame(values, scene)
    if inner is None or frame is None:
        return None
    return frame % inner.length if inner.loop else min(max(frame, Fraction(0)), Fraction(inner.length - 1))


def own_frame(values: Mapping[str, Value], scene: Scene) -> Fraction | None:
    """Return the inner composition's frame, running on where that begins again, or None where there is none."""
    inner = scene.project.find(values["composition"])
    if inner is None or scene.span is None:
        return None
    if values["retime"]:
        return Fraction(values["own_frame"]).limit_denominator(1_000_000)
    span = stepped(values, scene.span)
    return (span.frame - Fraction(values["start"])) / span.rate * inner.rate


def _draw(values: Mapping[str, Value], scene: Scene, matrix: Affine, clip: Box) -> LayerImage | None:
    frame, inner = inner_frame(values, scene), scene.project.find(values["composition"])
    return Inner(inner, float(frame)) if frame is not None and inner is not None else None


def _applies(name: str, values: Mapping[str, Value], project: Project) -> bool:
    inner = project.find(values["composition"])
    return name != "volume" or (inner is not None and sounds(project, inner))


def _hears(layer: Layer, piece: Composition, project: Project) -> Heard | None:
    """All that is heard inside."""
    inner = project.find(layer.track("composition").value)
    if inner is None:
        return None
    heard = Heard(composition=inner.id, ends="loop" if inner.loop else "once")
    if layer.track("retime").value:
        return evolve(heard, keyed=float(inner.rate))
    return evolve(heard, start=float(layer.track("start").value))


register_kind(
    LayerKind(
        "nested", "Nested composition", "Another composition as one layer", PARAMETERS, _box, _draw, moment=inner_frame,
        own_frame=own_frame, nests=True, applies=_applies, hears=_hears,
    )
)
