"""Fills, strokes and gradients (SVG 2, chapters 13 and 14)."""

from __future__ import annotations

import math
import re

from spiralis.core.colour import Colour
from spiralis.core.geometry import Affine, Box
from spiralis.core.media.svg.document import Element, children, href_of, local_name
from spiralis.core.media.svg.style import Cascade, Style
from spiralis.core.media.svg.values import colour, length, numbers_in, share, transform
from spiralis.core.model.art import CAPS, JOINS, SPREADS, Paint, Ramp, Stroke

_REFERENCE = re.compile(r"url\(\s*['\"]?#([^'\")]+)['\"]?\s*\)\s*(.*)")
Port = tuple[float, float]
BLACK: Colour = (0.0, 0.0, 0.0, 1.0)


class NeedsPicture(Exception):
    """Something that has no editable counterpart; the text says what, for the list of notes."""


def reference(text: str | None) -> tuple[str, str] | None:
    """Return (id, what follows) of ``url(#id)``, or None."""
    match = _REFERENCE.match(text.strip()) if text else None
    return (match[1], match[2].strip()) if match else None


class Paints:
    """Reads the paints of one document."""

    def __init__(self, ids: dict[str, Element], cascade: Cascade) -> None:
        self._ids = ids
        self._cascade = cascade

    def current(self, style: Style) -> Colour:
        """Return the value of ``color``."""
        return colour(style.get("color", "black")) or BLACK

    def paint(self, text: str, style: Style, opacity: float, box: Box | None, port: Port) -> Paint | None:
        """Return a paint; None for no paint.

        Raises:
            NeedsPicture: a pattern.
        """
        found = reference(text)
        if found is not None:
            server = self._ids.get(found[0])
            kind = local_name(server) if server is not None else ""
            if server is not None and kind in ("linearGradient", "radialGradient"):
                return self._ramp(server, opacity, box, port)
            if kind == "pattern":
                raise NeedsPicture("a pattern fill")
            text = found[1] or "none"
        if text.strip() in ("none", "") or text.strip().startswith("context-"):
            return None
        found_colour = colour(text, self.current(style))
        if found_colour is None:
            return None
        return (*found_colour[:3], found_colour[3] * opacity)

    def fill(self, style: Style, box: Box | None, port: Port) -> Paint | None:
        """Return what fills a shape."""
        return self.paint(style.get("fill", "black"), style, share(style.get("fill-opacity")), box, port)

    def stroke(self, style: Style, box: Box | None, port: Port) -> Stroke | None:
        """Return the stroke of a shape, or None."""
        diagonal = math.hypot(*port) / math.sqrt(2)
        em = length(style.get("font-size"), 16.0)
        width = length(style.get("stroke-width"), 1.0, diagonal, em)
        paint = self.paint(style.get("stroke", "none"), style, share(style.get("stroke-opacity")), box, port)
        if paint is None or width <= 0:
            return None
        dash = _dashes(style.get("stroke-dasharray", "none"), diagonal, em)
        join = style.get("stroke-linejoin", "miter")
        cap = style.get("stroke-linecap", "butt")
        return Stroke(
            paint,
            width,
            cap if cap in CAPS else "butt",
            join if join in JOINS else "miter",
            max(length(style.get("stroke-miterlimit"), 4.0), 1.0),
            dash,
            length(style.get("stroke-dashoffset"), 0.0, diagonal, em),
        )

    def _chain(self, element: Element) -> list[Element]:
        """Return a gradient and those it takes what it lacks from."""
        chain = [element]
        while len(chain) < 32:
            href = href_of(chain[-1])
            following = self._ids.get(href[1:]) if href.startswith("#") else None
            if following is None or following in chain:
                break
            chain.append(following)
        return chain

    def _ramp(self, element: Element, opacity: float, box: Box | None, port: Port) -> Paint | None:
        chain = self._chain(element)
        stops = next((s for link in chain if (s := self._stops(link, opacity))), ())
        if not stops:
            return None
        radial = local_name(element) == "radialGradient"
        alike = [link for link in chain if local_name(link) == local_name(element)]

        def get(name: str, among: list[Element] | None = None) -> str | None:
            return next((value for link in among or chain if (value := link.get(name)) is not None), None)

        by_box = get("gradientUnits") != "userSpaceOnUse"
        if by_box and (box is None or box[2] - box[0] <= 0 or box[3] - box[1] <= 0):
            # A shape without width or height is not painted by what is measured in its box.
            return None
        wide, high = (1.0, 1.0) if by_box else port
        diagonal = math.hypot(wide, high) / math.sqrt(2)

        def number(name: str, default: str, whole: float) -> float:
            return length(get(name, alike) or default, length(default, 0.0, whole), whole)

        if radial:
            cx, cy, r = number("cx", "50%", wide), number("cy", "50%", high), number("r", "50%", diagonal)
            fx = number("fx", str(cx), wide) if get("fx", alike) else cx
            fy = number("fy", str(cy), high) if get("fy", alike) else cy
            points: tuple[float, ...] = (cx, cy, r, *_inside(fx, fy, cx, cy, r), number("fr", "0", diagonal))
        else:
            points = (number("x1", "0%", wide), number("y1", "0%", high),
                      number("x2", "100%", wide), number("y2", "0%", high))  # fmt: skip
        matrix = transform(get("gradientTransform"))
        if by_box and box is not None:
            matrix = Affine(box[2] - box[0], 0, 0, box[3] - box[1], box[0], box[1]) @ matrix
        if matrix.inverse() is None or len(stops) == 1:
            return stops[-1][1:]
        spread = get("spreadMethod") or "pad"
        return Ramp(radial, points, stops, spread if spread in SPREADS else "pad", matrix)

    def _stops(self, gradient: Element, opacity: float) -> tuple[tuple[float, float, float, float, float], ...]:
        stops = []
        for stop in children(gradient):
            if local_name(stop) != "stop":
                continue
            style = self._cascade.own(stop)
            shade = colour(style.get("stop-color", "black"), self.current(style)) or BLACK
            alpha = shade[3] * share(style.get("stop-opacity")) * opacity
            stops.append((share(stop.get("offset"), 0.0), *shade[:3], alpha))
        return tuple(stops)


def _inside(fx: float, fy: float, cx: float, cy: float, r: float) -> tuple[float, float]:
    """Bring a focal point that lies outside the circle back to its rim (SVG 1.1; SVG 2 leaves a cone)."""
    away = math.hypot(fx - cx, fy - cy)
    if away <= r * 0.999 or away == 0:
        return fx, fy
    return cx + (fx - cx) / away * r * 0.999, cy + (fy - cy) / away * r * 0.999


def _dashes(text: str, diagonal: float, em: float) -> tuple[float, ...]:
    if text.strip() in ("none", ""):
        return ()
    parts = [part for part in re.split(r"[\s,]+", text.strip()) if part]
    values = tuple(length(part, -1.0, diagonal, em) for part in parts)
    return values if values and min(values) >= 0 and sum(values) > 0 and numbers_in(text) else ()
