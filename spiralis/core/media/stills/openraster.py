"""A frame as an OpenRaster file: a picture a layer, a group a nested composition."""

from __future__ import annotations

import zipfile
from pathlib import Path

import numpy as np
from lxml import etree
from PIL import Image

from spiralis.core.media.openraster import MIMETYPE, MODES
from spiralis.core.media.png_file import png_bytes
from spiralis.core.media.stills.base import Chain, Still, drawn_alone, inner_frame, register_still
from spiralis.core.model import Composition, Project, layer_kind
from spiralis.core.render.frame import render_straight8
from spiralis.core.render.layers import layer_values

_THUMBNAIL = 256


def _write(project: Project, composition: Composition, frame: float, path: Path) -> tuple[str, ...]:
    root = etree.Element("image", w=str(composition.width), h=str(composition.height), version="0.0.6")
    with zipfile.ZipFile(path, "w") as archive:
        archive.writestr(zipfile.ZipInfo("mimetype"), MIMETYPE, zipfile.ZIP_STORED)
        writer = _Writer(project, composition, frame, archive)
        stack = etree.SubElement(root, "stack")
        writer.layers(stack, composition, frame, ())
        writer.background(stack)
        archive.writestr(
            "stack.xml", etree.tostring(root, xml_declaration=True, encoding="UTF-8"), zipfile.ZIP_DEFLATED
        )
        merged = render_straight8(project, composition.id, frame)
        archive.writestr("mergedimage.png", png_bytes(merged), zipfile.ZIP_STORED)
        small = Image.fromarray(merged)
        small.thumbnail((_THUMBNAIL, _THUMBNAIL))
        archive.writestr("Thumbnails/thumbnail.png", png_bytes(np.asarray(small)), zipfile.ZIP_STORED)
    return ()


class _Writer:
    """Adds layers to a stack and their pictures to the archive."""

    def __init__(self, project: Project, composition: Composition, frame: float, archive: zipfile.ZipFile) -> None:
        self.project = project
        self.composition = composition
        self.frame = frame
        self.archive = archive
        self.count = 0

    def layers(self, stack: etree._Element, composition: Composition, frame: float, around: Chain) -> None:
        """Add the layers of a composition at one of its frames, front to back."""
        for layer in composition.layers:
            # What is in a group is part of the group's picture.
            if not layer.shown_at(frame) or layer.id in composition.group_of:
                continue
            values = layer_values(layer, frame)
            chain = (*around, (composition.id, layer.id))
            marks = {
                "name": layer.name, "opacity": f"{values['opacity'] / 100:.6g}",
                "visibility": "visible" if values["visible"] else "hidden",
                "composite-op": MODES[values["blend"]],
            }  # fmt: skip
            inner = inner_frame(self.project, composition, layer, frame) if layer_kind(layer.kind).nests else None
            if inner is not None and inner[0].background is None and not layer.blocks:
                group = etree.SubElement(stack, "stack", marks, isolation="isolate")
                self.layers(group, *inner, chain)
                continue
            drawn = drawn_alone(self.project, chain, self.frame)
            pixels, corner = drawn if drawn is not None else (np.zeros((1, 1, 4), dtype=np.uint8), (0, 0))
            self._picture(stack, marks, pixels, corner)

    def background(self, stack: etree._Element) -> None:
        """Add the composition's own colour as the backmost layer."""
        if self.composition.background is not None:
            levels = [round(255 * channel) for channel in self.composition.background]
            pixels = np.full((self.composition.height, self.composition.width, 4), levels, dtype=np.uint8)
            self._picture(stack, {"name": "Background"}, pixels, (0, 0))

    def _picture(
        self, stack: etree._Element, marks: dict[str, str], pixels: np.ndarray, corner: tuple[int, int]
    ) -> None:
        source = f"data/layer{self.count:04d}.png"
        self.count += 1
        self.archive.writestr(source, png_bytes(pixels), zipfile.ZIP_STORED)
        etree.SubElement(stack, "layer", marks, src=source, x=str(corner[0]), y=str(corner[1]))


register_still(Still("openraster", "Layers", ".ora", "OpenRaster: a picture a layer", _write))
