"""Text: words in lines, boxes or along a curve, drawn from outlines with the layer's final matrix so that they stay
crisp."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any

import numpy as np
import skia
from attrs import frozen

from spiralis.core.cache import Beside, CacheSection
from spiralis.core.colour import Colour
from spiralis.core.geometry import Affine, Box, box_around, boxes_under
from spiralis.core.model.adding import AddEntry
from spiralis.core.model.art import EMPTY_ART, Bundle, Contour, Figure, Stroke, figures_of
from spiralis.core.model.kinds import LayerKind, register_kind
from spiralis.core.model.parameter import Kind, Parameter, Value
from spiralis.core.model.project import Project
from spiralis.core.raster.bars import CARETS, PLATES, Bars, bars_of, has_bars
from spiralis.core.raster.bars import PARAMETERS as BARS
from spiralis.core.raster.bars import key_of as key_of_bars
from spiralis.core.raster.counting import COUNTS, SIGN, number_text
from spiralis.core.raster.counting import PARAMETERS as NUMBER
from spiralis.core.raster.fitting import FontsOf, ink_of, stretching, typeset
from spiralis.core.raster.fonts import DEFAULT_FAMILY, FaceAt, find_face
from spiralis.core.raster.layer_image import LayerImage, Scene
from spiralis.core.raster.outlines import Filling, Outline, OutlinePen, Outlines
from spiralis.core.raster.raster import Raster
from spiralis.core.raster.setting import Letter, Manner, Setting
from spiralis.core.raster.shaping import ALIGNMENTS, glyph_contours, glyph_outline, glyph_path
from spiralis.core.raster.signs import Sign, draw_signs, reach
from spiralis.core.raster.silhouettes import THICKNESS
from spiralis.core.raster.spreading_letters import PARAMETERS as SPREAD
from spiralis.core.raster.spreading_letters import Spread, spread, spread_letters
from spiralis.core.raster.stamps import Stamp, play, recorded, stamped
from spiralis.core.raster.typesetting import CAPS, FLOWS, STANDS
from spiralis.core.raster.vectors import art_box, draw_item, skia_matrix

_FRAMED = ("flow", FLOWS[1:])
_STRAIGHT = ("flow", FLOWS[:3])

PARAMETERS = (
    Parameter("text", "Words", Kind.TEXT, "Text", "What is written; several lines if you like"),
    *NUMBER,
    Parameter("font", "Font", Kind.FONT, DEFAULT_FAMILY, "The family the words are set in"),
    Parameter("weight", "Weight", Kind.NUMBER, 400.0, "Thickness: 400 is upright, 700 is bold", "", 100, 1000, 100,
              worn=True),
    Parameter("width_axis", "Width", Kind.NUMBER, 100.0, "Breadth of the letters, where the font varies in it", "%",
              25, 200, worn=True),
    Parameter("slant_axis", "Slant", Kind.NUMBER, 0.0, "Lean of the letters, where the font varies in it", "°",
              -90, 90, worn=True),
    Parameter("size", "Size", Kind.NUMBER, 120.0, "Height of the type", "px", 1, 5000,
              needs=("flow", ("lines", "box"))),
    Parameter("flow", "Setting", Kind.CHOICE, "lines",
              "Lines as typed, wrapped in a box, as wide as a width, as large as a box holds, or stretched to fill it",
              choices=FLOWS),
    Parameter("frame", "Box", Kind.PAIR, (600.0, 300.0), "Width and height of the box", "px", 1, 20_000,
              needs=_FRAMED),
    Parameter("tracking", "Tracking", Kind.NUMBER, 0.0, "Space between letters, in thousandths of the size", "",
              -500, 5000, 5, worn=True),
    Parameter("leading", "Leading", Kind.NUMBER, 110.0, "Distance of the lines beside the size", "%", 10, 1000,
              worn=True),
    Parameter("rise", "Baseline", Kind.NUMBER, 0.0, "Lifts the letters off their line, beside the size", "%",
              -500, 500),
    Parameter("alignment", "Align", Kind.CHOICE, "centre", "Which edge the lines share", choices=ALIGNMENTS),
    Parameter("stands", "Stands", Kind.CHOICE, "top", "Where in their box the words stand, up and down",
              choices=tuple(STANDS), needs=("flow", ("box", "fit box"))),
    Parameter("caps", "Capitals", Kind.CHOICE, "as typed", "As typed, all capitals, or small ones", choices=CAPS,
              worn=True),
    Parameter("arc", "Arc", Kind.NUMBER, 0.0, "Bends the line: how far it turns from its first to its last letter", "°",
              -1080, 1080, needs=_STRAIGHT),
    Parameter("path_layer", "Runs along", Kind.LAYER, "", "The shape whose outline the words run along, wherever it is",
              steady=True),
    Parameter("path", "Path", Kind.ART, EMPTY_ART, "The outline that the words run along"),
    Parameter("along", "Along", Kind.NUMBER, 0.0, "Where on the path the words begin", "%"),
    Parameter("runs", "Own looks", Kind.RUNS, (), "Letters that look otherwise than the rest, or are marked"),
    Parameter("fill", "Fill", Kind.COLOUR, (1.0, 1.0, 1.0, 1.0), "Colour of the letters"),
    Parameter("stroke", "Stroke", Kind.NUMBER, 0.0, "Width of a line around the letters, behind their fill", "px",
              0, 1000, worn=True),
    Parameter("stroke_colour", "Stroke colour", Kind.COLOUR, (0.0, 0.0, 0.0, 1.0), "Colour of that line"),
    *BARS,
    *SPREAD,
    *THICKNESS,
)  # fmt: skip

_AXES = {"width_axis": "wdth", "slant_axis": "slnt"}
_stamps: CacheSection[_Words | None] = CacheSection(lambda stamp: 256 + (stamp.size if stamp is not None else 0))


def path_of(values: Mapping[str, Value]) -> Contour | None:
    """Return the contour that the words run along, or None."""
    contours = [contour for figure in figures_of(values["path"]) for contour in figure.contours]
    return contours[0] if contours and len(contours[0].vertices) > 1 else None


def manner_of(values: Mapping[str, Value]) -> Manner:
    """Return how a text layer with these values is set."""
    return Manner(
        values["font"], values["weight"], values["size"], values["tracking"], values["leading"], values["rise"],
        values["alignment"], values["caps"], values["flow"], values["frame"], values["arc"], path_of(values),
        values["along"] / 100, tuple((tag, values[name]) for name, tag in _AXES.items()), values["fill"],
        values["runs"], number_text(values), values["stands"],
    )  # fmt: skip


def setting_of(values: Mapping[str, Value], scene: Scene) -> Setting:
    """Return the words of a text layer with these values as they are set."""
    return typeset(FontsOf.of(scene.project), values["text"], manner_of(values))


def figures_of_words(values: Mapping[str, Value], scene: Scene) -> Bundle:
    """Return the letters as outlines: one figure for each colour, the stroke behind the fill; and their bars.

    Signs that bring their own colours have none; ``coloured_signs`` tells which those are.
    """
    by_colour: dict[Colour, list[Contour]] = {}
    setting = setting_of(values, scene)
    bars = bars_of(setting, values)
    for letter, _ in spread_letters(setting, values):
        if letter.at.face.coloured:
            continue
        contours = (contour.mapped(letter.matrix) for contour in glyph_contours(letter.at, letter.glyph))
        by_colour.setdefault(letter.colour, []).extend(contours)
    pen = Stroke(values["stroke_colour"], values["stroke"], join="round") if values["stroke"] > 0 else None
    figures = (Figure(tuple(c), colour, stroke=pen, stroke_first=True) for colour, c in by_colour.items() if c)
    return Bundle((*bars.behind, *figures, *bars.before))


def coloured_signs(values: Mapping[str, Value], scene: Scene) -> str:
    """Return the signs among the words that bring their own colours, each once."""
    text, letters = values["text"], setting_of(values, scene).letters
    starts = sorted({letter.cluster for letter in letters})
    ends = dict(zip(starts, [*starts[1:], len(text)], strict=True))
    found = [text[y.cluster : ends[y.cluster]].strip() for y in letters if y.at.face.coloured]
    return " ".join(dict.fromkeys(found))


def _reads(values: Mapping[str, Value], scene: Scene) -> tuple[str, float, Box]:
    """Return the words, the height of their type and the box of their letters, in the layer's units."""
    setting = setting_of(values, scene)
    number = number_text(values)
    return values["text"].replace(SIGN, number) if number else values["text"], setting.size, ink_of(setting)


def _applies(name: str, values: Mapping[str, Value], project: Project) -> bool:
    """Whether a property matters: the font has that axis, there is a path, there are runs."""
    if name in _AXES:
        return find_face(project, values["font"], values["weight"]).face.has_axis(_AXES[name])
    if name == "along":
        return path_of(values) is not None
    if name == "path":
        return path_of(values) is not None and not values["path_layer"]
    return name != "runs" or bool(values["runs"])


def _box(values: Mapping[str, Value], scene: Scene) -> Box:
    if values["path_layer"]:
        # It must not depend on the outline, which is looked up by where the words are.
        return 0.0, 0.0, float(scene.width), float(scene.height)
    if values["flow"] == "stretch":
        return 0.0, 0.0, *values["frame"]
    return setting_of(values, scene).box


def _stamp(values: Mapping[str, Value], scene: Scene) -> _Words | None:
    """Return what words look like under any map; None where nothing is read."""
    return _stamp_by(_key(setting_of(values, scene), values), values)


def _key(setting: Setting, values: Mapping[str, Value]) -> tuple[Any, ...]:
    """Return what decides how words look that are set so: the setting first."""
    away = tuple(values[parameter.name] for parameter in SPREAD) if values["spread_by"] != "none" else ()
    return setting, values["stroke"], values["stroke_colour"], away, key_of_bars(values)


def _stamp_by(key: tuple[Any, ...], values: Mapping[str, Value]) -> _Words | None:
    return _stamps.get(key, lambda: _stamp_of(key[0], values))


def _draw(values: Mapping[str, Value], scene: Scene, matrix: Affine, clip: Box) -> LayerImage | None:
    plain = values["stroke"] <= 0 and values["spread_by"] == "none" and not has_bars(values)
    if values["flow"] == "stretch" and plain:
        return _draw_stretched(values, scene, matrix, clip)
    key = _key(setting_of(values, scene), values)
    stamp = _stamp_by(key, values)
    return stamped(stamp, key, matrix, clip) if stamp is not None else None


def _draw_stretched(values: Mapping[str, Value], scene: Scene, matrix: Affine, clip: Box) -> LayerImage | None:
    """Draw words that fill their frame: recorded as they are plainly set, whatever frame they come to fill."""
    plain, fit = stretching(FontsOf.of(scene.project), values["text"], manner_of(values))
    key, inverse = _key(plain, values), matrix.inverse()
    stamp = _stamp_by(key, values)
    drawn = stamped(stamp, key, matrix @ fit, clip) if stamp is not None and fit is not None else None
    return Raster(drawn.data, inverse, drawn.corner) if drawn is not None and inverse is not None else None


@frozen(eq=False)
class _Glyphs:
    """The outlines of a setting's letters in the font's units, y up, and which is whose (n,): one without curves where
    nothing is drawn. ``signs`` are those letters that bring their own colours."""

    outlines: Outlines
    which: np.ndarray
    signs: tuple[int, ...]


_glyphs: Beside[list[_Glyphs]] = Beside(list)


def _glyphs_of(setting: Setting) -> _Glyphs:
    held = _glyphs.of(setting)
    if not held:
        nothing, places = OutlinePen().done(), dict[Outline, int]()
        drawn = [nothing if y.at.face.coloured else glyph_outline(y.at, y.glyph) for y in setting.letters]
        which = np.array([places.setdefault(outline, len(places)) for outline in drawn], dtype=np.int64)
        signs = tuple(n for n, y in enumerate(setting.letters) if y.at.face.coloured)
        held.append(_Glyphs(Outlines.of(tuple(places)), which, signs))
    return held[0]


@frozen(eq=False)
class _Words(Stamp):
    """Letters filled with their colours; behind all of them plates and the lines around them, before them signs of
    their own colours and what is drawn through them."""

    behind: Any
    letters: Filling
    before: Any

    @property
    def size(self) -> int:
        """How many bytes it takes."""
        return self.letters.size + sum(y.approximateBytesUsed() for y in (self.behind, self.before) if y is not None)

    def draw(self, data: np.ndarray, matrix: Affine) -> None:
        """Draw them, as a stamp does."""
        if self.behind is not None:
            play(data, self.behind, matrix)
        self.letters.draw(data, matrix)
        if self.before is not None:
            play(data, self.before, matrix)


def _stamp_of(setting: Setting, values: Mapping[str, Value]) -> _Words | None:
    """Return words as they are drawn: letters of one colour (their opacity counts to it) together, in the order in
    which the colours first come."""
    now, glyphs, stroke = spread(setting, values), _glyphs_of(setting), values["stroke"]
    bars = bars_of(setting, values)
    which = glyphs.which[now.shows]
    boxes = glyphs.outlines.boxes[which]
    chosen = np.flatnonzero((now.opacity > 0) & (boxes[:, 2] > boxes[:, 0]))
    signs = [_sign(setting.letters[n], n, now) for n in glyphs.signs if now.opacity[n] > 0]
    ink = _ink(now.maps[chosen], boxes[chosen], signs, stroke, bars)
    if ink is None:
        return None
    steps = np.round(np.minimum(now.opacity, 1) * _STEPS).astype(np.int64)
    order, ends = _grouped(chosen, now.alike * (_STEPS + 1) + steps)
    firsts = order[ends[:-1]]
    colours = now.colours[firsts]
    colours[:, 3] *= steps[firsts] / _STEPS
    letters = Filling(glyphs.outlines, which[order], np.ascontiguousarray(now.maps[order]), ends, colours)
    shown = [setting.letters[n] for n in now.shows[order].tolist()] if stroke > 0 else []
    drawn = [(letter.at, letter.glyph) for letter in shown]
    colour = values["stroke_colour"]

    def behind(canvas: Any) -> None:
        draw_item(canvas, Bundle(bars.behind))
        if stroke > 0:
            _draw_lines(canvas, drawn, letters, stroke, colour)

    def before(canvas: Any) -> None:
        draw_signs(canvas, signs)
        draw_item(canvas, Bundle(bars.before))

    return _Words(
        ink, recorded(behind) if bars.behind or stroke > 0 else None, letters,
        recorded(before) if signs or bars.before else None,
    )  # fmt: skip


#: Opacities of letters are told apart in so many steps.
_STEPS = 10_000


def _grouped(chosen: np.ndarray, numbers: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """Return some letters (n,) by the numbers of all, in the order in which those first come, and the place where each
    group begins, with the end of the last."""
    _, firsts, which, counts = np.unique(numbers[chosen], return_index=True, return_inverse=True, return_counts=True)
    order = np.argsort(firsts[which], kind="stable")
    return chosen[order], np.concatenate([[0], np.cumsum(counts[np.argsort(firsts)])])


def _draw_lines(
    canvas: Any, glyphs: Sequence[tuple[FaceAt, int]], letters: Filling, width: float, colour: Colour
) -> None:
    """Draw the lines around letters, those of one group as one."""
    pen = skia.Paint(AntiAlias=True, StrokeWidth=width)
    pen.setStyle(skia.Paint.kStroke_Style)
    pen.setStrokeJoin(skia.Paint.kRound_Join)
    for begin, end, inner in zip(letters.groups, letters.groups[1:], letters.colours.tolist(), strict=False):
        path = skia.Path()
        for glyph, row in zip(glyphs[begin:end], letters.maps[begin:end].tolist(), strict=True):
            # Letters have their y upwards in fonts, and downwards in Skia's outlines.
            path.addPath(glyph_path(*glyph), skia_matrix(Affine(*row) @ Affine.scaling(1, -1)))
        pen.setColor4f(skia.Color4f(*colour[:3], colour[3] * inner[3]), None)
        canvas.drawPath(path, pen)


def _sign(letter: Letter, n: int, now: Spread) -> Sign:
    colour: Colour = tuple(now.colours[n].tolist())
    moved = Letter(letter.at, letter.glyph, Affine(*now.maps[n].tolist()), colour, letter.cluster)
    return moved, float(now.opacity[n])


def _ink(maps: np.ndarray, boxes: np.ndarray, signs: list[Sign], stroke: float, bars: Bars) -> Box | None:
    """Return a box around all that is drawn, in the layer's units."""
    found = []
    if len(maps):
        under, more = boxes_under(maps, boxes), stroke / 2
        (left, top), (right, bottom) = under[:, :2].min(axis=0).tolist(), under[:, 2:].max(axis=0).tolist()
        found.append((left - more, top - more, right + more, bottom + more))
    around = reach(signs)
    found += [box for box in (around, art_box(Bundle(bars.behind + bars.before))) if box is not None]
    return box_around(found) if found else None


def _counting(width: int, height: int) -> Mapping[str, Value]:
    size = float(round(min(width, height) / 5))
    return {"text": SIGN, "number_form": COUNTS, "number": 100.0, "size": size, "weight": 700.0}


def _plated(width: int, height: int) -> Mapping[str, Value]:
    size = float(round(min(width, height) / 12))
    room = {"plate_room": (round(0.5 * size), round(0.35 * size)), "plate_corners": float(round(0.3 * size))}
    return {"text": "Words on a plate", "size": size, "weight": 700.0, "plate": PLATES[2], **room}


def _typed(width: int, height: int) -> Mapping[str, Value]:
    away = {"spread_by": "letters", "spread_at_once": True, "spread_place": (0.0, 0.0)}
    return {"text": "Typed words", "size": float(round(min(width, height) / 12)), "caret": CARETS[1], **away}


register_kind(
    LayerKind("text", "Text", "Words in any shipped or imported font", PARAMETERS, _box, _draw, applies=_applies,
              vector=True, stamp=_stamp, outlines=figures_of_words, reads=_reads,
              resizes=lambda values: "frame" if values["flow"] != "lines" and not values["path_layer"] else "",
              adds=(AddEntry("Counting number", 190, values=_counting,
                             keys={"number_counted": ((0.0, 0.0), (0.5, 100.0))}),
                    AddEntry("Words on a plate", 191, values=_plated),
                    AddEntry("Typed words", 192, values=_typed, keys={"spread": ((0.0, 0.0), (0.5, 100.0))},
                             even=True)))
)
