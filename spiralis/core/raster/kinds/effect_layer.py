"""Effect layer: shows nothing itself and changes all that lies beneath it: softness, saturation and the like."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np

from spiralis.core.geometry import Affine, Box
from spiralis.core.model.kinds import LayerKind, register_kind
from spiralis.core.model.parameter import Kind, Parameter, Value
from spiralis.core.raster.blurring import blurred, reduction_for
from spiralis.core.raster.drawing import Drawing, Scene

_LUMA = np.array([0.2126, 0.7152, 0.0722], dtype=np.float32)

PARAMETERS = (
    Parameter("softness", "Softness", Kind.NUMBER, 0.0, "Blurs what lies beneath: the sigma of a Gaussian", "px",
              0, 500, family="effects"),
    Parameter("saturation", "Saturation", Kind.NUMBER, 100.0, "0 % is grey, 200 % doubly colourful", "%", 0, 400,
              family="effects"),
    Parameter("brightness", "Brightness", Kind.NUMBER, 100.0, "Multiplies all channels", "%", 0, 400, family="effects"),
    Parameter("contrast", "Contrast", Kind.NUMBER, 100.0, "Stretches values about middle grey", "%", 0, 400,
              family="effects"),
)  # fmt: skip


def changed(pixels: np.ndarray, values: Mapping[str, Value], scale: float) -> np.ndarray:
    """Return premultiplied float32 (h, w, 4) pixels softened and graded; alpha changes by softness alone."""
    if values["softness"] > 0:
        pixels = _soft(pixels, values["softness"] * scale)
    saturation, brightness, contrast = (
        np.float32(values[name] / 100) for name in ("saturation", "brightness", "contrast")
    )
    if saturation == 1 and brightness == 1 and contrast == 1:
        return pixels
    bright, alpha = pixels[..., :3] * brightness, pixels[..., 3:]
    grey = (bright @ _LUMA)[..., None]
    vivid = grey + (bright - grey) * saturation
    middle = alpha * np.float32(0.5)
    graded = np.maximum(middle + (vivid - middle) * contrast, np.float32(0))
    return np.concatenate([graded, alpha], axis=-1)


def _soft(pixels: np.ndarray, sigma: float) -> np.ndarray:
    """Blur with the edge repeated outwards, so that the frame's rim neither darkens nor fades."""
    height, width = pixels.shape[:2]
    halvings = reduction_for(sigma)
    size = 2**halvings
    reach = int(np.ceil(3.5 * sigma / size)) + 2
    rows, columns = -(-height // size) * size, -(-width // size) * size
    padded = np.pad(pixels, ((0, rows - height), (0, columns - width), (0, 0)), mode="edge")
    small = padded.reshape(rows // size, size, columns // size, size, 4).mean(axis=(1, 3), dtype=np.float32)
    small = np.pad(small, ((reach, reach), (reach, reach), (0, 0)), mode="edge")
    soft = blurred(small, sigma / size, sigma / size, enlarged=halvings > 0)
    if not halvings:
        return np.ascontiguousarray(soft[reach:-reach, reach:-reach][:height, :width])
    y = np.clip((np.arange(height) + 0.5) / size - 0.5 + reach, 0, soft.shape[0] - 1.001)
    x = np.clip((np.arange(width) + 0.5) / size - 0.5 + reach, 0, soft.shape[1] - 1.001)
    return _enlarged(soft, y, x)


def _enlarged(soft: np.ndarray, y: np.ndarray, x: np.ndarray) -> np.ndarray:
    """Sample a small picture bilinearly at rows y and columns x."""
    iy, ix = y.astype(np.intp), x.astype(np.intp)
    fy, fx = (y - iy).astype(np.float32)[:, None, None], (x - ix).astype(np.float32)[None, :, None]
    tall = soft[iy] * (1 - fy) + soft[iy + 1] * fy
    return tall[:, ix] * (1 - fx) + tall[:, ix + 1] * fx


def _box(values: Mapping[str, Value], scene: Scene) -> Box:
    return 0.0, 0.0, float(scene.width), float(scene.height)


def _draw(values: Mapping[str, Value], scene: Scene, matrix: Affine, clip: Box) -> Drawing | None:
    return None


register_kind(
    LayerKind(
        "effect", "Effect layer", "Changes all that lies beneath it", PARAMETERS, _box, _draw, fills_frame=True,
        beneath=changed,
    )
)  # fmt: skip
