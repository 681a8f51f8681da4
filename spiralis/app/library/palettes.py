"""Palettes that a person keeps: some colours under a name."""

from __future__ import annotations

from attrs import frozen

from spiralis.app.library.own_list import LONGEST, kept_as_rows
from spiralis.core.colour import Colour, parse_hex, to_hex
from spiralis.core.model.project import MOST_SWATCHES


@frozen
class Palette:
    """Colours that go together."""

    name: str
    colours: tuple[Colour, ...]


def _from_row(row: dict[str, list[str]]) -> Palette:
    return Palette(str(row["name"])[:LONGEST], tuple(parse_hex(str(text)) for text in row["colours"][:MOST_SWATCHES]))


#: A person's palettes.
OWN_PALETTES = kept_as_rows(
    "Palettes", "spiralis-palettes", "palettes", ".palettes.json",
    lambda palette: {"name": palette.name, "colours": [to_hex(colour) for colour in palette.colours]},
    _from_row, lambda palette: palette.name, "Palettes in the colour window adds the swatches.",
)  # fmt: skip
