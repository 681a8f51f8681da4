"""Signs that bring their own colours: layered and bitmap glyphs, drawn by Skia."""

from __future__ import annotations

from collections.abc import Sequence
from functools import lru_cache
from typing import Any

import skia

from spiralis.core.geometry import Affine, Box, box_around
from spiralis.core.raster.fonts import FaceAt, shaper
from spiralis.core.raster.setting import Letter
from spiralis.core.raster.vectors import skia_matrix

#: A sign and its opacity.
Sign = tuple[Letter, float]
#: How far a sign may reach over its em square, in ems.
_OVER = 0.45


@lru_cache(maxsize=8)
def _typeface(digest: str, data: bytes) -> Any:
    return skia.Typeface.MakeFromData(skia.Data.MakeWithCopy(data))


@lru_cache(maxsize=8)
def _font(at: FaceAt) -> Any:
    """Return the face as Skia has it, at a size of one em of its own units."""
    font = skia.Font(_typeface(at.face.digest, at.face.data), float(shaper(at)[1]))
    font.setHinting(skia.FontHinting.kNone)
    font.setSubpixel(True)
    return font


def reach(signs: Sequence[Sign]) -> Box | None:
    """Return a box around signs in the layer's units, or None where there are none."""
    boxes = []
    for letter, _ in signs:
        em = float(shaper(letter.at)[1])
        boxes.append(letter.matrix.box((-_OVER * em, -_OVER * em, (1 + _OVER) * em, (1 + _OVER) * em)))
    return box_around(boxes) if boxes else None


def draw_signs(canvas: Any, signs: Sequence[Sign]) -> None:
    """Draw signs on a canvas whose map is that of the layer."""
    for letter, opacity in signs:
        canvas.save()
        canvas.concat(skia_matrix(letter.matrix @ Affine.scaling(1, -1)))
        builder = skia.TextBlobBuilder()
        builder.allocRunPos(_font(letter.at), [letter.glyph], [skia.Point(0, 0)])
        alpha = opacity * letter.colour[3]
        canvas.drawTextBlob(builder.make(), 0, 0, skia.Paint(AntiAlias=True, Alphaf=alpha))
        canvas.restore()
