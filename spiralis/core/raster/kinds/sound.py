"""Sound: shows nothing; a file of it is heard while the layer's bar runs."""

from __future__ import annotations

from collections.abc import Mapping

from spiralis.core.geometry import Affine, Box
from spiralis.core.model import Composition, Layer, Project
from spiralis.core.model.heard import Heard
from spiralis.core.model.kinds import VOLUME, LayerKind, register_kind
from spiralis.core.model.parameter import Kind, Parameter, Value
from spiralis.core.raster.layer_image import LayerImage, Scene

PARAMETERS = (
    Parameter("source", "Source", Kind.SOURCE, "", "The sound that is heard", choices=("sound",)),
    VOLUME,
    Parameter("fades", "Fades", Kind.PAIR, (0.0, 0.0), "How long it takes to come at its bar's beginning, and to go at "
              "its end", "s", 0, 600, 0.1, group="Sound", family="look", steady=True),
    Parameter("beyond", "Fades beyond", Kind.PAIR, (0.0, 0.0), "How much of these fades lies before its bar's "
              "beginning, and after its end: what a cut leaves to the other part", "s", 0, 600, 0.1, group="Sound",
              family="look", steady=True),
    Parameter("start", "Start", Kind.NUMBER, 0.0, "The frame of the composition at which it begins", "f",
              counts_frames=True, group="Timing", steady=True),
    Parameter("in", "In", Kind.NUMBER, 0.0, "What is left out at its beginning", "s", 0, 3600, 0.1, group="Timing",
              steady=True),
    Parameter("out", "Out", Kind.NUMBER, 0.0, "Where in it to end; 0 is the very end", "s", 0, 3600, 0.1,
              group="Timing", steady=True),
    Parameter("ends", "Ends", Kind.CHOICE, "once", "What is heard after its end: nothing, or the same again",
              group="Timing", steady=True, choices=("once", "loop")),
)  # fmt: skip


def _box(values: Mapping[str, Value], scene: Scene) -> Box:
    return 0.0, 0.0, 1.0, 1.0


def _draw(values: Mapping[str, Value], scene: Scene, matrix: Affine, clip: Box) -> LayerImage | None:
    return None


def _hears(layer: Layer, piece: Composition, project: Project) -> Heard | None:
    value = {parameter.name: layer.track(parameter.name).value for parameter in PARAMETERS}
    if not value["source"]:
        return None
    return Heard(value["source"], start=float(value["start"]), begin=value["in"], end=value["out"] or None,
                 ends=value["ends"])  # fmt: skip


register_kind(
    LayerKind("sound", "Sound", "A file of sound that is heard", PARAMETERS, _box, _draw, unseen=True, hears=_hears)
)
