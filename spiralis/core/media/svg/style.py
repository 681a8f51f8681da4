"""The cascade: presentation attributes, style sheets and style attributes, with inheritance."""

from __future__ import annotations

import cssselect2
import tinycss2

from spiralis.core.media.svg.allowance import Allowance
from spiralis.core.media.svg.document import Element, local_name

INHERITED = frozenset(
    "fill fill-opacity fill-rule stroke stroke-opacity stroke-width stroke-linecap stroke-linejoin stroke-miterlimit "
    "stroke-dasharray stroke-dashoffset color visibility clip-rule paint-order font-family font-size font-weight "
    "font-style font-stretch text-anchor letter-spacing word-spacing marker-start marker-mid marker-end "
    "writing-mode direction".split()
)
OWN = frozenset(
    "opacity display clip-path mask filter mix-blend-mode isolation stop-color stop-opacity overflow transform "
    "transform-origin vector-effect text-decoration text-decoration-line baseline-shift dominant-baseline mask-type "
    "x y width height cx cy r rx ry d".split()
)
#: Geometry may stand in a style sheet too (SVG 2), but as attributes it is read by whoever needs it.
_GEOMETRY = frozenset("x y width height cx cy r rx ry d transform".split())
Style = dict[str, str]


class Cascade:
    """Computes the style of elements of one document."""

    def __init__(self, root: Element, allowance: Allowance) -> None:
        self._allowance = allowance
        self._rules: dict[Element, Style] = {}
        sheets = [element.text or "" for element in root.iter() if local_name(element) == "style"]
        if sheets:
            self._match(root, "\n".join(sheets))

    def _match(self, root: Element, text: str) -> None:
        matcher = cssselect2.Matcher()
        for rule in tinycss2.parse_stylesheet(text, skip_comments=True, skip_whitespace=True):
            self._allowance.left()
            if rule.type != "qualified-rule":
                continue
            try:
                selectors = cssselect2.compile_selector_list(rule.prelude)
            except cssselect2.SelectorError:
                continue
            declared = _declarations(rule.content)
            for selector in selectors:
                if selector.pseudo_element is None:
                    matcher.add_selector(selector, declared)
        for wrapper in cssselect2.ElementWrapper.from_xml_root(root).iter_subtree():
            self._allowance.left()
            style: Style = {}
            urgent: Style = {}
            for _, _, _, declared in matcher.match(wrapper):
                for name, value, important in declared:
                    (urgent if important else style)[name] = value
            if style or urgent:
                self._rules[wrapper.etree_element] = {**style, **{f"!{name}": v for name, v in urgent.items()}}

    def own(self, element: Element) -> Style:
        """Return what is set on an element itself, strongest last."""
        style: Style = {}
        for name, value in element.attrib.items():
            if name in INHERITED or (name in OWN and name not in _GEOMETRY):
                style[str(name)] = str(value).strip()
        ruled = self._rules.get(element, {})
        style.update({name: value for name, value in ruled.items() if not name.startswith("!")})
        text = element.get("style")
        if text:
            declared = _declarations(tinycss2.parse_component_value_list(text, skip_comments=True))
            style.update({name: value for name, value, _ in declared})
        style.update({name[1:]: value for name, value in ruled.items() if name.startswith("!")})
        return style

    def of(self, element: Element, inherited: Style) -> Style:
        """Return the style of an element whose parent has the style ``inherited``."""
        style = {name: value for name, value in inherited.items() if name in INHERITED}
        for name, value in self.own(element).items():
            if value == "inherit":
                if name in inherited:
                    style[name] = inherited[name]
            elif value in ("initial", "unset", "revert"):
                style.pop(name, None)
            else:
                style[name] = value
        return style


def _declarations(content: object) -> list[tuple[str, str, bool]]:
    found = []
    for item in tinycss2.parse_blocks_contents(content, skip_comments=True, skip_whitespace=True):
        if item.type == "declaration" and (item.lower_name in INHERITED or item.lower_name in OWN):
            found.append((item.lower_name, tinycss2.serialize(item.value).strip(), bool(item.important)))
        elif item.type == "declaration" and item.lower_name == "marker":
            found += [
                (f"marker-{end}", tinycss2.serialize(item.value).strip(), False) for end in ("start", "mid", "end")
            ]
    return found
