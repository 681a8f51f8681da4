"""Effect layer: shows nothing itself and changes all that lies beneath it: softness, saturation and the like."""

from __future__ import annotations

from collections.abc import Mapping

from spiralis.core.geometry import Affine, Box
from spiralis.core.model.adding import AddEntry
from spiralis.core.model.kinds import LayerKind, register_kind
from spiralis.core.model.parameter import Kind, Parameter, Value
from spiralis.core.raster.layer_image import LayerImage, Scene

PARAMETERS = (
    Parameter("softness", "Softness", Kind.NUMBER, 0.0, "Blurs what lies beneath: the sigma of a Gaussian", "px",
              0, 500, family="effects"),
    Parameter("saturation", "Saturation", Kind.NUMBER, 100.0, "0 % is grey, 200 % doubly colourful", "%", 0, 400,
              family="effects"),
    Parameter("brightness", "Brightness", Kind.NUMBER, 100.0, "Multiplies all channels", "%", 0, 400, family="effects"),
    Parameter("contrast", "Contrast", Kind.NUMBER, 100.0, "Stretches values about middle grey", "%", 0, 400,
              family="effects"),
)  # fmt: skip


def beneath(values: Mapping[str, Value]) -> list[tuple[str, Mapping[str, Value]]]:
    """Return what it does to all beneath it, as effects with their values; its blocks come after these."""
    soft = values["softness"]
    grade = {name: values[name] for name in ("saturation", "brightness", "contrast")}
    # The frame's rim neither darkens nor fades: its edge goes on outside.
    return [("gaussian-blur", {"across": soft, "down": soft, "edge": "repeat"}), ("grade", grade)]


def _box(values: Mapping[str, Value], scene: Scene) -> Box:
    return 0.0, 0.0, float(scene.width), float(scene.height)


def _draw(values: Mapping[str, Value], scene: Scene, matrix: Affine, clip: Box) -> LayerImage | None:
    return None


register_kind(
    LayerKind(
        "effect", "Effect layer", "Changes all that lies beneath it", PARAMETERS, _box, _draw, fills_frame=True,
        beneath=beneath, adds=(AddEntry("Effect layer", 302),),
    )
)  # fmt: skip
