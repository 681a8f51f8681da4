"""Plain arithmetic in number fields: ``1080/2 + 12``, ``50%``, ``(3 + 4) * 2 px``. No names, no functions."""

from __future__ import annotations

import ast
import math
import operator
import re
from collections.abc import Callable

from spiralis.core.errors import ModelError

_BINARY: dict[type, Callable[[float, float], float]] = {
    ast.Add: operator.add,
    ast.Sub: operator.sub,
    ast.Mult: operator.mul,
    ast.Div: operator.truediv,
}
_UNITS = r"(?:px|°|deg|fps|f|s)(?![a-z])"


def with_unit(number: str, unit: str) -> str:
    """Return a number as it is read: ``45°``, ``12 px``, ``40 levels``, ``1 level``."""
    if unit == "°":
        return f"{number}°"
    return f"{number} {_of_one(unit) if number == '1' else unit}".strip()


def _of_one(unit: str) -> str:
    """Return a unit as it is with the number 1: those that are words, longer than signs such as fps, lose their s."""
    return unit[:-1] if len(unit) > 3 and unit.isalpha() and unit.endswith("s") else unit


def size_text(size: float) -> str:
    """Return bytes for people: ``640 B``, ``812 kB``, ``3.42 MB``."""
    if size < 1e3:
        return f"{size:.0f} B"
    return f"{size / 1e6:.2f} MB" if size >= 999_500 else f"{size / 1e3:.0f} kB"


def calculate(text: str, unit: str = "", whole: float = 100.0) -> float:
    """Return the value of an arithmetic text.

    Args:
        text: numbers, ``+ - * /``, brackets, ``%`` and the field's own unit; a comma is a decimal point.
        unit: the field's unit. In a field of percent a ``%`` changes nothing.
        whole: what 100 % means in a field of any other unit.

    Raises:
        ModelError: anything else, a division by zero, a result that is no finite number.
    """
    if len(text) > 200:
        raise ModelError("That calculation is too long; use at most 200 letters.")
    cleaned = text.strip().replace("×", "*").replace("−", "-").replace("÷", "/").replace(",", ".")
    if unit and unit != "%":
        cleaned = cleaned.replace(unit, "").replace(_of_one(unit), "")
    cleaned = re.sub(_UNITS, "", cleaned)
    share = "" if unit == "%" else f"*({whole!r}/100)"
    cleaned = re.sub(r"(\d+(?:\.\d*)?|\.\d+)\s*%", lambda match: f"({match[1]}{share})", cleaned)
    try:
        value = _evaluate(ast.parse(cleaned.strip(), mode="eval").body)
    except (SyntaxError, ValueError, RecursionError, MemoryError):
        raise ModelError(f"“{text.strip()}” is not a number or a calculation such as 1080/2 + 12.") from None
    except (ZeroDivisionError, OverflowError):
        raise ModelError(f"“{text.strip()}” has no finite result.") from None
    if not math.isfinite(value):
        raise ModelError(f"“{text.strip()}” has no finite result.")
    return value


def _evaluate(node: ast.expr) -> float:
    if isinstance(node, ast.Constant) and isinstance(node.value, int | float) and not isinstance(node.value, bool):
        return float(node.value)
    if isinstance(node, ast.UnaryOp) and isinstance(node.op, ast.USub | ast.UAdd):
        value = _evaluate(node.operand)
        return -value if isinstance(node.op, ast.USub) else value
    if isinstance(node, ast.BinOp) and type(node.op) in _BINARY:
        return _BINARY[type(node.op)](_evaluate(node.left), _evaluate(node.right))
    raise ValueError("not arithmetic")
