"""A frame as SVG: shapes and words as outlines, backdrops as gradients, all else as embedded pictures."""

from __future__ import annotations

import base64
from collections.abc import Mapping
from pathlib import Path
from typing import Any

from lxml import etree

from spiralis.core.colour import Colour, to_hex
from spiralis.core.geometry import IDENTITY, UNSEEN, Affine, Projection
from spiralis.core.media.png_file import png_bytes
from spiralis.core.media.stills.base import Still, drawn_alone, inner_frame, register_still
from spiralis.core.model import Composition, Layer, Project, Value, layer_kind
from spiralis.core.model.art import Bundle, Figure, Item, Paint, Ramp, path_data
from spiralis.core.model.kinds import CSS_MODES
from spiralis.core.raster.kinds.text import coloured_signs
from spiralis.core.raster.layer_image import Gradient
from spiralis.core.render.layers import Evaluated
from spiralis.core.render.lighting import shade_of
from spiralis.core.render.space import seen, stands_in_space

NAMESPACES: Any = {None: "http://www.w3.org/2000/svg"}
_STOPS = 33
Marks = dict[str, str]


def _write(project: Project, composition: Composition, frame: float, path: Path) -> tuple[str, ...]:
    writer = SvgWriter(project)
    size = {"width": str(composition.width), "height": str(composition.height)}
    root = etree.Element("svg", {**size, "viewBox": f"0 0 {size['width']} {size['height']}"}, nsmap=NAMESPACES)
    root.append(writer.definitions)
    if composition.background is not None:
        etree.SubElement(root, "rect", {**size, **_colour("fill", composition.background)}, id="Background")
    writer.layers(root, composition, frame)
    if not len(writer.definitions):
        root.remove(writer.definitions)
    etree.indent(root)
    path.write_bytes(etree.tostring(root, xml_declaration=True, encoding="UTF-8"))
    return tuple(writer.notes)


def beyond_outlines(at: Evaluated, layer: Layer) -> bool:
    """Whether a layer has something that outlines cannot say: mattes, effects, soft or grown edges, content that is
    fainter than its finishes, or signs in colours of their own."""
    values = at.values(layer)
    soft = any(values.get("feather", ())) or values.get("grow") or values["content_opacity"] < 100
    signs = layer.has("text") and coloured_signs(values, at.scene)
    return bool(layer.mattes or layer.blocks or soft or signs)


def _in_part(values: Mapping[str, Value]) -> bool:
    """Whether only a part of a stroke is drawn."""
    return (values.get("drawn_from", 0.0), values.get("drawn_to", 100.0)) != (0.0, 100.0)


class SvgWriter:
    """Adds the layers of compositions to an SVG element."""

    def __init__(self, project: Project) -> None:
        self.project = project
        self.definitions = etree.Element("defs")
        self.notes: list[str] = []
        self._names: set[str] = set()

    def layers(self, parent: etree._Element, composition: Composition, frame: float) -> None:
        """Add what a composition shows at one of its frames, back to front."""
        at = Evaluated(self.project, composition, frame)
        self._members(parent, at, None)

    def _members(self, parent: etree._Element, at: Evaluated, group: str | None) -> None:
        composition = at.composition
        for layer in reversed(composition.members(group)):
            values = at.values(layer)
            if layer.shown_at(at.frame) and values["opacity"] > 0 and layer.id not in composition.kept_from_sight:
                self._layer(parent, at, layer, values)

    def _layer(self, parent: etree._Element, at: Evaluated, layer: Layer, values: Mapping[str, Value]) -> None:
        marks = {"id": self.name(layer.name)}
        if values["opacity"] < 100:
            marks["opacity"] = text(values["opacity"] / 100)
        if values["blend"] not in CSS_MODES:
            self.notes.append(
                f"“{layer.name}” mixes by {values['blend']}, which SVG cannot say; it lies over the rest instead."
            )
        elif values["blend"] != "normal":
            marks["style"] = f"mix-blend-mode:{values['blend']}"
        if not values["visible"]:
            marks["display"] = "none"
        matrix = at.matrix(layer)
        kind = layer_kind(layer.kind)
        if kind.beneath is not None:
            self.notes.append(f"“{layer.name}” changes what lies beneath it, which SVG cannot say; it was left out.")
            return
        drawn = beyond_outlines(at, layer)
        # A crop, a stroke that is drawn in part and perspective are nothing that every reader of SVG knows.
        drawn = drawn or any((*values["crop_across"], *values["crop_down"])) or _in_part(values)
        stands = stands_in_space(at, layer)
        drawn = drawn or (stands and (isinstance(seen(at, layer), Projection) or shade_of(at, layer) is not None))
        if drawn:
            self.picture(parent, at, layer, marks)
        elif kind.gathers:
            self._members(etree.SubElement(parent, "g", marks), at, layer.id)
        elif kind.outlines is not None:
            self.item(parent, kind.outlines(values, at.scene), marks, matrix)
        elif kind.nests:
            self._nested(parent, at, layer, marks, matrix)
        else:
            drawing = at.drawing(layer, matrix, UNSEEN) if kind.fills_frame else None
            if isinstance(drawing, Gradient) and not drawing.conic:
                self.ramp(parent, drawing, marks, matrix)
            else:
                # Neither a picture nor a gradient that turns about a point can be said in SVG's own shapes.
                self.picture(parent, at, layer, marks)

    def name(self, name: str) -> str:
        """Return an id that nothing else has."""
        base = name.replace(" ", "_")
        unique, number = base, 2
        while unique in self._names:
            unique, number = f"{base}_{number}", number + 1
        self._names.add(unique)
        return unique

    def _nested(self, parent: etree._Element, at: Evaluated, layer: Layer, marks: Marks, matrix: Affine) -> None:
        found = inner_frame(self.project, at.composition, layer, at.frame)
        if found is None:
            return
        inner, frame = found
        group = etree.SubElement(parent, "g", {**marks, **transform(matrix)})
        if inner.background is not None:
            size = {"width": str(inner.width), "height": str(inner.height)}
            etree.SubElement(group, "rect", {**size, **_colour("fill", inner.background)})
        self.layers(group, inner, frame)

    def ramp(self, parent: etree._Element, drawing: Gradient, marks: Marks, matrix: Affine) -> None:
        """Add a gradient that fills a box, placed by a map."""
        left, top, right, bottom = drawing.box
        box = {"x": text(left), "y": text(top), "width": text(right - left), "height": text(bottom - top)}
        rows = [drawing.table[round(i * (len(drawing.table) - 1) / (_STOPS - 1))].tolist() for i in range(_STOPS)]
        colours = [(*(v / row[3] if row[3] > 0 else 0.0 for v in row[:3]), row[3]) for row in rows]
        to_user = drawing.to_ramp.inverse()
        paint: Paint = colours[0]
        if not drawing.flat and to_user is not None:
            stops = tuple((i / (_STOPS - 1), *colour) for i, colour in enumerate(colours))
            points = (0.0, 0.0, 1.0, 0.0, 0.0, 0.0) if drawing.radial else (0.0, 0.0, 1.0, 0.0)
            paint = Ramp(drawing.radial, points, stops, matrix=to_user)
        etree.SubElement(parent, "rect", {**marks, **box, **self._paint("fill", paint), **transform(matrix)})

    def picture(self, parent: etree._Element, at: Evaluated, layer: Layer, marks: Marks) -> None:
        """Add a layer as an embedded picture, and note that."""
        drawn = drawn_alone(self.project, ((at.composition.id, layer.id),), at.frame)
        if drawn is None:
            return
        pixels, (left, top) = drawn
        data = base64.b64encode(png_bytes(pixels)).decode()
        place = {"x": str(left), "y": str(top), "width": str(pixels.shape[1]), "height": str(pixels.shape[0])}
        etree.SubElement(parent, "image", {**marks, **place}, href=f"data:image/png;base64,{data}")
        self.notes.append(f"“{layer.name}” is no vector layer, so it is an embedded picture in the SVG.")

    def item(self, parent: etree._Element, item: Item, marks: Marks, outer: Affine) -> None:
        """Add vector art, placed by a map, with attributes for its outermost element."""
        marks = {**marks, **transform(outer @ item.matrix)}
        if isinstance(item, Figure):
            etree.SubElement(parent, "path", {**marks, **self.look(item)}, d=path_data(item.contours))
            return
        if item.opacity < 1:
            marks["opacity"] = text(item.opacity * float(marks.get("opacity", "1")))
        if item.blend != "normal":
            marks["style"] = f"mix-blend-mode:{item.blend}"
        group = etree.SubElement(parent, "g", marks)
        inner = group
        for clip in item.clips:
            inner = etree.SubElement(inner, "g", {"clip-path": f"url(#{self._clip(clip)})"})
        if item.mask is not None:
            inner = etree.SubElement(inner, "g", mask=f"url(#{self._mask(item.mask, item.mask_by_alpha)})")
        for part in item.items:
            self.item(inner, part, {}, IDENTITY)

    def _clip(self, figures: tuple[Figure, ...]) -> str:
        name = self.name("clip")
        clip = etree.SubElement(self.definitions, "clipPath", id=name)
        for figure in figures:
            rule = {"clip-rule": figure.rule}
            etree.SubElement(clip, "path", {**rule, **transform(figure.matrix)}, d=path_data(figure.contours))
        return name

    def _mask(self, bundle: Bundle, by_alpha: bool) -> str:
        name = self.name("mask")
        far = {"x": "-100000", "y": "-100000", "width": "200000", "height": "200000", "maskUnits": "userSpaceOnUse"}
        mask = etree.SubElement(self.definitions, "mask", far, id=name)
        if by_alpha:
            mask.set("style", "mask-type:alpha")
        self.item(mask, bundle, {}, IDENTITY)
        return name

    def look(self, figure: Figure) -> dict[str, str]:
        """Return the attributes of a figure's fill and stroke."""
        look = self._paint("fill", figure.fill) if figure.fill is not None else {"fill": "none"}
        if figure.rule != "nonzero":
            look["fill-rule"] = figure.rule
        pen = figure.stroke
        if pen is not None:
            look |= self._paint("stroke", pen.paint)
            look |= {"stroke-width": text(pen.width), "stroke-linecap": pen.cap, "stroke-linejoin": pen.join,
                     "stroke-miterlimit": text(pen.miter_limit)}  # fmt: skip
            if pen.dash:
                look["stroke-dasharray"] = " ".join(text(value) for value in pen.dash)
                look["stroke-dashoffset"] = text(pen.dash_offset)
            if figure.stroke_first:
                look["paint-order"] = "stroke"
        return look

    def _paint(self, name: str, paint: Paint) -> dict[str, str]:
        if not isinstance(paint, Ramp):
            return _colour(name, paint)
        kind = "radialGradient" if paint.radial else "linearGradient"
        names = ("cx", "cy", "r", "fx", "fy", "fr") if paint.radial else ("x1", "y1", "x2", "y2")
        points = {n: text(v) for n, v in zip(names, paint.points, strict=True)}
        unique = self.name("gradient")
        more = {"gradientUnits": "userSpaceOnUse", "spreadMethod": paint.spread, "id": unique}
        moved = transform(paint.matrix)
        if moved:
            more["gradientTransform"] = moved["transform"]
        gradient = etree.SubElement(self.definitions, kind, {**points, **more})
        for offset, *rgb, alpha in paint.stops:
            colour = _colour("stop", (rgb[0], rgb[1], rgb[2], alpha), "-color")
            etree.SubElement(gradient, "stop", {"offset": text(offset), **colour})
        return {name: f"url(#{unique})"}


def _colour(name: str, colour: Colour, tail: str = "") -> dict[str, str]:
    result = {name + tail: to_hex((*colour[:3], 1.0))}
    if colour[3] < 1:
        result[f"{name}-opacity"] = text(colour[3])
    return result


def transform(m: Affine) -> dict[str, str]:
    """Return the attribute that places something by a map; none for the identity."""
    if m == IDENTITY:
        return {}
    return {"transform": f"matrix({' '.join(text(v) for v in (m.a, m.b, m.c, m.d, m.e, m.f))})"}


def text(value: float) -> str:
    """Return a number as SVG writes it."""
    return f"{value:.9g}"


register_still(Still("svg", "Vectors", ".svg", "SVG: shapes and words as outlines", _write))
