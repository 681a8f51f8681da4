"""Open an SVG document safely and look things up in it."""

from __future__ import annotations

import gzip
import io
import zlib
from collections.abc import Iterator
from typing import Any

from lxml import etree

from spiralis.core.errors import FileError

SVG = "{http://www.w3.org/2000/svg}"
XLINK_HREF = "{http://www.w3.org/1999/xlink}href"
XML_SPACE = "{http://www.w3.org/XML/1998/namespace}space"
MOST_BYTES = 64 << 20
DEEPEST = 200
MOST_ELEMENTS = 200_000

#: An element of a document; lxml is loaded when the first one is read.
Element = Any
_TOO_DEEP = f"“{{}}” nests over {DEEPEST} groups in each other; ungroup some of them."


def parse_document(data: bytes, name: str) -> Element:
    """Return the root element. Entities are not expanded, nothing outside the bytes is read.

    Raises:
        FileError: one sentence on what is wrong with the file.
    """
    if data[:2] == b"\x1f\x8b":
        data = _unpacked(data, name)
    if len(data) > MOST_BYTES:
        raise FileError(f"“{name}” is an SVG of over {MOST_BYTES >> 20} MB; simplify it.")
    parser = etree.XMLParser(
        resolve_entities=False, no_network=True, load_dtd=False, dtd_validation=False, huge_tree=False,
        remove_comments=True, remove_pis=True, recover=False,
    )  # fmt: skip
    try:
        root = etree.fromstring(data, parser)
    except (etree.XMLSyntaxError, ValueError) as error:
        if "depth" in str(error):
            raise FileError(_TOO_DEEP.format(name)) from error
        raise FileError(f"“{name}” is not an SVG that can be read, or it was cut short; export it again.") from error
    document_type: Any = root.getroottree().docinfo.internalDTD
    if document_type is not None and any(True for _ in document_type.iterentities()):
        raise FileError(f"“{name}” defines XML entities, which are not read; export it as plain SVG.")
    if root.tag not in (f"{SVG}svg", "svg"):
        raise FileError(f"“{name}” is XML but no SVG; export it as SVG.")
    _check_size(root, name)
    return root


def _unpacked(data: bytes, name: str) -> bytes:
    try:
        with gzip.GzipFile(fileobj=io.BytesIO(data)) as packed:
            return packed.read(MOST_BYTES + 1)
    except (OSError, EOFError, zlib.error) as error:
        raise FileError(f"“{name}” is a packed SVG that is cut short or broken; export it again.") from error


def _check_size(root: Element, name: str) -> None:
    level, depth, count = [root], 0, 0
    while level:
        depth += 1
        count += len(level)
        if depth > DEEPEST:
            raise FileError(_TOO_DEEP.format(name))
        if count > MOST_ELEMENTS:
            raise FileError(f"“{name}” holds over {MOST_ELEMENTS} elements; simplify it.")
        level = [child for element in level for child in element]


def local_name(element: Element) -> str:
    """Return the tag without its namespace; empty for what is no SVG element."""
    tag = element.tag
    if not isinstance(tag, str):
        return ""
    if tag.startswith(SVG):
        return tag[len(SVG) :]
    return "" if tag.startswith("{") else tag


def href_of(element: Element) -> str:
    """Return what an element refers to."""
    return (element.get("href") or element.get(XLINK_HREF) or "").strip()


def children(element: Element) -> Iterator[Element]:
    """Yield the child elements that are SVG."""
    for child in element:
        if local_name(child):
            yield child


def ids_of(root: Element) -> dict[str, Element]:
    """Return the elements by id; of two with one id the first counts."""
    found: dict[str, Element] = {}
    for element in root.iter():
        key = element.get("id") if isinstance(element.tag, str) else None
        if key:
            found.setdefault(key, element)
    return found
