"""How words fill their frame: as they are, as wide as a width, as large as a box holds, or stretched to fill it."""

from __future__ import annotations

from functools import lru_cache

from attrs import evolve, field, frozen

from spiralis.core.cache import Beside
from spiralis.core.geometry import Affine, Box, box_around
from spiralis.core.model import Project, Source
from spiralis.core.raster.fonts import shaper
from spiralis.core.raster.setting import Letter, Manner, Setting
from spiralis.core.raster.typesetting import set_words

_SMALLEST, _FITS = 1.0, 18


@lru_cache(maxsize=256)
def typeset(project_key: object, text: str, manner: Manner) -> Setting:
    """Return the words as set. ``project_key`` wraps the project whose fonts may be used (see ``FontsOf``)."""
    assert isinstance(project_key, FontsOf)
    project = project_key.project
    if manner.flow == "fit width":
        return _fit_width(project_key, text, manner)
    if manner.flow == "fit box":
        return _fit_box(project, text, manner)
    if manner.flow == "stretch":
        return _stretched(project_key, text, manner)
    return set_words(project, text, manner)


@frozen
class FontsOf:
    """A project of nothing but the fonts that one brings along: two versions with the same fonts are equal."""

    project: Project = field(eq=False)
    fonts: tuple[str, ...] = ()

    @staticmethod
    def of(project: Project) -> FontsOf:
        """Return the fonts of a project; the rest of it is not kept alive."""
        return _fonts_of(project.fonts)


@lru_cache(maxsize=16)
def _fonts_of(fonts: tuple[Source, ...]) -> FontsOf:
    return FontsOf(Project("Fonts", (), fonts), tuple(source.digest for source in fonts))


def _plain(fonts: FontsOf, text: str, manner: Manner) -> Setting:
    """Return the words in plain lines, whatever frame they are to be fitted to: the very same setting for all."""
    return typeset(fonts, text, evolve(manner, flow="lines", arc=0.0, path=None, frame=(0.0, 0.0)))


def _fit_width(fonts: FontsOf, text: str, manner: Manner) -> Setting:
    """Everything grows with the size alike, so one measure gives the size at which the widest line fills the frame."""
    widest = max((line.width for line in _plain(fonts, text, manner).lines), default=0.0)
    if widest <= 0:
        return set_words(fonts.project, text, evolve(manner, flow="lines"))
    size = max(manner.size * manner.frame[0] / widest, _SMALLEST)
    return set_words(fonts.project, text, evolve(manner, size=size, flow="lines"))


#: The box around the letters of a setting, in a list beside it.
_inks: Beside[list[Box]] = Beside(list)


def stretching(fonts: FontsOf, text: str, manner: Manner) -> tuple[Setting, Affine | None]:
    """Return words set plainly, and the map that stretches what is inked of them until it fills the frame exactly.

    There is none where nothing is inked.
    """
    plain = _plain(fonts, text, manner)
    width, height = manner.frame
    ink = _inks.of(plain)
    if not ink:
        ink.append(ink_of(plain))
    left, top, right, bottom = ink[0]
    if right - left < 1e-6 or bottom - top < 1e-6:
        return plain, None
    return plain, Affine.scaling(width / (right - left), height / (bottom - top)) @ Affine.shift(-left, -top)


def _stretched(fonts: FontsOf, text: str, manner: Manner) -> Setting:
    width, height = manner.frame
    plain, fit = stretching(fonts, text, manner)
    if fit is None:
        return evolve(plain, box=(0.0, 0.0, width, height))
    letters = tuple(Letter(y.at, y.glyph, fit @ y.matrix, y.colour, y.cluster) for y in plain.letters)
    carets = tuple((*fit.apply(x, y), turn) for x, y, turn in plain.carets)
    lines, marked = (tuple(line.stretched(fit) for line in held) for held in (plain.lines, plain.marked))
    return Setting(letters, lines, (0.0, 0.0, width, height), plain.size, carets, marked)


def ink_of(setting: Setting) -> Box:
    """Return the box around the outlines of all letters, or an empty one."""
    boxes = []
    for letter in setting.letters:
        extents = shaper(letter.at)[0].get_glyph_extents(letter.glyph)
        if extents is not None and extents.width:
            x, y = float(extents.x_bearing), float(extents.y_bearing)
            boxes.append(letter.matrix.box((x, y + extents.height, x + extents.width, y)))
    if not boxes:
        return 0.0, 0.0, 0.0, 0.0
    return box_around(boxes)


def _fit_box(project: Project, text: str, manner: Manner) -> Setting:
    """Bisect for the largest size at which the wrapped words stay within the frame."""
    low, high = _SMALLEST, max(manner.frame[1] * 1.6, 2 * _SMALLEST)
    for _ in range(_FITS):
        middle = (low + high) / 2
        made = set_words(project, text, evolve(manner, size=middle, flow="box", stands="top"))
        height = made.lines[-1].baseline + made.lines[-1].descent if made.lines else 0.0
        widest = max((line.width for line in made.lines), default=0.0)
        fits = height <= manner.frame[1] and widest <= manner.frame[0] and not _breaks_words(text, made)
        low, high = (middle, high) if fits else (low, middle)
    return set_words(project, text, evolve(manner, size=low, flow="box"))


def _breaks_words(text: str, made: Setting) -> bool:
    """Whether a line ends within a word, as happens where one word is wider than the frame."""
    ends = (line.last for line in made.lines[:-1])
    return any(0 < end < len(text) and text[end - 1].isalnum() and text[end].isalnum() for end in ends)
