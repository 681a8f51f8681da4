"""Camera: what layers in depth are seen through. Where several are on, the one in front counts."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from spiralis.core.geometry import Affine, Box
from spiralis.core.model.adding import AddEntry
from spiralis.core.model.kinds import LayerKind, register_kind
from spiralis.core.model.parameter import Kind, Parameter, Value
from spiralis.core.raster.layer_image import LayerImage, Scene
from spiralis.core.raster.lens import LENS, reach

PARAMETERS = (
    Parameter("lens", "Focal length", Kind.NUMBER, LENS, "On a film 36 mm wide: short ones see much and deep", "mm",
              4, 2000),
    Parameter("aims", "Aims", Kind.SWITCH, False, "Whether it looks at a point, instead of where its own turns lead",
              steady=True),
    Parameter("looks_at", "Looks at", Kind.PAIR, (540.0, 540.0), "The point that it looks at", "px",
              needs=("aims", (True,)), measures="place"),
    Parameter("looks_at_z", "Looks at z", Kind.NUMBER, 0.0, "How far behind the frame's plane that point is", "px",
              needs=("aims", (True,)), measures="depth"),
    Parameter("aperture", "Blur by distance", Kind.NUMBER, 0.0,
              "How wide a point of light very far away is spread, where it is not in focus", "px", 0, 1000),
    Parameter("focus", "Focus at", Kind.NUMBER, 1500.0, "How far from the camera things are sharp", "px", 1, 1e6),
    Parameter("fade_from", "Fades from", Kind.NUMBER, 0.0, "From which distance on things fade", "px", 0, 1e6),
    Parameter("fade_to", "Fades to", Kind.NUMBER, 0.0, "At which distance they are gone; 0 lets nothing fade", "px",
              0, 1e6),
)  # fmt: skip


def _box(values: Mapping[str, Value], scene: Scene) -> Box:
    return -40.0, -40.0, 40.0, 40.0


def _draw(values: Mapping[str, Value], scene: Scene, matrix: Affine, clip: Box) -> LayerImage | None:
    return None


def _added(width: int, height: int) -> Mapping[str, Any]:
    """Return the default camera's place, so that adding one changes nothing."""
    away = reach(width)
    return {"depth": True, "position_z": -away, "looks_at": (width / 2, height / 2), "focus": away}


register_kind(
    LayerKind("camera", "Camera", "What layers in depth are seen through", PARAMETERS, _box, _draw, unseen=True,
              sees=True, adds=(AddEntry("Camera", 303, values=_added),))
)
