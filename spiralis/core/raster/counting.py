"""A number among words: what # stands for, and how it is written."""

from __future__ import annotations

from collections.abc import Mapping
from decimal import ROUND_HALF_UP, Decimal

from spiralis.core.model.parameter import Kind, Parameter, Value

#: The sign among the words that the number takes the place of.
SIGN = "#"
FORMS = ("itself", COUNTS := "a number", MINUTES := "minutes and seconds", "hours, minutes and seconds")
#: How it is written, as a number in thousands with a half shows.
MARKS = ("1234.5", "1,234.5", "1.234,5", "1 234,5", "1’234.5")
_BY = ("number_form", FORMS[1:])

PARAMETERS = (
    Parameter("number_form", "# stands for", Kind.CHOICE, FORMS[0],
              "What # among the words shows: the sign, a number that can count, or a clock", choices=FORMS),
    Parameter("number", "Number", Kind.NUMBER, 0.0, "What stands where # is among the words, for clocks in seconds",
              needs=_BY),
    Parameter("number_counted", "Counted", Kind.NUMBER, 100.0, "How far it has counted to that number; keys on this"
              " count", "%", needs=_BY),
    Parameter("number_from", "Counts from", Kind.NUMBER, 0.0, "Where it begins to count", needs=_BY),
    Parameter("number_decimals", "Decimals", Kind.NUMBER, 0.0, "How many digits come after the point", "", 0, 6,
              needs=_BY),
    Parameter("number_digits", "Digits", Kind.NUMBER, 1.0, "How many come before it at least, or before a clock's first"
              " colon: noughts fill them up", "", 1, 12, needs=_BY),
    Parameter("number_marks", "Written like", Kind.CHOICE, MARKS[0], "The marks between thousands and before decimals",
              choices=MARKS, needs=_BY),
)  # fmt: skip


def number_text(values: Mapping[str, Value]) -> str:
    """Return what # stands for in words with these values; empty where that is the sign itself.

    Halves are rounded away from nought.
    """
    form = values["number_form"]
    if form == FORMS[0]:
        return ""
    decimals, digits = int(values["number_decimals"]), int(values["number_digits"])
    first, last = values["number_from"], values["number"]
    counted = first + (last - first) * (values["number_counted"] / 100)
    # The shortest decimals that are this number: a tenth is no hair more or less than one.
    number = Decimal(repr(round(float(counted), 9))).quantize(Decimal(1).scaleb(-decimals), ROUND_HALF_UP)
    sign, number = "−" if number < 0 else "", abs(number)
    point, between = _marks(values["number_marks"])
    if form == COUNTS:
        whole, _, rest = f"{number:0{digits + bool(decimals) * (decimals + 1)}f}".partition(".")
        return sign + _grouped(whole, between) + (point + rest if rest else "")
    minutes, seconds = divmod(number, 60)
    seconds_text = f"{seconds:0{2 + bool(decimals) * (decimals + 1)}f}".replace(".", point)
    if form == MINUTES:
        return f"{sign}{int(minutes):0{digits}d}:{seconds_text}"
    hours, minutes = divmod(minutes, 60)
    return f"{sign}{int(hours):0{digits}d}:{int(minutes):02d}:{seconds_text}"


def _marks(written: str) -> tuple[str, str]:
    """Return what stands before decimals and between thousands; a space there keeps the line together."""
    return written[-2], written[1].replace(" ", "\N{NO-BREAK SPACE}") if len(written) > len(MARKS[0]) else ""


def _grouped(whole: str, between: str) -> str:
    first = len(whole) % 3
    parts = [whole[:first], *(whole[n : n + 3] for n in range(first, len(whole), 3))]
    return between.join(part for part in parts if part)
