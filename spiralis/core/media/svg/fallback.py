"""Draw one element of a document as a picture, where it cannot be kept editable. Uses resvg."""

from __future__ import annotations

import copy
import io
import math

from lxml import etree
from PIL import Image

from spiralis.core.media.svg.allowance import SECONDS, Allowance
from spiralis.core.media.svg.document import SVG, Element, local_name
from spiralis.core.media.svg.drawing_apart import DRAWER
from spiralis.core.raster.fonts import FONT_FOLDER

_LARGEST = 4096
#: Where something shows is looked for on a picture this large.
_LOOK = 72
_KEPT = frozenset(
    "defs symbol clipPath mask linearGradient radialGradient pattern filter marker style title desc metadata".split()
)


def draw_document(text: bytes, seconds: float = SECONDS) -> Image.Image:
    """Return a whole document as an RGBA picture.

    Raises:
        TooMuch: it takes longer than so many ``seconds``.
        FileError: the document cannot be drawn.
    """
    # Looking the fonts through takes longer than most drawings do.
    fonts = [str(FONT_FOLDER)] if b"text" in text else None
    families = {"sans_serif_family": "Inter", "serif_family": "Vollkorn", "font_family": "Inter"}
    png = DRAWER.draw(text, {"font_dirs": fonts, **families}, seconds)
    return Image.open(io.BytesIO(png)).convert("RGBA")


def draw_element(
    root: Element, target: Element, size: tuple[float, float], allowance: Allowance
) -> tuple[bytes, float, tuple[int, int]] | None:
    """Return (PNG, pixels a document unit, corner in those pixels) of one element alone; None where nothing shows.

    Opacity and mixing of the groups around it are left to them.
    """
    # A whole factor keeps the tiles of patterns whole.
    zoom = min(max(1.0, float(1024 // max(size))), _LARGEST / max(size))
    mark = "spiralis-target"
    path = []
    node = target
    while node is not root and (parent := node.getparent()) is not None:
        path.append(parent.index(node))
        node = parent
    lone = copy.deepcopy(root)
    node = lone
    for index in reversed(path):
        if node is not lone:
            _neutral(node)
        _hide_others(node, node[index])
        node = next(child for child in node if child.get(mark))
        del node.attrib[mark]
    if lone.get("viewBox") is None:
        lone.set("viewBox", f"0 0 {size[0]:g} {size[1]:g}")
    whole = round(size[0] * zoom), round(size[1] * zoom)
    view = _view(lone, size)
    if view is None or max(whole) <= 2 * _LOOK:
        left, top = 0, 0
        picture = _sized(lone, size[0] * zoom, size[1] * zoom, allowance)
    else:
        around = _seen_in(lone, size, whole, allowance)
        if around is None:
            return None
        left, top = around[:2]
        picture = _part(lone, view, whole, around, allowance)
    box = picture.getchannel("A").getbbox()
    if box is None:
        return None
    buffer = io.BytesIO()
    picture.crop(box).save(buffer, format="PNG", compress_level=2)
    return buffer.getvalue(), whole[0] / size[0], (left + box[0], top + box[1])


def _sized(lone: Element, width: float, height: float, allowance: Allowance) -> Image.Image:
    allowance.take(max(width, 1.0) * max(height, 1.0))
    lone.set("width", f"{width:g}")
    lone.set("height", f"{height:g}")
    return draw_document(etree.tostring(lone), allowance.left())


def _view(lone: Element, size: tuple[float, float]) -> tuple[float, float, float, float] | None:
    """Return the view box of a document that fills its size evenly; None where it does not."""
    try:
        left, top, width, height = (float(part) for part in (lone.get("viewBox") or "").replace(",", " ").split())
    except ValueError:
        return None
    even = width > 0 and height > 0 and abs(width / height - size[0] / size[1]) < 1e-3 * width / height
    return (left, top, width, height) if even else None


def _seen_in(
    lone: Element, size: tuple[float, float], whole: tuple[int, int], allowance: Allowance
) -> tuple[int, int, int, int] | None:  # fmt: skip
    """Return the pixels in which anything of it shows, found on a small picture, with a margin for what effects read
    around it; None where nothing does."""
    across, down = (max(side * _LOOK / max(size), 1.0) for side in size)
    small = _sized(lone, across, down, allowance)
    box = small.getchannel("A").getbbox()
    if box is None:
        return None
    across, down = whole[0] / small.width, whole[1] / small.height
    more = max(box[2] - box[0], box[3] - box[1]) // 5 + 1
    left, top = max(math.floor((box[0] - more) * across), 0), max(math.floor((box[1] - more) * down), 0)
    right, bottom = (box[2] + more) * across, (box[3] + more) * down
    return left, top, min(math.ceil(right), whole[0]), min(math.ceil(bottom), whole[1])


def _part(
    lone: Element, view: tuple[float, float, float, float], whole: tuple[int, int], box: tuple[int, int, int, int],
    allowance: Allowance,
) -> Image.Image:  # fmt: skip
    """Draw some of a document's pixels alone; ``view`` is its view box."""
    unit = view[2] / whole[0], view[3] / whole[1]
    part = (view[0] + box[0] * unit[0], view[1] + box[1] * unit[1], (box[2] - box[0]) * unit[0],
            (box[3] - box[1]) * unit[1])  # fmt: skip
    lone.set("viewBox", " ".join(f"{number:.10g}" for number in part))
    lone.set("preserveAspectRatio", "none")
    return _sized(lone, box[2] - box[0], box[3] - box[1], allowance)


def _neutral(element: Element) -> None:
    style = element.get("style", "").rstrip("; ")
    element.set("style", f"{style};opacity:1 !important;mix-blend-mode:normal !important".lstrip(";"))


def _hide_others(parent: Element, kept: Element) -> None:
    """Move all drawn children but one into definitions, where ``use`` still finds them."""
    kept.set("spiralis-target", "1")
    hidden = etree.SubElement(parent, f"{SVG}defs" if parent.tag.startswith(SVG) else "defs")
    for child in list(parent):
        if child is not kept and child is not hidden and local_name(child) not in _KEPT:
            hidden.append(child)
