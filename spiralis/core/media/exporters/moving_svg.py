"""Moving SVG: shapes and words stay outlines, crisp at any size, and move by SVG's and CSS's own animation."""

from __future__ import annotations

import base64
from collections.abc import Sequence
from pathlib import Path

import numpy as np
from lxml import etree

from spiralis.core.errors import ExportError, FileError
from spiralis.core.geometry import UNSEEN, Affine, Box, cropped, intersect
from spiralis.core.media.exporters.base import Exporter, ExportJob, expect, register_exporter
from spiralis.core.media.pictures import decode_picture
from spiralis.core.media.png_file import png_bytes
from spiralis.core.media.stills.base import inner_frame
from spiralis.core.media.stills.svg import NAMESPACES, SvgWriter, beyond_outlines
from spiralis.core.media.svg.fallback import draw_document
from spiralis.core.media.svg_animation import Timeline, at_moment, matrix_css, short
from spiralis.core.model import Composition, Layer, layer_kind
from spiralis.core.model.art import Bundle, Figure, Item, Ramp, path_data
from spiralis.core.model.kinds import CSS_MODES
from spiralis.core.raster.layer_image import Gradient
from spiralis.core.render.layers import Evaluated
from spiralis.core.render.space import stands_in_space

#: What moments of a composition are seen: None where it is not.
Moments = list[Evaluated | None]
#: Properties whose change the element itself shows.
_PLACED = (
    "position", "position_x", "position_y", "scale", "rotation", "skew", "pivot", "opacity", "visible", "along_path",
)  # fmt: skip
_STROKED = ("drawn_from", "drawn_to", "drawn_offset")


def _write(job: ExportJob, path: Path) -> tuple[str, ...]:
    piece, (width, height) = job.composition, job.size
    # The last moment is the end of the loop, which is its beginning; what plays once stays on its last frame.
    end = float(job.last) if piece.loop else job.times[-1]
    moments: Moments = []
    for moment in (*job.times, end):
        job.heed()
        moments.append(Evaluated(job.project, piece, moment))
    marks = {"width": str(width), "height": str(height), "viewBox": f"0 0 {piece.width} {piece.height}",
             "data-frames": str(len(job.times))}  # fmt: skip
    root = etree.Element("svg", marks, nsmap=NAMESPACES)
    writer = _Moving(job, float(job.seconds))
    style = etree.SubElement(root, "style")
    root.append(writer.svg.definitions)
    if piece.background is not None:
        writer.ground(root, piece)
    writer.members(root, moments, None)
    style.text = "".join(writer.timeline.rules)
    path.write_bytes(etree.tostring(root, xml_declaration=True, encoding="UTF-8"))
    return tuple(dict.fromkeys(writer.notes))


class _Moving:
    """Adds layers with everything that changes about them."""

    def __init__(self, job: ExportJob, seconds: float) -> None:
        self.job, self.project = job, job.project
        self.svg = SvgWriter(job.project)
        self.timeline = Timeline(seconds, job.composition.loop)
        self.notes: list[str] = []
        self._images: dict[str, str] = {}

    def ground(self, parent: etree._Element, piece: Composition) -> None:
        """Add a composition's background."""
        colour = piece.background
        assert colour is not None
        contour = {"width": str(piece.width), "height": str(piece.height)}
        fill = {"fill": _rgb(colour), "fill-opacity": short(colour[3])}
        etree.SubElement(parent, "rect", {**contour, **fill})

    def members(self, parent: etree._Element, moments: Moments, group: str | None) -> None:
        """Add what a composition or a group shows, back to front."""
        some = next((at for at in moments if at is not None), None)
        if some is None:
            return
        for layer in reversed(some.composition.members(group)):
            if layer.id not in some.composition.kept_from_sight:
                self.layer(parent, moments, layer)

    def layer(self, parent: etree._Element, moments: Moments, layer: Layer) -> None:
        """Add a layer: an element that moves and fades, with its content in it."""
        self.job.heed()
        shown = [at is not None and layer.shown_at(_within(at)) and at.values(layer)["visible"] for at in moments]
        opacity = [at.values(layer)["opacity"] / 100 if at is not None else 0.0 for at in moments]
        kind = layer_kind(layer.kind)
        hidden = (kind.unseen and not kind.lights) or bool(layer.control)
        if hidden or not any(on and o > 0 for on, o in zip(shown, opacity, strict=True)):
            return
        element = etree.SubElement(parent, "g", id=self.svg.name(layer.name))
        seen = [at for at, on in zip(moments, shown, strict=True) if at is not None and on]
        some = max(seen, key=lambda at: _area(at, layer))
        blend = some.values(layer)["blend"]
        if blend not in CSS_MODES:
            self.notes.append(f"“{layer.name}” mixes by {blend}, which SVG cannot say; it lies over the rest instead.")
        elif blend != "normal":
            element.set("style", f"mix-blend-mode:{blend}")
        matrices = [at.matrix(layer) if at is not None else Affine() for at in moments]
        place = [matrix_css(m) for m in matrices]
        tracks = {"opacity": ([short(v) for v in opacity], False)}
        if not all(shown):
            tracks["visibility"] = (["visible" if on else "hidden" for on in shown], True)
        if kind.gathers and not _needs_picture(some, layer):
            self.timeline.animate(element, tracks)
            self.members(element, moments, layer.id)
            return
        ramp = some.drawing(layer, some.matrix(layer), UNSEEN) if kind.fills_frame else None
        if kind.outlines is not None and not _needs_picture(some, layer):
            self._outlines(self._cropped(element, moments, layer), moments, layer)
        elif layer.has("source") and kind.moment is None and not _needs_picture(some, layer):
            self._still(self._cropped(element, moments, layer), some, layer)
        elif isinstance(ramp, Gradient) and not ramp.conic and not _needs_picture(some, layer):
            self._ground(element, moments, layer, ramp)
        elif kind.nests and not _needs_picture(some, layer):
            self._nest(self._cropped(element, moments, layer), moments, layer)
        else:
            place = self._picture(element, some, layer, matrices)
        self.timeline.animate(element, {"transform": (place, False), **tracks})

    def _cropped(self, element: etree._Element, moments: Moments, layer: Layer) -> etree._Element:
        """Return what the content goes into: cut to what a crop leaves of the layer's box, where there is one."""
        boxes = [_crop(at, layer) for at in moments if at is not None]
        whole = [at.box(layer) for at in moments if at is not None]
        if all(box == full for box, full in zip(boxes, whole, strict=True)):
            return element
        name = self.svg.name("crop")
        rect = etree.SubElement(etree.SubElement(self.svg.definitions, "clipPath", id=name), "rect")
        rows = {
            "x": [box[0] for box in boxes], "y": [box[1] for box in boxes],
            "width": [max(box[2] - box[0], 0.0) for box in boxes],
            "height": [max(box[3] - box[1], 0.0) for box in boxes],
        }  # fmt: skip
        for attribute, values in rows.items():
            self.timeline.morph(rect, attribute, [short(value) for value in values])
        return etree.SubElement(element, "g", {"clip-path": f"url(#{name})"})

    def _ground(self, element: etree._Element, moments: Moments, layer: Layer, first: Gradient) -> None:
        """Add a backdrop: its one colour as it changes, or the ramp that it has at first."""
        drawn = [at.drawing(layer, at.matrix(layer), UNSEEN) for at in moments if at is not None]
        flat = [d.table[0].tolist() for d in drawn if isinstance(d, Gradient) and d.flat]
        if len(flat) == len(drawn):
            left, top, right, bottom = first.box
            box = {"x": short(left), "y": short(top), "width": short(right - left), "height": short(bottom - top)}
            rect = etree.SubElement(element, "rect", box)
            straight = [(*(v / row[3] if row[3] > 0 else 0.0 for v in row[:3]), row[3]) for row in flat]
            self.timeline.morph(rect, "fill", [_rgb(colour) for colour in straight])
            self.timeline.morph(rect, "fill-opacity", [short(colour[3]) for colour in straight])
            return
        self.svg.ramp(element, first, {}, Affine())
        if any(name not in _PLACED for name in layer.shown_tracks()):
            self.notes.append(f"What changes about “{layer.name}” but place and opacity is not kept in the SVG.")

    def _picture(self, element: etree._Element, some: Evaluated, layer: Layer, matrices: list[Affine]) -> list[str]:
        """Add a layer as a picture of one moment; return where it is, beside where the picture was taken."""
        self.svg.picture(element, some, layer, {})
        still = layer_kind(layer.kind).moment is None and not layer.blocks and not layer.mattes
        moves = "" if still else " of one moment: what changes about it but place and opacity is not kept"
        self.notes.append(f"“{layer.name}” is no outline, so it is a picture in the SVG{moves}.")
        if stands_in_space(some, layer):
            return [matrix_css(Affine()) for _ in matrices]
        back = some.matrix(layer).inverse() or Affine()
        return [matrix_css(m @ back) for m in matrices]

    def _still(self, element: etree._Element, some: Evaluated, layer: Layer) -> None:
        """Add a picture from its file, once however many layers show it."""
        source = self.project.source(some.values(layer)["source"])
        if source is None or source.data is None:
            return
        if source.id not in self._images:
            self._images[source.id] = self.svg.name("image")
            data = base64.b64encode(png_bytes(decode_picture(source.data, source.name))).decode()
            size = {"width": str(source.width), "height": str(source.height), "id": self._images[source.id]}
            etree.SubElement(self.svg.definitions, "image", size, href=f"data:image/png;base64,{data}")
        etree.SubElement(element, "use", href=f"#{self._images[source.id]}")

    def _outlines(self, element: etree._Element, moments: Moments, layer: Layer) -> None:
        outlines = layer_kind(layer.kind).outlines
        assert outlines is not None
        arts = [outlines(at.values(layer), at.scene) for at in moments if at is not None]
        seen = [at.values(layer) for at in moments if at is not None] if layer.has("drawn_to") else []
        drawn = [tuple(values[name] for name in _STROKED) for values in seen]
        whole = all(part == (0.0, 100.0, 0.0) for part in drawn)
        drawn_part = [] if whole else [(low, high - low, offset) for low, high, offset in drawn]
        if all(art == arts[0] for art in arts) and not drawn_part:
            self.svg.item(element, arts[0], {}, Affine())
            return
        shapes = [_figures(art, Affine()) for art in arts]
        alike = all(len(row) == len(shapes[0]) for row in shapes)
        if not alike:
            self.notes.append(f"The outlines of “{layer.name}” change in number, so they stay as they are at first.")
            shapes = [shapes[0]] * len(shapes)
        for index in range(len(shapes[0])):
            self._figure(element, [row[index] for row in shapes], drawn_part)

    def _figure(self, element: etree._Element, figures: list[Figure], drawn: list[tuple[float, float, float]]) -> None:
        made = etree.SubElement(element, "path", self.svg.look(figures[0]))
        paths = [path_data(f.contours) for f in figures]
        if len({"".join(c for c in d if c.isalpha()) for d in paths}) > 1:
            # Points come and go: each stays until the next.
            self.timeline.morph(made, "d", paths[:-1] or paths, steps=True)
        else:
            self.timeline.morph(made, "d", paths)
        for name, paints in (
            ("fill", [f.fill for f in figures]), ("stroke", [f.stroke.paint if f.stroke else None for f in figures]),
        ):  # fmt: skip
            flat = [paint for paint in paints if isinstance(paint, tuple)]
            if len(flat) == len(paints) and len(set(flat)) > 1:
                self.timeline.morph(made, name, [_rgb(paint) for paint in flat])
                self.timeline.morph(made, f"{name}-opacity", [short(paint[3]) for paint in flat])
            elif any(isinstance(paint, Ramp) and paint != paints[0] for paint in paints):
                self.notes.append("A gradient that changes stays as it is at first.")
        widths = [f.stroke.width if f.stroke else 0.0 for f in figures]
        if len(set(widths)) > 1:
            self.timeline.morph(made, "stroke-width", [short(width) for width in widths])
        shifts = [f.stroke.dash_offset if f.stroke else 0.0 for f in figures]
        if len(set(shifts)) > 1 and not drawn:
            whole = next(f.stroke.dash_period for f in figures if f.stroke)
            # Where the loop begins anew they go on, instead of all the way back.
            onward = np.unwrap(shifts, period=whole) if whole > 0 else shifts
            self.timeline.morph(made, "stroke-dashoffset", [short(float(shift)) for shift in onward])
        if drawn:
            made.set("pathLength", "100")
            self.timeline.morph(made, "stroke-dasharray", [f"{short(max(part, 0))} 100" for _, part, _ in drawn])
            self.timeline.morph(made, "stroke-dashoffset", [short(-(low + offset)) for low, _, offset in drawn])

    def _nest(self, element: etree._Element, moments: Moments, layer: Layer) -> None:
        inner: Moments = []
        for at in moments:
            found = inner_frame(self.project, at.composition, layer, at.frame) if at is not None else None
            inner.append(Evaluated(self.project, *found) if found is not None else None)
        some = next((at for at in inner if at is not None), None)
        if some is None:
            return
        name = self.svg.name("frame")
        clip = etree.SubElement(self.svg.definitions, "clipPath", id=name)
        piece = some.composition
        etree.SubElement(clip, "rect", {"width": str(piece.width), "height": str(piece.height)})
        cut = etree.SubElement(element, "g", {"clip-path": f"url(#{name})"})
        if piece.background is not None:
            self.ground(cut, piece)
        self.members(cut, inner, None)


def _area(at: Evaluated, layer: Layer) -> float:
    """Return how much of a layer is within the frame at a moment, in square px; nothing where it is clear."""
    frame = (0.0, 0.0, float(at.scene.width), float(at.scene.height))
    box = intersect(at.matrix(layer).box(at.box(layer)), frame)
    if box is None or at.values(layer)["opacity"] <= 0:
        return 0.0
    return float((box[2] - box[0]) * (box[3] - box[1]))


def _rgb(colour: Sequence[float]) -> str:
    return f"rgb({','.join(str(round(255 * v)) for v in colour[:3])})"


def _crop(at: Evaluated, layer: Layer) -> Box:
    """Return what a crop leaves of a layer's box, in its own units."""
    values = at.values(layer)
    return cropped(at.box(layer), values["crop_across"], values["crop_down"])


def _within(at: Evaluated) -> float:
    """Return the frame that a moment shows: the end of a loop is its beginning."""
    piece = at.composition
    return at.frame % piece.length if piece.loop else min(at.frame, piece.length - 1)


def _needs_picture(at: Evaluated, layer: Layer) -> bool:
    """Whether a layer has something that outlines cannot say."""
    values = at.values(layer)
    cut = values["crop_softness"] > 0 and any((*values["crop_across"], *values["crop_down"]))
    return beyond_outlines(at, layer) or cut or stands_in_space(at, layer)


def _figures(item: Item, outer: Affine) -> list[Figure]:
    """Return the figures of art with their outlines where they are, whatever bundles they are in."""
    matrix = outer @ item.matrix
    if isinstance(item, Figure):
        contours = tuple(c.mapped(matrix) for c in item.contours)
        return [Figure(contours, item.fill, item.rule, item.stroke, item.stroke_first)]
    assert isinstance(item, Bundle)
    return [figure for part in item.items for figure in _figures(part, matrix)]


def _check(job: ExportJob, path: Path) -> tuple[int, float, int, int]:
    try:
        root = etree.fromstring(path.read_bytes())
        found = (len(job.times), float(job.seconds), int(root.get("width", "0")), int(root.get("height", "0")))
    except (OSError, etree.XMLSyntaxError, ValueError) as error:
        raise ExportError(
            f"“{job.path.name}” was not written completely; check for free space on the disk and try again."
        ) from error
    expect(job, path, found, (len(job.times), job.seconds, *job.size))
    return found


def _read(path: Path, index: int) -> np.ndarray | None:
    data = path.read_bytes()
    root = etree.fromstring(data)
    count = int(root.get("data-frames", "1"))
    try:
        return np.array(draw_document(at_moment(data, min(index / count, 1.0))))
    except FileError:
        return None


MOVING_SVG = Exporter("svg", "Moving SVG", ".svg", "Outlines: pages, crisp at any size", (), _write, _check,
                      read=_read, order=260)  # fmt: skip
register_exporter(MOVING_SVG)


