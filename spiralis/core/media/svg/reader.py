"""Read an SVG document as a layered file."""

from __future__ import annotations

import base64
import binascii
import hashlib
import math
import re
import urllib.parse
from collections.abc import Sequence

from attrs import evolve, frozen

from spiralis.core.errors import FileError, PictureError
from spiralis.core.geometry import Affine
from spiralis.core.media.layered import LayeredFile, LayeredPart
from spiralis.core.media.pictures import picture_size
from spiralis.core.media.svg.allowance import Allowance
from spiralis.core.media.svg.building import GROUPS, Builder, Place, element_matrix
from spiralis.core.media.svg.document import SVG, Element, children, href_of, local_name, parse_document
from spiralis.core.media.svg.drawing_apart import TooMuch
from spiralis.core.media.svg.fallback import draw_element
from spiralis.core.media.svg.outlines import SHAPES
from spiralis.core.media.svg.paints import NeedsPicture
from spiralis.core.media.svg.simplifying import simplified
from spiralis.core.media.svg.style import Style
from spiralis.core.media.svg.values import fitted, length, share, transform, view_box
from spiralis.core.model import BLEND_MODES, Project
from spiralis.core.model.art import Bundle, Figure
from spiralis.core.model.project import LARGEST_SIZE
from spiralis.core.raster.vectors import art_box

_DRAWN = SHAPES | GROUPS | {"text", "use", "image", "foreignObject"}
_NAMES = {"rect": "Rectangle", "path": "Path", "circle": "Circle", "ellipse": "Ellipse", "line": "Line",
          "polyline": "Line", "polygon": "Polygon", "g": "Group", "a": "Group", "svg": "Group", "use": "Part",
          "image": "Picture", "text": "Text", "switch": "Group", "foreignObject": "Content"}  # fmt: skip


@frozen
class _Around:
    """What the groups around an element hand down: place, map to the document, clips in document units, key."""

    place: Place
    matrix: Affine
    clips: tuple[tuple[Figure, ...], ...]
    key: str


def read_svg(data: bytes, name: str, fonts: Project | None = None) -> LayeredFile:
    """Return the parts of an SVG document.

    Args:
        data: the file's bytes, packed or not.
        name: the file's name, for messages.
        fonts: a project whose own fonts may be used beside the shipped ones.

    Raises:
        FileError: one sentence on what is wrong with the file.
    """
    root = parse_document(data, name)
    reader = _Reader(root, name, fonts or Project())
    parts = reader.read()
    size = (max(1, math.ceil(reader.size[0] - 1e-6)), max(1, math.ceil(reader.size[1] - 1e-6)))
    return LayeredFile(name, *size, parts, hashlib.sha256(data).hexdigest(), tuple(reader.notes))


class _Reader:
    def __init__(self, root: Element, name: str, fonts: Project) -> None:
        self.root = root
        self.name = name
        self.allowance = Allowance(name)
        self.builder = Builder(root, name, fonts, self.allowance)
        self.pictures: list[str] = []
        self.box = view_box(root.get("viewBox"))
        self.size = self._size()

    @property
    def notes(self) -> list[str]:
        """What is not quite as it was, a sentence each."""
        return [*self.builder.notes, *self.pictures]

    def _size(self) -> tuple[float, float]:
        box = self.box
        whole = (box[2], box[3]) if box else (100.0, 100.0)
        width = length(self.root.get("width") or "100%", whole[0], whole[0])
        height = length(self.root.get("height") or "100%", whole[1], whole[1])
        if box and self.root.get("width") and not self.root.get("height"):
            height = width * box[3] / box[2]
        elif box and self.root.get("height") and not self.root.get("width"):
            width = height * box[2] / box[3]
        if not (0 < width <= LARGEST_SIZE and 0 < height <= LARGEST_SIZE):
            raise FileError(
                f"“{self.name}” is {width:g} × {height:g} px, and a side goes from 1 to {LARGEST_SIZE} px; resize it."
            )
        return width, height

    def read(self) -> tuple[LayeredPart, ...]:
        """Return the parts, front to back."""
        matrix = fitted(self.box, self.root.get("preserveAspectRatio"), self.size)[0] if self.box else Affine()
        port = (self.box[2], self.box[3]) if self.box else self.size
        style = self.builder.cascade.of(self.root, {})
        matrix = matrix @ transform(self.root.get("transform"))
        around = _Around(Place(style, port), matrix, (), "")
        return self._parts(list(children(self.root)), around)

    def _parts(self, elements: Sequence[Element], around: _Around) -> tuple[LayeredPart, ...]:
        """Return parts front to back: the last element lies in front."""
        parts: list[LayeredPart] = []
        counts: dict[str, int] = {}
        for element in elements:
            if local_name(element) not in _DRAWN:
                continue
            self.allowance.left()
            style = self.builder.cascade.of(element, around.place.style)
            own = _own_key(element, counts)
            key = f"{around.key}/{own}" if around.key else own
            part = self._part(element, style, evolve(around, key=key))
            if part is not None:
                parts.append(part)
        return tuple(reversed(parts))

    def _part(self, element: Element, style: Style, around: _Around) -> LayeredPart | None:
        hidden = style.get("display") == "none"
        if hidden:
            # Kept as a hidden layer; to read it, it is drawn as if it were shown.
            element.set("style", f"{element.get('style', '')};display:inline !important".lstrip(";"))
            if local_name(element) in ("foreignObject",):
                return None
        kind = local_name(element)
        part: LayeredPart | None
        if kind in ("g", "a", "switch") and not self._is_one(style):
            part = self._group(element, style, around)
        elif kind == "image":
            part = self._image(element, style, around)
        else:
            part = self._leaf(element, style, around)
        return evolve(part, visible=False) if part is not None and hidden else part

    @staticmethod
    def _is_one(style: Style) -> bool:
        """Whether a group only makes sense as one picture: a mask or a filter acts on all of it."""
        return style.get("mask", "none") != "none" or style.get("filter", "none") != "none"

    def _group(self, element: Element, style: Style, around: _Around) -> LayeredPart | None:
        own = element_matrix(element, style)
        matrix = around.matrix @ own
        if matrix.inverse() is None:
            return None
        try:
            clips = self._group_clips(element, style, around.place)
        except NeedsPicture as reason:
            return self._picture(element, style, around, str(reason))
        placed = tuple(tuple(evolve(f, matrix=matrix @ f.matrix) for f in clip) for clip in clips)
        inner = _Around(evolve(around.place, style=style), matrix, (*around.clips, *placed), around.key)
        inside = [c for c in self.builder.group_children(element) if local_name(c) in _DRAWN]
        parts = self._parts(inside, inner)
        if not parts:
            return None
        opacity, blend = share(style.get("opacity")), _blend(style)
        if len(parts) == 1 and opacity >= 1 and blend == "normal":
            # A group around one thing is that thing, under the group's name where it has one.
            name = _label(element)
            return evolve(parts[0], name=name, key=around.key) if name else parts[0]
        return LayeredPart(
            around.key, _label(element) or _NAMES["g"], "group", opacity=opacity, blend=blend, parts=parts
        )

    def _group_clips(self, element: Element, style: Style, place: Place) -> tuple[tuple[Figure, ...], ...]:
        if style.get("clip-path", "none") == "none":
            return ()
        by_box = any(
            "objectBoundingBox" in (clip.get("clipPathUnits") or "") for clip in self.root.iter(f"{SVG}clipPath")
        )
        content = Bundle()
        if by_box:
            items = [self.builder.item(c, evolve(place, style=style)) for c in self.builder.group_children(element)]
            content = Bundle(tuple(item for item in items if item is not None))
        return self.builder.clips(style, content, place)

    def _leaf(self, element: Element, style: Style, around: _Around) -> LayeredPart | None:
        try:
            item = self.builder.item(element, around.place)
        except NeedsPicture as reason:
            return self._picture(element, style, around, str(reason))
        if item is None:
            return None
        opacity, blend = 1.0, "normal"
        if isinstance(item, Bundle) and item.mask is None:
            opacity, blend = item.opacity, item.blend
            item = evolve(item, opacity=1.0, blend="normal")
        matrix, art = simplified(item, around.matrix, around.clips)
        if art_box(art) is None:
            return None
        name = _label(element) or _words(element) or _NAMES.get(local_name(element), "Shape")
        return LayeredPart(around.key, name, "shape", matrix, art, opacity=opacity, blend=blend)

    def _image(self, element: Element, style: Style, around: _Around) -> LayeredPart | None:
        name = _label(element) or _NAMES["image"]
        href = href_of(element)
        if not href.startswith("data:"):
            if href:
                self.pictures.append(
                    f"“{name}” shows the file {href[:80]}, which lies outside the SVG, and is left out."
                )
            return None
        special = around.clips or any(style.get(n, "none") != "none" for n in ("clip-path", "mask", "filter"))
        data = _embedded(href)
        try:
            size = picture_size(data or b"", name)
        except PictureError:
            size = None
        if special or size is None or data is None:
            return self._picture(element, style, around, "a picture that is cut or masked" if special else "a picture")
        port = around.place.port
        width = length(element.get("width"), float(size[0]), port[0])
        height = length(element.get("height"), float(size[1]), port[1])
        if width <= 0 or height <= 0:
            return None
        fit, slices = fitted(
            (0.0, 0.0, float(size[0]), float(size[1])), element.get("preserveAspectRatio"), (width, height)
        )
        if slices:
            return self._picture(element, style, around, "a picture that is cut")
        shift = Affine.shift(length(element.get("x"), 0.0, port[0]), length(element.get("y"), 0.0, port[1]))
        matrix = around.matrix @ element_matrix(element, style) @ shift @ fit
        opacity = share(style.get("opacity"))
        return LayeredPart(
            around.key, name, "picture", matrix, data=data, width=size[0], height=size[1], opacity=opacity,
            blend=_blend(style),
        )  # fmt: skip

    def _picture(self, element: Element, style: Style, around: _Around, reason: str) -> LayeredPart | None:
        name = _label(element) or _words(element) or _NAMES.get(local_name(element), "Shape")
        try:
            drawn = draw_element(self.root, element, self.size, self.allowance)
        except TooMuch:
            self.allowance.left()  # Where the time is up, the whole document is refused by its name.
            raise
        except FileError:
            self.pictures.append(f"“{name}” holds {reason} and could not be drawn, so it is left out.")
            return None
        if drawn is None:
            return None
        self.pictures.append(f"“{name}” holds {reason}, so it came in as a picture.")
        data, zoom, (left, top) = drawn
        matrix = Affine.scaling(1 / zoom, 1 / zoom) @ Affine.shift(left, top)
        width, height = picture_size(data, name)
        return LayeredPart(
            around.key, name, "picture", matrix, data=data, width=width, height=height, blend=_blend(style)
        )


def _blend(style: Style) -> str:
    mode = style.get("mix-blend-mode", "normal")
    return mode if mode in BLEND_MODES else "normal"


def _label(element: Element) -> str:
    """Return the name that a person gave: a label in any namespace, a title, or the id."""
    for name, value in element.attrib.items():
        if str(name).rsplit("}", 1)[-1] in ("label", "aria-label", "data-name") and str(value).strip():
            return str(value).strip()[:120]
    for child in children(element):
        if local_name(child) == "title" and (child.text or "").strip():
            return (child.text or "").strip()[:120]
    return (element.get("id") or "").strip()[:120]


def _words(element: Element) -> str:
    return (
        re.sub(r"\s+", " ", "".join(str(text) for text in element.itertext())).strip()[:60]
        if local_name(element) == "text"
        else ""
    )


def _own_key(element: Element, counts: dict[str, int]) -> str:
    """Return a key among siblings: the id or label where there is one, else the kind and its number."""
    base = (element.get("id") or _label(element) or f"{local_name(element)}").replace("/", "∕")[:160]
    counts[base] = counts.get(base, 0) + 1
    return base if counts[base] == 1 and (element.get("id") or _label(element)) else f"{base}·{counts[base]}"


def _embedded(href: str) -> bytes | None:
    """Return the bytes of a ``data:`` address (RFC 2397), or None."""
    head, comma, body = href.partition(",")
    if not comma:
        return None
    if ";base64" not in head:
        return urllib.parse.unquote_to_bytes(body)
    try:
        return base64.b64decode(re.sub(r"\s", "", urllib.parse.unquote(body)), validate=False)
    except (binascii.Error, ValueError):
        return None
