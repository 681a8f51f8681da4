"""Build vector art from SVG elements: shapes, text, groups, ``use``, clip paths and masks."""

from __future__ import annotations

from attrs import evolve, frozen

from spiralis.core.errors import FileError
from spiralis.core.geometry import Affine, Box
from spiralis.core.media.svg.allowance import Allowance
from spiralis.core.media.svg.document import Element, children, href_of, ids_of, local_name
from spiralis.core.media.svg.outlines import SHAPES, outline_of
from spiralis.core.media.svg.paints import NeedsPicture, Paints, reference
from spiralis.core.media.svg.style import Cascade, Style
from spiralis.core.media.svg.values import fitted, length, numbers_in, share, transform, view_box
from spiralis.core.media.svg.words import read_words
from spiralis.core.model import BLEND_MODES, Project
from spiralis.core.model.art import Bundle, Contour, Figure, Item
from spiralis.core.model.forms import rectangle
from spiralis.core.raster.vectors import art_box

GROUPS = frozenset(("g", "a", "svg", "switch"))
MOST_DRAWN = 50_000
DEEPEST_USE = 24


@frozen
class Place:
    """Where an element stands: the style it inherits and the port that percentages refer to."""

    style: Style
    port: tuple[float, float]
    depth: int = 0


class Builder:
    """Turns elements of one document into art; ``notes`` gathers what is not quite as it was."""

    def __init__(self, root: Element, name: str, fonts: Project, allowance: Allowance) -> None:
        self.name, self.allowance = name, allowance
        self.ids = ids_of(root)
        self.cascade = Cascade(root, allowance)
        self.paints = Paints(self.ids, self.cascade)
        self.fonts = fonts
        self.notes: list[str] = []
        self._drawn = 0

    def item(self, element: Element, place: Place) -> Item | None:
        """Return what an element draws, in its parent's units; None for nothing.

        Raises:
            NeedsPicture: there is something in it that has no editable counterpart.
            FileError: the document expands to more than can be drawn.
        """
        self._count()
        kind = local_name(element)
        style = self.cascade.of(element, place.style)
        if style.get("display") == "none":
            return None
        if kind not in SHAPES | GROUPS | {"text", "use"}:
            if kind in ("image", "foreignObject"):
                raise NeedsPicture("a picture within a group" if kind == "image" else "foreign content")
            return None
        matrix = element_matrix(element, style)
        if matrix.inverse() is None:
            return None
        inner = Place(style, place.port, place.depth)
        if kind in SHAPES:
            content = self._figure(element, style, place.port)
        elif kind == "text":
            content = self._text(element, style, place.port)
        elif kind == "use":
            content = self._use(element, inner)
        else:
            content = self._group(element, inner)
        if content is None:
            return None
        return self.finished(content, element, style, matrix, place)

    def finished(self, content: Item, element: Element, style: Style, matrix: Affine, place: Place) -> Item:
        """Wrap content in the element's opacity, mix, clip path and mask, and place it."""
        if style.get("filter", "none") != "none":
            raise NeedsPicture("a filter")
        mixed = style.get("mix-blend-mode", "normal")
        bundle = Bundle(
            (content,),
            share(style.get("opacity")),
            mixed if mixed in BLEND_MODES else "normal",
            self.clips(style, content, place),
            matrix=matrix,
        )
        mask = reference(style.get("mask"))
        if mask is not None and mask[0] in self.ids:
            bundle = self._masked(bundle, self.ids[mask[0]], art_box(content), place)
        if bundle.plain and isinstance(content, Bundle):
            return evolve(content, matrix=matrix @ content.matrix)
        return evolve(content, matrix=matrix) if bundle.plain and isinstance(content, Figure) else bundle

    def _count(self) -> None:
        self.allowance.left()
        self._drawn += 1
        if self._drawn > MOST_DRAWN:
            raise FileError(f"“{self.name}” repeats its parts over {MOST_DRAWN} times; simplify it.")

    def _figure(self, element: Element, style: Style, port: tuple[float, float]) -> Item | None:
        contours = outline_of(element, style, port)
        return self._painted(contours, style, port) if contours else None

    def _painted(self, contours: tuple[Contour, ...], style: Style, port: tuple[float, float]) -> Figure | None:
        if style.get("visibility") in ("hidden", "collapse"):
            return None
        if any(style.get(f"marker-{end}", "none") != "none" for end in ("start", "mid", "end")):
            raise NeedsPicture("markers on a line")
        if style.get("vector-effect") == "non-scaling-stroke" and style.get("stroke", "none") != "none":
            raise NeedsPicture("a stroke that does not scale")
        # Boxes for gradients are those of the bare outline (SVG 2, section 8.10).
        box = art_box(Figure(contours, fill=(0.0, 0.0, 0.0, 1.0)))
        if box is None:
            box = art_box(Bundle(tuple(Figure((c,), (0.0, 0.0, 0.0, 1.0)) for c in contours)))
        fill = self.paints.fill(style, box, port)
        stroke = self.paints.stroke(style, box, port)
        if fill is None and stroke is None:
            return None
        rule = "evenodd" if style.get("fill-rule") == "evenodd" else "nonzero"
        order = style.get("paint-order", "normal").split()
        first = "stroke" in order and ("fill" not in order or order.index("stroke") < order.index("fill"))
        return Figure(contours, fill, rule, stroke, first)

    def _text(self, element: Element, style: Style, port: tuple[float, float]) -> Item | None:
        figures = []
        for words in read_words(element, style, self.cascade, self.fonts, self.notes):
            if words.contours and (figure := self._painted(words.contours, words.style, port)) is not None:
                figures.append(figure)
        return Bundle(tuple(figures)) if figures else None

    def group_children(self, element: Element) -> list[Element]:
        """Return the children that are drawn; of a ``switch`` the first that asks for nothing special."""
        inside = list(children(element))
        if local_name(element) == "switch":
            plain = [c for c in inside if not c.get("requiredExtensions") and not c.get("systemLanguage")]
            return (plain or inside)[:1]
        return inside

    def _group(self, element: Element, place: Place) -> Item | None:
        if local_name(element) == "svg":
            return self._port(element, element, place)
        return self._bundle(self.group_children(element), place)

    def _bundle(self, elements: list[Element], place: Place) -> Bundle | None:
        items = [item for element in elements if (item := self.item(element, place)) is not None]
        return Bundle(tuple(items)) if items else None

    def _use(self, element: Element, place: Place) -> Item | None:
        href = href_of(element)
        target = self.ids.get(href[1:]) if href.startswith("#") else None
        if target is None:
            return None
        if place.depth >= DEEPEST_USE:
            raise FileError(f"“{self.name}” uses its parts within themselves; remove that circle.")
        deeper = evolve(place, depth=place.depth + 1)
        em = length(place.style.get("font-size"), 16.0)
        shift = Affine.shift(
            length(element.get("x"), 0.0, place.port[0], em), length(element.get("y"), 0.0, place.port[1], em)
        )
        if local_name(target) in ("symbol", "svg"):
            style = self.cascade.of(target, place.style)
            content = self._port(target, element, evolve(deeper, style=style))
        else:
            content = self.item(target, deeper)
        if content is None:
            return None
        return evolve(content, matrix=shift @ content.matrix)

    def _port(self, element: Element, sized_by: Element, place: Place) -> Item | None:
        """Return the content of an inner ``svg`` or a ``symbol``, fitted and cut to its port."""
        em = length(place.style.get("font-size"), 16.0)

        def get(name: str, default: str, whole: float) -> float:
            return length(sized_by.get(name) or element.get(name) or default, 0.0, whole, em)

        width, height = get("width", "100%", place.port[0]), get("height", "100%", place.port[1])
        x, y = (0.0, 0.0)
        if local_name(element) == "svg":
            x, y = length(element.get("x"), 0.0, place.port[0], em), length(element.get("y"), 0.0, place.port[1], em)
        if width <= 0 or height <= 0:
            return None
        box = view_box(element.get("viewBox"))
        matrix = fitted(box, element.get("preserveAspectRatio"), (width, height))[0] if box else Affine()
        port = (box[2], box[3]) if box else (width, height)
        content = self._bundle(list(children(element)), evolve(place, port=port))
        if content is None:
            return None
        placed = Affine.shift(x, y) @ matrix
        if place.style.get("overflow", "hidden") in ("visible", "auto"):
            return evolve(content, matrix=placed)
        frame = Figure((rectangle(x, y, width, height),), (0.0, 0.0, 0.0, 1.0))
        return Bundle((evolve(content, matrix=placed),), clips=((frame,),))

    def clips(self, style: Style, content: Item, place: Place) -> tuple[tuple[Figure, ...], ...]:
        """Return the clips that a style names, in the units of the element."""
        found = reference(style.get("clip-path"))
        if found is None or found[0] not in self.ids:
            if style.get("clip-path", "none") != "none" and found is None:
                raise NeedsPicture("a clip by a basic shape")
            return ()
        return self._clip(self.ids[found[0]], art_box(content), place, 0)

    def _clip(self, element: Element, box: Box | None, place: Place, depth: int) -> tuple[tuple[Figure, ...], ...]:
        if local_name(element) != "clipPath" or depth > 8:
            return ()
        outer = transform(element.get("transform"))
        if element.get("clipPathUnits") == "objectBoundingBox":
            left, top, right, bottom = box or (0.0, 0.0, 0.0, 0.0)
            outer = outer @ Affine(right - left, 0, 0, bottom - top, left, top)
        figures: list[Figure] = []
        style = self.cascade.of(element, place.style)
        for child in children(element):
            own = self.cascade.of(child, style)
            if own.get("clip-path", "none") != "none":
                raise NeedsPicture("a clip path that is clipped itself")
            plain = {
                **own,
                "fill": "black",
                "stroke": "none",
                "fill-opacity": "1",
                "fill-rule": own.get("clip-rule", ""),
            }
            if own.get("display") == "none" or own.get("visibility") == "hidden":
                continue
            figures += self._clip_figures(child, plain, outer, place)
        again = reference(self.cascade.own(element).get("clip-path"))
        more = self._clip(self.ids[again[0]], box, place, depth + 1) if again and again[0] in self.ids else ()
        return (tuple(figures), *more)

    def _clip_figures(self, child: Element, style: Style, outer: Affine, place: Place) -> list[Figure]:
        kind = local_name(child)
        matrix = outer @ element_matrix(child, style)
        content: Item | None = None
        if kind in SHAPES:
            content = self._figure(child, style, place.port)
        elif kind == "text":
            content = self._text(child, style, place.port)
        elif kind == "use":
            content = self._use(child, evolve(place, style=style))
        return _flat(content, matrix) if content is not None else []

    def _masked(self, bundle: Bundle, element: Element, box: Box | None, place: Place) -> Bundle:
        if local_name(element) != "mask":
            return bundle
        style = self.cascade.of(element, {})
        if style.get("mask", "none") != "none":
            raise NeedsPicture("a mask that is masked itself")
        left, top, right, bottom = box or (0.0, 0.0, 0.0, 0.0)
        by_box = Affine(right - left, 0, 0, bottom - top, left, top)
        units = by_box if element.get("maskContentUnits") == "objectBoundingBox" else Affine()
        content = self._bundle(list(children(element)), Place(style, place.port, place.depth + 1))
        if place.depth > DEEPEST_USE:
            raise FileError(f"“{self.name}” uses its masks within themselves; remove that circle.")
        whole, frame_of = (
            ((1.0, 1.0), by_box) if element.get("maskUnits") != "userSpaceOnUse" else (place.port, Affine())
        )
        x, y = length(element.get("x") or "-10%", 0.0, whole[0]), length(element.get("y") or "-10%", 0.0, whole[1])
        width = length(element.get("width") or "120%", 0.0, whole[0])
        height = length(element.get("height") or "120%", 0.0, whole[1])
        frame = Figure((rectangle(x, y, width, height),), (0.0, 0.0, 0.0, 1.0), matrix=frame_of)
        shown = (evolve(content, matrix=units @ content.matrix),) if content is not None else ()
        by_alpha = style.get("mask-type") == "alpha"
        return evolve(bundle, mask=Bundle(shown, clips=((frame,),)), mask_by_alpha=by_alpha)


def element_matrix(element: Element, style: Style) -> Affine:
    """Return the element's own transform."""
    matrix = transform(style.get("transform") or element.get("transform"))
    origin = numbers_in(style.get("transform-origin", ""))
    if len(origin) == 2 and "%" not in style["transform-origin"]:
        return Affine.shift(*origin) @ matrix @ Affine.shift(-origin[0], -origin[1])
    return matrix


def _flat(item: Item, matrix: Affine) -> list[Figure]:
    """Return the figures of an item with all matrices gathered in each."""
    total = matrix @ item.matrix
    if isinstance(item, Figure):
        return [evolve(item, matrix=total)]
    return [figure for part in item.items for figure in _flat(part, total)]
