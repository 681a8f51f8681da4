"""Values of properties in words."""

from __future__ import annotations

from spiralis.core.arithmetic import with_unit
from spiralis.core.colour import to_hex
from spiralis.core.model import Kind, Parameter, Value

#: So many letters of what is written are said.
_MOST = 40


def value_text(parameter: Parameter, value: Value) -> str:
    """Return a value in words, with its unit: ``50 %``, ``120 px, 40 px``, ``#ffffff``; words and choices as they are.

    What has no words, such as a list of stops, is an empty text.
    """
    match parameter.kind:
        case Kind.COLOUR:
            return to_hex(value)
        case Kind.NUMBER | Kind.PAIR:
            numbers = parameter.to_array(value).tolist()
            return ", ".join(with_unit(f"{number:.5g}", parameter.unit) for number in numbers)
        case Kind.CHOICE | Kind.TEXT:
            text = " ".join(str(value).split())
            return text if len(text) <= _MOST else f"{text[: _MOST - 1]}…"
        case Kind.SWITCH:
            return "on" if value else "off"
        case Kind.ART:
            return "a shape"
    return ""
