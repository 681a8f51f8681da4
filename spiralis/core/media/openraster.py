"""OpenRaster files (freedesktop.org *OpenRaster* 0.0.6): layered pictures in a ZIP."""

from __future__ import annotations

import hashlib
import io
import math
import struct
import zipfile
import zlib

from attrs import evolve
from lxml import etree

from spiralis.core.errors import FileError, PictureError
from spiralis.core.geometry import Affine
from spiralis.core.media.archives import unpacks_to_too_much
from spiralis.core.media.layered import LayeredFile, LayeredPart
from spiralis.core.media.pictures import picture_size
from spiralis.core.model import BLEND_MODES
from spiralis.core.model.project import LARGEST_SIZE

MIMETYPE = b"image/openraster"
MOST_ENTRIES = 10_000
MOST_STACK = 16 << 20
DEEPEST = 40
LONGEST_NAME = 1000
_OWN = {"normal": "svg:src-over", "plus-lighter": "svg:plus", "cut-through": "svg:dst-out",
        "cling": "svg:src-atop", "keep-within": "svg:dst-in", "slip-under": "svg:dst-atop"}  # fmt: skip
MODES: dict[str, str] = _OWN | {mode: f"svg:{mode}" for mode in BLEND_MODES if mode not in _OWN}
_MODE_OF = {text: mode for mode, text in MODES.items()}
BROKEN = (
    zipfile.BadZipFile, zlib.error, struct.error, EOFError, NotImplementedError, RuntimeError, OSError, ValueError,
    KeyError, OverflowError, MemoryError,
)  # fmt: skip


def read_openraster(data: bytes, name: str) -> LayeredFile:
    """Return the layers and groups of an OpenRaster file; its merged picture is not used.

    Raises:
        FileError: one sentence on what is wrong with the file.
    """
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as archive:
            return _Reader(archive, name, hashlib.sha256(data).hexdigest()).read()
    except FileError:
        raise
    except BROKEN as error:
        raise FileError(f"“{name}” is not an OpenRaster file, or it was cut short; save it again.") from error


class _Reader:
    def __init__(self, archive: zipfile.ZipFile, name: str, digest: str) -> None:
        self.archive = archive
        self.name = name
        self.digest = digest
        self.notes: list[str] = []
        self._check_entries()
        self.names = {name.lstrip("/"): name for name in archive.namelist()}

    def _check_entries(self) -> None:
        entries = self.archive.infolist()
        if len(entries) > MOST_ENTRIES or unpacks_to_too_much(entries):
            raise FileError(f"“{self.name}” unpacks to more than a layered file can hold, so it was not opened.")
        for entry in entries:
            # Nothing is ever unpacked to disk, and some writers begin names with a slash; climbing is no honest name.
            if ".." in entry.filename.replace("\\", "/").split("/"):
                raise FileError(
                    f"“{self.name}” holds the path “{entry.filename[:60]}”, which leads out of it; it was not opened."
                )

    def read(self) -> LayeredFile:
        root = self._stack()
        size = (self._whole(root, "w"), self._whole(root, "h"))
        if not all(1 <= side <= LARGEST_SIZE for side in size):
            raise FileError(
                f"“{self.name}” is {size[0]} × {size[1]} px, and a side is 1 to {LARGEST_SIZE} px; resize it."
            )
        stack = root.find("stack")
        parts = self._parts(stack, "", (0, 0), 0) if stack is not None else ()
        return LayeredFile(self.name, *size, parts, self.digest, tuple(self.notes))

    def _stack(self) -> etree._Element:
        entry = self.archive.getinfo("stack.xml")
        if entry.file_size > MOST_STACK:
            raise FileError(f"“{self.name}” lists more layers than can be read.")
        parser = etree.XMLParser(
            resolve_entities=False, no_network=True, load_dtd=False, remove_comments=True, remove_pis=True
        )
        try:
            root = etree.fromstring(self.archive.read(entry), parser)
        except etree.XMLSyntaxError as error:
            raise FileError(f"“{self.name}” has a damaged list of layers; save it again.") from error
        if root.tag != "image":
            raise FileError(f"“{self.name}” is a ZIP but no OpenRaster file; save it again.")
        return root

    def _whole(self, element: etree._Element, name: str, default: int = 0) -> int:
        text = element.get(name)
        try:
            value = round(float(text)) if text is not None else default
        except (ValueError, OverflowError):
            return default
        return min(max(value, -1_000_000), 1_000_000)

    def _parts(self, stack: etree._Element, key: str, corner: tuple[int, int], depth: int) -> tuple[LayeredPart, ...]:
        """Return the parts of a stack; its first child lies in front."""
        if depth > DEEPEST:
            raise FileError(f"“{self.name}” nests over {DEEPEST} groups in each other; ungroup some of them.")
        parts: list[LayeredPart] = []
        counts: dict[str, int] = {}
        for element in stack:
            if element.tag not in ("layer", "stack"):
                continue
            label = element.get("name", "Group" if element.tag == "stack" else "Layer")[:LONGEST_NAME]
            base = label.replace("/", "∕")
            counts[base] = counts.get(base, 0) + 1
            own = base if counts[base] == 1 else f"{base}·{counts[base]}"
            parts += self._part(element, label, f"{key}/{own}" if key else own, corner, depth)
        return tuple(parts)

    def _part(
        self, element: etree._Element, label: str, key: str, corner: tuple[int, int], depth: int
    ) -> list[LayeredPart]:
        x, y = corner[0] + self._whole(element, "x"), corner[1] + self._whole(element, "y")
        part = LayeredPart(
            key, label, "picture", opacity=self._opacity(element), visible=element.get("visibility") != "hidden",
            blend=self._blend(element, label), locked=element.get("edit-locked") == "true",
        )  # fmt: skip
        if element.tag == "stack":
            parts = self._parts(element, key, (x, y), depth + 1)
            mixes = any(inner.blend != "normal" or inner.passes for inner in parts)
            through = element.get("isolation") == "auto" and part.opacity >= 1 and part.blend == "normal" and mixes
            return [evolve(part, kind="group", parts=parts, passes=through)]
        source = element.get("src") or ""
        if not source.lower().endswith(".png"):
            self.notes.append(f"“{label}” shows {source[:60] or 'nothing'}, which is no PNG, and is left out.")
            return []
        try:
            data = self.archive.read(self.names[source.lstrip("/")])
            width, height = picture_size(data, label)
        except KeyError:
            self.notes.append(f"The picture of “{label}” is not in the file, so it is left out.")
            return []
        except PictureError as error:
            self.notes.append(str(error))
            return []
        return [evolve(part, matrix=Affine.shift(x, y), data=data, width=width, height=height)]

    def _opacity(self, element: etree._Element) -> float:
        try:
            value = float(element.get("opacity", "1"))
        except ValueError:
            return 1.0
        return min(max(value, 0.0), 1.0) if math.isfinite(value) else 1.0

    def _blend(self, element: etree._Element, label: str) -> str:
        text = element.get("composite-op", "svg:src-over")
        if text not in _MODE_OF:
            self.notes.append(f"“{label}” mixes by {text[:40]}, which is not known here; it came in as normal.")
        return _MODE_OF.get(text, "normal")
