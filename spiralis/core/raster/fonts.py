"""Font families: the shipped ones and those a project brings along."""

from __future__ import annotations

import hashlib
import threading
from functools import cache
from pathlib import Path

import uharfbuzz as hb
from attrs import field, frozen

from spiralis.core.errors import FontError
from spiralis.core.model.layer import Layer
from spiralis.core.model.project import Project
from spiralis.core.model.source import Source

FONT_FOLDER = Path(__file__).parents[2] / "assets" / "fonts"
DEFAULT_FAMILY = "Inter"
#: Numbers of names in a font (ISO/IEC 14496-22, "name").
_FAMILY, _TYPOGRAPHIC_FAMILY = 1, 16
#: What stands in for letters that the chosen family does not have, in this order.
FALLBACK_FAMILIES = (
    "Inter", "Noto Sans Arabic", "Noto Sans Hebrew", "Noto Sans Devanagari", "Noto Sans Thai",
    "Noto Color Emoji",
)  # fmt: skip


@frozen
class Face:
    """One font file: its family, its weight and, for a variable font, the range of each axis by its tag.

    Its ``digest`` tells it from others.
    """

    family: str
    weight: float
    axes: tuple[tuple[str, float, float], ...]
    digest: str
    data: bytes = field(repr=False, eq=False)
    letters: frozenset[int] = field(repr=False, eq=False, default=frozenset())
    #: Whether its signs bring their own colours (layered or as bitmaps).
    coloured: bool = False

    def has_axis(self, tag: str) -> bool:
        """Whether the face varies along an axis."""
        return any(axis[0] == tag for axis in self.axes)


@frozen
class FaceAt:
    """A face at a weight and other places on its axes: what shaping and outlines are asked of."""

    face: Face
    weight: float
    variations: tuple[tuple[str, float], ...] = ()

    @property
    def key(self) -> tuple[str, float, tuple[tuple[str, float], ...]]:
        """What tells it from others."""
        return self.face.digest, self.weight, self.variations


def read_face(data: bytes, name: str, digest: str = "") -> Face:
    """Read a TrueType or OpenType font (ISO/IEC 14496-22); its digest is that of its bytes, or the given one.

    Raises:
        FontError: the bytes are no font, or one without names or letters.
    """
    try:
        return _read(data, name, digest or hashlib.sha256(data).hexdigest()[:16])
    except (ValueError, hb.HarfBuzzError) as error:
        raise FontError(f"“{name}” is a broken font file; choose another copy of it.") from error


def _read(data: bytes, name: str, digest: str) -> Face:
    face = hb.Face(data)
    tables = set(face.table_tags)
    if not tables:
        raise FontError(f"“{name}” is not a font file that can be read; choose a .ttf or .otf file.")
    family, letters = family_of(face), frozenset(face.unicodes)
    if not family or not letters:
        raise FontError(f"“{name}” is a font without a name or letters; choose another.")
    # The table "OS/2" begins with its version, the mean width, and the weight, 16 bits each.
    metrics = face.reference_table("OS/2").data if "OS/2" in tables else b""
    weight = float(int.from_bytes(metrics[4:6], "big")) if len(metrics) >= 6 else 400.0
    axes = tuple((axis.tag, axis.min_value, axis.max_value) for axis in face.axis_infos)
    coloured = not tables.isdisjoint({"COLR", "CBDT", "sbix"})
    return Face(family, weight, axes, digest, data, letters, coloured)


def family_of(face: hb.Face) -> str:
    """Return the family's name of a font, in English where there is one; empty where it has none."""
    languages = {entry.name_id: entry.language for entry in reversed(face.list_names())}
    for number in (_TYPOGRAPHIC_FAMILY, _FAMILY):
        found: str = face.get_name(number) or face.get_name(number, languages.get(number, "en")) or ""
        if found:
            return found
    return ""


@cache
def shipped_faces() -> tuple[Face, ...]:
    """Return the faces that come with Spiralis, by family and weight."""
    files = sorted(path for path in FONT_FOLDER.iterdir() if path.suffix in (".ttf", ".otf"))
    faces = (read_face(path.read_bytes(), path.name, path.name) for path in files)
    return tuple(sorted(faces, key=lambda face: (face.family, face.weight)))


_own_faces: dict[str, Face] = {}


def project_faces(project: Project) -> tuple[Face, ...]:
    """Return the faces of the font files among a project's sources."""
    found = (face_of(source) for source in project.fonts)
    return tuple(face for face in found if face is not None)


def face_of(source: Source) -> Face | None:
    """Return the face of a font file, None where it is missing."""
    if source.data is None:
        return None
    if source.digest not in _own_faces:
        _own_faces[source.digest] = read_face(source.data, source.name, source.digest)
    return _own_faces[source.digest]


def families(project: Project) -> list[str]:
    """Return the names of all families at hand."""
    return sorted({face.family for face in (*shipped_faces(), *project_faces(project))})


def find_face(project: Project, family: str, weight: float, **axes: float) -> FaceAt:
    """Return the face of a family nearest in weight; the default family where there is none such.

    ``axes`` places a variable font on its other axes, by tag; those that it does not have are passed over.
    """
    faces = (*project_faces(project), *shipped_faces())
    matching = [face for face in faces if face.family == family]
    if not matching:
        matching = [face for face in faces if face.family == DEFAULT_FAMILY]
    best = min(matching, key=lambda face: not face.has_axis("wght") and abs(face.weight - weight))
    return at_axes(best, weight, **axes)


def at_axes(face: Face, weight: float, **axes: float) -> FaceAt:
    """Return a face at a weight and other axes, each kept within what the face has."""
    wanted = {"wght": weight, **axes}
    placed = {t: round(min(max(wanted[t], low), high), 1) for t, low, high in face.axes if t in wanted}
    others = tuple(sorted((tag, value) for tag, value in placed.items() if tag != "wght"))
    return FaceAt(face, placed.get("wght", face.weight), others)


def face_for(project: Project, at: FaceAt, letters: str) -> FaceAt:
    """Return a face that has all of these letters: the given one, one of the fallback families, or any other.

    What is to be a coloured sign (Unicode emoji presentation, or asked for by the selector U+FE0F) comes from a face
    that has it in colour, unless the given one has. Where none has them all, the given one is returned and shows its
    sign for what is missing.
    """
    wanted = {ord(letter) for letter in letters} - _INVISIBLE
    signs = "\ufe0f" in letters or ("\ufe0e" not in letters and any(_is_sign(code) for code in wanted))
    if wanted <= at.face.letters and not (signs and not at.face.coloured):
        return at
    faces = (*project_faces(project), *shipped_faces())
    order = {name: index for index, name in enumerate(FALLBACK_FAMILIES)}
    fitting = [face for face in faces if wanted <= face.letters]
    if not fitting or (wanted <= at.face.letters and not any(face.coloured for face in fitting)):
        return at
    last = len(order)

    def distance(face: Face) -> tuple[bool, int, str, float]:
        return signs and not face.coloured, order.get(face.family, last), face.family, abs(face.weight - at.weight)

    best = min(fitting, key=distance)
    return at_axes(best, at.weight)


def _is_sign(code: int) -> bool:
    """Whether a letter is a coloured sign by itself: the planes of pictographs (most of Emoji_Presentation)."""
    return 0x1F1E6 <= code <= 0x1F1FF or 0x1F300 <= code <= 0x1FAFF


def missing_letters(project: Project, family: str, weight: float, text: str) -> str:
    """Return the letters of a text that no face at hand has, each once, in their order."""
    at = find_face(project, family, weight)
    shown = [letter for letter in dict.fromkeys(text) if not letter.isspace() and ord(letter) not in _INVISIBLE]
    return "".join(letter for letter in shown if ord(letter) not in face_for(project, at, letter).face.letters)


#: Joiners, marks of direction and variation selectors, which need no glyph of their own.
_INVISIBLE = frozenset({0x200C, 0x200D, 0x200E, 0x200F, 0xAD, *range(0x202A, 0x202F), *range(0x2066, 0x206A),
                        *range(0xFE00, 0xFE10)})  # fmt: skip


def missing_families(project: Project) -> list[str]:
    """Return the font families that layers ask for and that are not at hand, in the order of the alphabet."""
    wanted = {family for piece in project.compositions for layer in piece.layers for family in families_of(layer)}
    return sorted(wanted - set(families(project)))


def families_of(layer: Layer) -> set[str]:
    """Return the font families that the words of a layer ask for; the default one only where it is named."""
    wanted: set[str] = set()
    for name in ("font", "runs"):
        track = layer.properties.get(name)
        for value in () if track is None else (track.value, *(key.value for key in track.keys)):
            wanted |= {value} if isinstance(value, str) else {run[2] for run in value if run[2]}
    return wanted


_local = threading.local()
_METRICS = {
    "underline": (hb.OTMetricsTag.UNDERLINE_OFFSET, hb.OTMetricsTag.UNDERLINE_SIZE),
    "line-through": (hb.OTMetricsTag.STRIKEOUT_OFFSET, hb.OTMetricsTag.STRIKEOUT_SIZE),
}


def line_place(at: FaceAt, line: str) -> tuple[float, float]:
    """Return where the upper edge of a line ("underline", "line-through") lies above the baseline, and how thick it is,
    both beside the size of the type (OpenType, "post" and "OS/2")."""
    font, em = shaper(at)
    above, thick = (font.get_metric_position_with_fallback(tag) / em for tag in _METRICS[line])
    return above, max(thick, 0.01)


def shaper(at: FaceAt) -> tuple[hb.Font, int]:
    """Return this thread's HarfBuzz font for a face at a weight, and its units per em."""
    fonts: dict[object, tuple[hb.Font, int]] = _local.__dict__.setdefault("fonts", {})
    if at.key not in fonts:
        if len(fonts) > 64:
            fonts.clear()
        face = hb.Face(at.face.data)
        font = hb.Font(face)
        if at.face.axes:
            font.set_variations({"wght": at.weight, **dict(at.variations)})
        fonts[at.key] = (font, face.upem)
    return fonts[at.key]
