"""Slots: what of a piece is meant to be filled in anew, and rows of a table that fill them."""

from __future__ import annotations

import math

from attrs import evolve, frozen

from spiralis.core.errors import ModelError
from spiralis.core.model.parameter import Kind, Parameter

#: How a picture fills the room of the one before it; how words do that are wider than those before.
PICTURE_FITS = ("contain", "cover", "width", "as set")
WORD_FITS = ("as set", "shrink", "wrap")
_KINDS = frozenset({Kind.TEXT, Kind.SOURCE, Kind.COLOUR, Kind.FONT, Kind.NUMBER, Kind.CHOICE, Kind.SWITCH})
LONGEST_SLOT_NAME, MOST_VARIANTS = 60, 10_000


def may_be_slot(parameter: Parameter) -> bool:
    """Whether a property can be filled in anew: by its sort, or because a file may take the place of what it holds."""
    return parameter.kind in _KINDS or parameter.all_shown


@frozen
class Slot:
    """A property of a layer that is filled in anew; slots of one name are filled together.

    ``longest`` is how many letters words may have, ``ratio`` what width beside height a picture is to have (0: any),
    ``choices`` the only values there are (none: any). ``fit`` is one of PICTURE_FITS or WORD_FITS; ``room`` what the
    content had, width and height in px with the layer's scale, as the slot was made, and ``base`` the size of its type.
    ``scale`` and ``type`` are the layer's scale (1 for 100 %) and the size of its type when it was last filled, 0 where
    nobody noted them: what differs from them since, the room differs by as well.
    """

    name: str
    property: str
    help: str = ""
    longest: int = 0
    ratio: float = 0.0
    choices: tuple[str, ...] = ()
    fit: str = "as set"
    room: tuple[float, float] = (0.0, 0.0)
    base: float = 0.0
    scale: tuple[float, float] = (0.0, 0.0)
    type: float = 0.0

    def __attrs_post_init__(self) -> None:
        if not self.name.strip() or len(self.name) > LONGEST_SLOT_NAME:
            raise ModelError(f"A slot has a name of 1 to {LONGEST_SLOT_NAME} letters.")
        if self.fit not in PICTURE_FITS + WORD_FITS:
            known = ", ".join(dict.fromkeys(PICTURE_FITS + WORD_FITS))
            raise ModelError(f"A slot's content fits by one of {known}, and “{self.fit}” is not among them.")
        numbers = (self.ratio, *self.room, self.base, *self.scale, self.type)
        if not (0 <= self.longest <= 20_000 and all(math.isfinite(n) and n >= 0 for n in numbers)):
            raise ModelError(f"The limits of the slot “{self.name}” are numbers from 0 on.")

    def asked(self) -> Slot:
        """Return the slot as a person set it, without what was measured, which each filling notes anew."""
        return evolve(self, room=(0.0, 0.0), base=0.0, scale=(0.0, 0.0), type=0.0)


@frozen
class Variant:
    """A row of a piece's table: what its slots hold, by their names, as text: words, #rrggbb, a file's name."""

    cells: tuple[tuple[str, str], ...] = ()

    def __attrs_post_init__(self) -> None:
        if len({name for name, _ in self.cells}) < len(self.cells):
            raise ModelError("A row fills each slot once.")

    def cell(self, name: str) -> str | None:
        """Return what the row holds for a slot, or None where it leaves it as it is."""
        return next((text for slot, text in self.cells if slot == name), None)

    def with_cell(self, name: str, text: str | None) -> Variant:
        """Return the row with another cell, or without it."""
        kept = tuple((slot, old) for slot, old in self.cells if slot != name)
        return Variant(kept if text is None else (*kept, (name, text)))
