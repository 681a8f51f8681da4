"""Draw one element of a document as a picture, where it cannot be kept editable. Uses resvg."""

from __future__ import annotations

import copy
import io

import resvg_py
from lxml import etree
from PIL import Image

from spiralis.core.errors import FileError
from spiralis.core.media.svg.document import SVG, Element, local_name
from spiralis.core.raster.fonts import FONT_FOLDER

_LARGEST = 4096
_KEPT = frozenset(
    "defs symbol clipPath mask linearGradient radialGradient pattern filter marker style title desc metadata".split()
)


def draw_document(text: bytes, zoom: float = 1.0) -> Image.Image:
    """Return a whole document as an RGBA picture.

    Raises:
        FileError: the document cannot be drawn.
    """
    try:
        data = resvg_py.svg_to_bytes(
            svg_string=text.decode("utf-8"), zoom=zoom if zoom == 1 else None, font_dirs=[str(FONT_FOLDER)],
            width=None, skip_system_fonts=True, sans_serif_family="Inter", serif_family="Vollkorn", font_family="Inter",
        )  # fmt: skip
        return Image.open(io.BytesIO(bytes(data))).convert("RGBA")
    except (KeyboardInterrupt, SystemExit):
        raise
    except BaseException as error:  # the renderer's own panics are no Exceptions
        raise FileError("A part of the SVG cannot be drawn.") from error


def draw_element(
    root: Element, target: Element, size: tuple[float, float]
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
    for name, value in (("width", size[0] * zoom), ("height", size[1] * zoom)):
        lone.set(name, f"{value:g}")
    if lone.get("viewBox") is None:
        lone.set("viewBox", f"0 0 {size[0]:g} {size[1]:g}")
    picture = draw_document(etree.tostring(lone))
    box = picture.getchannel("A").getbbox()
    if box is None:
        return None
    buffer = io.BytesIO()
    picture.crop(box).save(buffer, format="PNG")
    return buffer.getvalue(), picture.width / size[0], (box[0], box[1])


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
