"""Formats that a person keeps: a size with its rate and length."""

from __future__ import annotations

from fractions import Fraction

from attrs import frozen

from spiralis.app.library.own_list import LONGEST, kept_as_rows
from spiralis.core.model import check_format


@frozen
class OwnFormat:
    """A named size in px, frames per second, and seconds."""

    name: str
    width: int
    height: int
    rate: Fraction
    seconds: float

    @property
    def words(self) -> str:
        """What it is, in short."""
        rate = f"{float(self.rate):.5g}"
        return f"{self.width} × {self.height}, {rate} frames a second, {self.seconds:g} s"


def _from_row(row: dict[str, object]) -> OwnFormat:
    rate, seconds = Fraction(str(row["rate"])), float(str(row["seconds"]))
    form = OwnFormat(str(row["name"])[:LONGEST], int(str(row["width"])), int(str(row["height"])), rate, seconds)
    check_format(form.width, form.height, rate, max(round(seconds * float(rate)), 1))
    return form


#: A person's formats.
OWN_FORMATS = kept_as_rows(
    "Formats", "spiralis-formats", "formats", ".formats.json",
    lambda form: {"name": form.name, "width": form.width, "height": form.height, "rate": str(form.rate),
                  "seconds": form.seconds},
    _from_row, lambda form: form.name, "Keep this format… on the start page adds one.",
)  # fmt: skip
