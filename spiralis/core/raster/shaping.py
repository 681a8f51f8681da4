"""Lay text out in lines with HarfBuzz and turn it into one outline."""

from __future__ import annotations

from functools import lru_cache
from typing import Any

import skia
import uharfbuzz as hb
from attrs import frozen

from spiralis.core.cache import CacheSection
from spiralis.core.geometry import Affine, Box
from spiralis.core.model.art import Contour, ContourPen
from spiralis.core.raster.fonts import FaceAt, shaper
from spiralis.core.raster.outlines import Outline, OutlinePen

ALIGNMENTS = ("left", "centre", "right")


@frozen
class Glyph:
    """A shaped glyph at its place, in pixels; ``cluster`` is the index of its first letter in the text."""

    glyph_id: int
    cluster: int
    x: float
    y: float
    advance: float


@frozen
class Layout:
    """Shaped lines: glyphs of each, where each begins, the box (0, 0, width, height) and the metrics in px."""

    lines: tuple[tuple[Glyph, ...], ...]
    starts: tuple[float, ...]
    widths: tuple[float, ...]
    width: float
    height: float
    ascent: float
    descent: float
    leading: float

    @property
    def box(self) -> Box:
        """The layout box; ink may leave it."""
        return 0.0, 0.0, self.width, self.height


@lru_cache(maxsize=512)
def lay_out(text: str, at: FaceAt, size: float, tracking: float, leading: float, alignment: str) -> Layout:
    """Shape text into lines.

    Args:
        text: lines parted by newlines.
        size: em size in px.
        tracking: space added between letters, in thousandths of an em; ligatures are off where it is not 0.
        leading: distance of the lines in percent of the size.
        alignment: one of ALIGNMENTS.
    """
    font, upem = shaper(at)
    unit = size / upem
    extents = font.get_font_extents("ltr")
    ascent, descent = extents.ascender * unit, -extents.descender * unit
    lines, widths, start = [], [], 0
    for index, line in enumerate(text.split("\n")):
        baseline = ascent + index * size * leading / 100
        glyphs, width = _shape_line(font, line, start, unit, tracking * size / 1000, baseline)
        lines.append(glyphs)
        widths.append(width)
        start += len(line) + 1
    widest = max(widths)
    share = {"left": 0.0, "centre": 0.5, "right": 1.0}[alignment]
    starts = tuple(share * (widest - width) for width in widths)
    height = ascent + descent + (len(lines) - 1) * size * leading / 100
    line_height = size * leading / 100
    return Layout(tuple(lines), starts, tuple(widths), widest, height, ascent, descent, line_height)


def _shape_line(
    font: hb.Font, line: str, start: int, unit: float, gap: float, baseline: float
) -> tuple[tuple[Glyph, ...], float]:
    if not line:
        return (), 0.0
    buffer = hb.Buffer()
    buffer.cluster_level = hb.BufferClusterLevel.MONOTONE_CHARACTERS
    buffer.add_str(line)
    buffer.guess_segment_properties()
    hb.shape(font, buffer, {"kern": True, "liga": gap == 0, "clig": gap == 0})
    glyphs, x = [], 0.0
    for info, position in zip(buffer.glyph_infos, buffer.glyph_positions, strict=True):
        advance = position.x_advance * unit + gap
        glyphs.append(
            Glyph(
                info.codepoint,
                start + info.cluster,
                x + position.x_offset * unit,
                baseline - position.y_offset * unit,
                advance,
            )
        )
        x += advance
    return tuple(glyphs), max(x - gap, 0.0)


class _PathPen:
    """Draws a glyph's outline into a Skia path; the method names are those of the pen protocol."""

    def __init__(self, path: Any) -> None:
        self.path = path

    def moveTo(self, point: tuple[float, float]) -> None:
        self.path.moveTo(point[0], -point[1])

    def lineTo(self, point: tuple[float, float]) -> None:
        self.path.lineTo(point[0], -point[1])

    def qCurveTo(self, *points: tuple[float, float]) -> None:
        (x1, y1), (x2, y2) = points
        self.path.quadTo(x1, -y1, x2, -y2)

    def curveTo(self, *points: tuple[float, float]) -> None:
        (x1, y1), (x2, y2), (x3, y3) = points
        self.path.cubicTo(x1, -y1, x2, -y2, x3, -y3)

    def closePath(self) -> None:
        self.path.close()

    def endPath(self) -> None:
        """An open contour ends where it ends."""


_glyphs: CacheSection[Any] = CacheSection(lambda path: path.approximateBytesUsed())
_arrays: CacheSection[Outline] = CacheSection(lambda outline: outline.size)
_outlines: CacheSection[Any] = CacheSection(lambda path: path.approximateBytesUsed())


def glyph_path(at: FaceAt, glyph_id: int) -> Any:
    """Return a glyph's outline in the font's units, y down; it must not be changed."""

    def make() -> Any:
        path = skia.Path()
        shaper(at)[0].draw_glyph_with_pen(glyph_id, _PathPen(path))
        return path

    return _glyphs.get((at.key, glyph_id), make)


def glyph_outline(at: FaceAt, glyph_id: int) -> Outline:
    """Return a glyph's outline in the font's units, y up, as arrays."""

    def make() -> Outline:
        pen = OutlinePen()
        shaper(at)[0].draw_glyph_with_pen(glyph_id, pen)
        return pen.done()

    return _arrays.get((at.key, glyph_id), make)


def glyph_contours(at: FaceAt, glyph_id: int) -> tuple[Contour, ...]:
    """Return a glyph's outline as contours in the font's units, y up."""
    pen = ContourPen()
    shaper(at)[0].draw_glyph_with_pen(glyph_id, pen)
    return pen.done()


def outline(layout: Layout, at: FaceAt, size: float) -> Any:
    """Return the layout's outline as one Skia path in px; the path must not be changed."""

    def make() -> Any:
        unit = size / shaper(at)[1]
        whole = skia.Path()
        for glyphs, start in zip(layout.lines, layout.starts, strict=True):
            for glyph in glyphs:
                matrix = skia.Matrix()
                matrix.setScaleTranslate(unit, unit, start + glyph.x, glyph.y)
                whole.addPath(glyph_path(at, glyph.glyph_id), matrix)
        return whole

    return _outlines.get((layout, at.key, size), make)


def outline_contours(layout: Layout, at: FaceAt, size: float, slant: float = 0.0) -> tuple[Contour, ...]:
    """Return the layout's outline as contours in px, slanted by ``slant`` px a px of height."""
    unit = size / shaper(at)[1]
    contours: list[Contour] = []
    for glyphs, start in zip(layout.lines, layout.starts, strict=True):
        for glyph in glyphs:
            placed = Affine(unit, 0, slant * unit, -unit, start + glyph.x, glyph.y)
            contours += [contour.mapped(placed) for contour in glyph_contours(at, glyph.glyph_id)]
    return tuple(contours)
