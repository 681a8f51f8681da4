"""Pattern: stripes, checks, dots or a repeated word over the whole frame; shifting it by whole steps loops."""

from __future__ import annotations

import math
from collections.abc import Mapping

import numpy as np
import skia

from spiralis.core.cache import CacheSection
from spiralis.core.geometry import Affine, Box, intersect, rounded_out
from spiralis.core.model.adding import AddEntry
from spiralis.core.model.kinds import LayerKind, register_kind
from spiralis.core.model.parameter import Kind, Parameter, Value
from spiralis.core.raster.fonts import DEFAULT_FAMILY, find_face
from spiralis.core.raster.layer_image import LayerImage, Scene
from spiralis.core.raster.raster import Raster, clear_rim
from spiralis.core.raster.shaping import lay_out, outline
from spiralis.core.raster.vectors import skia_matrix

PATTERNS = ("stripes", "checks", "dots", "word")
_MOST_WORDS = 6000
_WORD = ("pattern", ("word",))

PARAMETERS = (
    Parameter("pattern", "Pattern", Kind.CHOICE, "stripes", "What repeats", choices=PATTERNS),
    Parameter("spacing", "Spacing", Kind.PAIR, (80.0, 80.0), "Size of one step across and down", "px", 2, 5000),
    Parameter("share", "Share", Kind.NUMBER, 50.0, "How much of each step is filled", "%", 0, 100),
    Parameter("angle", "Angle", Kind.NUMBER, 0.0, "Turn of the whole pattern", "°", period=360.0),
    Parameter("shift", "Shift", Kind.PAIR, (0.0, 0.0), "Moves the pattern, in steps: 100 % is where it began", "%",
              period=100.0),
    Parameter("stagger", "Stagger", Kind.NUMBER, 0.0, "Moves every other row along", "%", -100, 100,
              needs=("pattern", ("dots", "word"))),
    Parameter("fill", "Fill", Kind.COLOUR, (1.0, 1.0, 1.0, 0.25), "Colour of what repeats"),
    Parameter("ground", "Ground", Kind.COLOUR, (0.0, 0.0, 0.0, 0.0), "Colour between"),
    Parameter("word", "Word", Kind.TEXT, "kite", "What is written again and again", needs=_WORD),
    Parameter("font", "Font", Kind.FONT, DEFAULT_FAMILY, "Its family", needs=_WORD),
    Parameter("weight", "Weight", Kind.NUMBER, 700.0, "Its thickness", "", 100, 1000, 100, needs=_WORD),
)  # fmt: skip

_rasters: CacheSection[Raster] = CacheSection(lambda p: p.data.nbytes)


def _box(values: Mapping[str, Value], scene: Scene) -> Box:
    return 0.0, 0.0, float(scene.width), float(scene.height)


def _draw(values: Mapping[str, Value], scene: Scene, matrix: Affine, clip: Box) -> LayerImage | None:
    box = _box(values, scene)
    seen, inverse = intersect(matrix.box(box), clip), matrix.inverse()
    if seen is None or inverse is None:
        return None
    own = tuple(values[parameter.name] for parameter in PARAMETERS)
    face = find_face(scene.project, values["font"], values["weight"]).key if values["pattern"] == "word" else None
    key = (own, face, matrix, rounded_out(seen, 2.0), box)
    return _rasters.get(key, lambda: _made(values, scene, matrix, inverse, rounded_out(seen, 2.0)))


def _made(
    values: Mapping[str, Value], scene: Scene, matrix: Affine, inverse: Affine, area: tuple[int, int, int, int]
) -> Raster:
    left, top = area[:2]
    cover = _word_cover(values, scene, matrix, area) if values["pattern"] == "word" else _cover(values, inverse, area)
    cover = cover[..., None]
    fill, ground = (np.array((*(c * colour[3] for c in colour[:3]), colour[3]), dtype=np.float32)
                    for colour in (values["fill"], values["ground"]))  # fmt: skip
    pixels = fill * cover + ground * (1 - fill[3] * cover)
    frame = _frame_cover(scene, matrix, area)[..., None]
    pixels = np.ascontiguousarray(pixels * frame, dtype=np.float32)
    clear_rim(pixels)
    return Raster(pixels, inverse @ Affine.shift(left, top))


def _cover(values: Mapping[str, Value], inverse: Affine, area: tuple[int, int, int, int]) -> np.ndarray:
    """Return how much of each pixel the stripes, checks or dots cover, from the distance to their edges."""
    left, top, right, bottom = area
    x, y = np.meshgrid(np.arange(left, right) + 0.5, np.arange(top, bottom) + 0.5)
    to_steps = _to_steps(values) @ inverse
    u = to_steps.a * x + to_steps.c * y + to_steps.e
    v = to_steps.b * x + to_steps.d * y + to_steps.f
    share = values["share"] / 100
    # Steps a pixel: the width over which an edge goes from covered to clear.
    per_u, per_v = math.hypot(to_steps.a, to_steps.c), math.hypot(to_steps.b, to_steps.d)
    if values["pattern"] == "stripes":
        return _band(u, share, per_u)
    if values["pattern"] == "checks":
        first, second = _band(u, share, per_u), _band(v, share, per_v)
        return first + second - 2 * first * second
    u = u + np.where(np.floor(v).astype(np.int64) % 2 == 1, values["stagger"] / 100, 0.0)
    width, height = values["spacing"]
    px, py = (u % 1 - 0.5) * width, (v % 1 - 0.5) * height
    radius = share * min(width, height) / 2
    per_pixel = math.sqrt(abs(inverse.determinant))
    return np.clip((radius - np.hypot(px, py)) / per_pixel + 0.5, 0.0, 1.0)


def _band(u: np.ndarray, share: float, per_pixel: float) -> np.ndarray:
    """Return the mean over a pixel's width of a wave that is 1 for ``share`` of each step, from its integral."""

    def integral(at: np.ndarray) -> np.ndarray:
        whole = np.floor(at)
        return whole * share + np.minimum(at - whole, share)

    reach = max(per_pixel, 1e-9) / 2
    return (integral(u + reach) - integral(u - reach)) / (2 * reach)


def _to_steps(values: Mapping[str, Value]) -> Affine:
    """Return the map from the layer's units to steps of the pattern."""
    width, height = values["spacing"]
    shift = Affine.shift(-values["shift"][0] / 100, -values["shift"][1] / 100)
    return shift @ Affine.scaling(1 / width, 1 / height) @ Affine.rotation(-values["angle"])


def _canvas(area: tuple[int, int, int, int]) -> tuple[np.ndarray, skia.Canvas]:
    left, top, right, bottom = area
    cover = np.zeros((bottom - top, right - left), dtype=np.uint8)
    info = skia.ImageInfo.MakeA8(right - left, bottom - top)
    canvas = skia.Surface.MakeRasterDirect(info, cover).getCanvas()
    canvas.translate(-left, -top)
    return cover, canvas


def _frame_cover(scene: Scene, matrix: Affine, area: tuple[int, int, int, int]) -> np.ndarray:
    cover, canvas = _canvas(area)
    canvas.concat(skia_matrix(matrix))
    canvas.drawRect(skia.Rect.MakeWH(scene.width, scene.height), skia.Paint(AntiAlias=True))
    return cover * np.float32(1 / 255)


def _word_cover(
    values: Mapping[str, Value], scene: Scene, matrix: Affine, area: tuple[int, int, int, int]
) -> np.ndarray:
    """Return the coverage of a word written in every step, its size such that it fills ``share`` of the height."""
    cover, canvas = _canvas(area)
    steps = _to_steps(values)
    back = steps.inverse()
    if back is None or not values["word"].strip():
        return cover * np.float32(1 / 255)
    face = find_face(scene.project, values["font"], values["weight"])
    size = max(values["spacing"][1] * values["share"] / 100, 1.0)
    layout = lay_out(values["word"], face, size, 0.0, 100.0, "centre")
    path = outline(layout, face, size)
    left, top, right, bottom = (steps @ (matrix.inverse() or Affine())).box(tuple(float(v) for v in area))  # type: ignore[arg-type]
    canvas.concat(skia_matrix(matrix @ Affine.rotation(values["angle"])))
    pen = skia.Paint(AntiAlias=True)
    width, height = values["spacing"]
    count = 0
    for row in range(math.floor(top) - 1, math.ceil(bottom) + 1):
        slide = values["stagger"] / 100 if row % 2 else 0.0
        for column in range(math.floor(left) - 2, math.ceil(right) + 2):
            count += 1
            if count > _MOST_WORDS:
                return cover * np.float32(1 / 255)
            x = (column + 0.5 - slide + values["shift"][0] / 100) * width - layout.width / 2
            y = (row + 0.5 + values["shift"][1] / 100) * height - layout.height / 2
            canvas.save()
            canvas.translate(x, y)
            canvas.drawPath(path, pen)
            canvas.restore()
    return cover * np.float32(1 / 255)


register_kind(
    LayerKind(
        "pattern", "Pattern", "Stripes, checks, dots or a repeated word", PARAMETERS, _box, _draw, fills_frame=True,
        adds=(AddEntry("Pattern", 202),),
    )
)
