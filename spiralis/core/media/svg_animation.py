"""Animation in SVG files of our own: CSS keyframes for place, opacity and sight, SMIL for outlines and colours.

``at_moment`` works the other way: what such a file shows at a moment, as a file without animation.
"""

from __future__ import annotations

import copy
import math
import re
from collections.abc import Mapping, Sequence

import numpy as np
from lxml import etree

from spiralis.core.geometry import Affine

#: Numbers nearer to each other than this are one: a hundredth of a pixel.
_NEAR = 0.01
_NUMBER = re.compile(r"-?\d+(?:\.\d+)?(?:e-?\d+)?")


def short(value: float) -> str:
    """Return a number with three digits after the point at most."""
    return f"{value:.3f}".rstrip("0").rstrip(".") or "0"


def matrix_css(m: Affine) -> str:
    """Return a map as a CSS transform."""
    parts = [f"{v:.5f}".rstrip("0").rstrip(".") or "0" for v in (m.a, m.b, m.c, m.d)]
    return f"matrix({','.join([*parts, short(m.e), short(m.f)])})"


class Timeline:
    """Writes animations of one length; ``rules`` are the CSS rules that were made."""

    def __init__(self, seconds: float, loops: bool) -> None:
        self.seconds, self.loops = seconds, loops
        self.rules: list[str] = []

    def animate(self, element: etree._Element, tracks: Mapping[str, tuple[Sequence[str], bool]]) -> None:
        """Animate CSS properties of an element.

        Args:
            element: it gets a style.
            tracks: for each property its values at even steps, the last at the very end, and whether it steps.
        """
        names, fixed = [], []
        for name, (values, steps) in tracks.items():
            if len(set(values)) == 1:
                fixed.append(f"{name}:{values[0]}")
                continue
            rule = f"k{len(self.rules)}"
            self.rules.append(f"@keyframes {rule}{{{_frames(name, values, steps)}}}")
            rounds = "infinite" if self.loops else "1 both"
            names.append(f"{rule} {short(self.seconds)}s {'step-end' if steps else 'linear'} {rounds}")
        style = ";".join([*fixed, *([f"animation:{','.join(names)}"] if names else [])])
        held = element.get("style")
        if style or held:
            element.set("style", ";".join(part for part in (held, style) if part))

    def morph(self, element: etree._Element, attribute: str, values: Sequence[str], steps: bool = False) -> None:
        """Animate an attribute through values at even steps, the last at the very end."""
        element.set(attribute, values[0])
        if len(set(values)) == 1:
            return
        rounds = "indefinite" if self.loops else "1"
        marks = {"attributeName": attribute, "values": ";".join(values), "dur": f"{short(self.seconds)}s",
                 "repeatCount": rounds, "calcMode": "discrete" if steps else "linear"}  # fmt: skip
        if not self.loops:
            marks["fill"] = "freeze"
        etree.SubElement(element, "animate", marks)


def _frames(name: str, values: Sequence[str], steps: bool) -> str:
    last = len(values) - 1
    rows = []
    for index in _needed(values, steps):
        rows.append(f"{_percent(index, last)}%{{{name}:{values[index]}}}")
    return "".join(rows)


def _percent(index: int, last: int) -> str:
    """Return where a frame begins in percent, never rounded up: a step must not come late."""
    return f"{math.floor(1e6 * index / last) / 1e4:.4f}".rstrip("0").rstrip(".") or "0"


def _needed(values: Sequence[str], steps: bool) -> list[int]:
    """Return the places that keyframes are needed at: where a value changes, or leaves the straight line."""
    last = len(values) - 1
    if steps:
        return sorted({0, last, *(i for i in range(1, last) if values[i] != values[i - 1])})
    numbers = np.array([[float(n) for n in _NUMBER.findall(value)] for value in values])
    kept, start = [0], 0
    for index in range(2, last + 1):
        # Straight as long as every number between lies on the line; turning maps are kept frame by frame.
        shares = (np.arange(start + 1, index) - start)[:, None] / (index - start)
        line = numbers[start] + (numbers[index] - numbers[start]) * shares
        turns = numbers.shape[1] == 6 and np.abs(numbers[index, :4] - numbers[start, :4]).max() > 1e-6
        if turns or np.abs(line - numbers[start + 1 : index]).max() > _NEAR:
            start = index - 1
            kept.append(start)
    return [*kept, last]


# -- the other way ---------------------------------------------------------------------------------------


def at_moment(data: bytes, share: float) -> bytes:
    """Return what a file of ours shows at a share (0 to 1) of its time, as an SVG without animation."""
    root = etree.fromstring(data)
    root = copy.deepcopy(root)
    css = "".join(str(text) for text in root.itertext("{*}style"))
    rules = dict(re.findall(r"@keyframes (\w+)\{((?:[^{}]*\{[^{}]*\})*)\}", css))
    for element in list(root.iter()):
        if not isinstance(element.tag, str):
            continue
        style = element.get("style")
        if style is not None:
            _settle(element, style, rules, share)
        for animation in element.findall("{*}animate"):
            values = animation.get("values", "").split(";")
            steps = animation.get("calcMode") == "discrete"
            # Discrete values share the time evenly; linear ones lie on its even steps.
            place = share * (len(values) if steps else len(values) - 1)
            element.set(animation.get("attributeName", ""), _between(values, min(place, len(values) - 1), steps))
            element.remove(animation)
    for held in root.findall("{*}style"):
        root.remove(held)
    return etree.tostring(root)


def _settle(element: etree._Element, style: str, rules: dict[str, str], share: float) -> None:
    found: dict[str, str] = {}
    for part in style.split(";"):
        name, _, value = part.partition(":")
        if name != "animation":
            found[name] = value
            continue
        for one in value.split(","):
            rows = re.findall(r"([\d.]+)%\{([\w-]+):([^}]*)\}", rules[one.split()[0]])
            places = [float(row[0]) / 100 for row in rows]
            values, steps = [row[2] for row in rows], "step-end" in one
            index = max(int(np.searchsorted(places, share, side="right")) - 1, 0)
            after = min(index + 1, len(rows) - 1)
            gap = places[after] - places[index]
            found[rows[0][1]] = _between(
                [values[index], values[after]], (share - places[index]) / gap if gap > 0 else 0.0, steps
            )
    if "transform" in found:
        element.set("transform", found.pop("transform"))
    for name in ("opacity", "visibility"):
        if name in found:
            element.set(name, found.pop(name))
    if found:
        element.set("style", ";".join(f"{name}:{value}" for name, value in found.items()))
    else:
        del element.attrib["style"]


def _between(values: Sequence[str], place: float, steps: bool) -> str:
    """Return the value at a place among values: numbers within it are mixed, unless it steps."""
    index = min(int(place), len(values) - 1)
    if steps or index == len(values) - 1 or values[index] == values[index + 1]:
        return values[index]
    share = place - index
    one, other = (_NUMBER.findall(values[i]) for i in (index, index + 1))
    if len(one) != len(other) or values[index].startswith("#"):
        return values[index] if share < 0.5 else values[index + 1]
    mixed = iter([short(float(a) + (float(b) - float(a)) * share) for a, b in zip(one, other, strict=True)])
    return _NUMBER.sub(lambda _: next(mixed), values[index])
