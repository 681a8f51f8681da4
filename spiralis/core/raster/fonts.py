"""Font families: the shipped ones and those a project brings along."""

from __future__ import annotations

import hashlib
import threading
from functools import cache
from pathlib import Path

import uharfbuzz as hb
from attrs import field, frozen
from fontTools.ttLib import TTFont, TTLibError

from spiralis.core.errors import FontError
from spiralis.core.model.project import Project

FONT_FOLDER = Path(__file__).parents[2] / "assets" / "fonts"
DEFAULT_FAMILY = "Inter"


@frozen
class Face:
    """One font file: its family, its weight and, for a variable font, the range of its weight axis."""

    family: str
    weight: float
    axis: tuple[float, float] | None
    digest: str
    data: bytes = field(repr=False, eq=False)


@frozen
class FaceAt:
    """A face at a weight: what shaping and outlines are asked of."""

    face: Face
    weight: float

    @property
    def key(self) -> tuple[str, float]:
        """What tells it from others."""
        return self.face.digest, self.weight


def read_face(data: bytes, name: str) -> Face:
    """Read a TrueType or OpenType font.

    Raises:
        FontError: the bytes are no font, or one without names or letters.
    """
    from io import BytesIO

    try:
        font = TTFont(BytesIO(data), lazy=True, fontNumber=0)
        names = font["name"]
        family = names.getDebugName(16) or names.getDebugName(1)
        weight = float(font["OS/2"].usWeightClass) if "OS/2" in font else 400.0
        axes = {axis.axisTag: axis for axis in font["fvar"].axes} if "fvar" in font else {}
        letters = len(font.getBestCmap() or {})
    except (TTLibError, KeyError, ValueError, AssertionError, OSError, AttributeError, EOFError, TypeError) as error:
        raise FontError(f"“{name}” is not a font file that can be read; choose a .ttf or .otf file.") from error
    except Exception as error:  # fontTools lets struct.error and others of broken tables through
        raise FontError(f"“{name}” is a broken font file; choose another copy of it.") from error
    if not family or not letters:
        raise FontError(f"“{name}” is a font without a name or letters; choose another.")
    axis = (axes["wght"].minValue, axes["wght"].maxValue) if "wght" in axes else None
    return Face(family, weight, axis, hashlib.sha256(data).hexdigest()[:16], data)


@cache
def shipped_faces() -> tuple[Face, ...]:
    """Return the faces that come with Spiralis, by family and weight."""
    files = sorted(path for path in FONT_FOLDER.iterdir() if path.suffix in (".ttf", ".otf"))
    faces = (read_face(path.read_bytes(), path.name) for path in files)
    return tuple(sorted(faces, key=lambda face: (face.family, face.weight)))


_own_faces: dict[str, Face] = {}


def project_faces(project: Project) -> tuple[Face, ...]:
    """Return the faces of the font files among a project's sources."""
    faces = []
    for source in project.sources:
        if source.kind == "font" and source.data is not None:
            if source.digest not in _own_faces:
                _own_faces[source.digest] = read_face(source.data, source.name)
            faces.append(_own_faces[source.digest])
    return tuple(faces)


def families(project: Project) -> list[str]:
    """Return the names of all families at hand."""
    return sorted({face.family for face in (*shipped_faces(), *project_faces(project))})


def find_face(project: Project, family: str, weight: float) -> FaceAt:
    """Return the face of a family nearest in weight; the default family where there is none such."""
    faces = (*project_faces(project), *shipped_faces())
    matching = [face for face in faces if face.family == family]
    if not matching:
        matching = [face for face in faces if face.family == DEFAULT_FAMILY]
    best = min(matching, key=lambda face: face.axis is None and abs(face.weight - weight))
    if best.axis is not None:
        return FaceAt(best, round(min(max(weight, best.axis[0]), best.axis[1]), 1))
    return FaceAt(best, best.weight)


_local = threading.local()


def shaper(at: FaceAt) -> tuple[hb.Font, int]:
    """Return this thread's HarfBuzz font for a face at a weight, and its units per em."""
    fonts: dict[tuple[str, float], tuple[hb.Font, int]] = _local.__dict__.setdefault("fonts", {})
    if at.key not in fonts:
        if len(fonts) > 64:
            fonts.clear()
        face = hb.Face(at.face.data)
        font = hb.Font(face)
        if at.face.axis is not None:
            font.set_variations({"wght": at.weight})
        fonts[at.key] = (font, face.upem)
    return fonts[at.key]
