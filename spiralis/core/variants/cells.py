"""What a cell of a table says, as a value for a slot."""

from __future__ import annotations

from pathlib import Path

from spiralis.core.colour import parse_hex, to_hex
from spiralis.core.editing.slots import OpenSlot, filled, source_for
from spiralis.core.errors import ModelError
from spiralis.core.model import Kind, Project, Source, Value
from spiralis.core.model.slots import Variant

_YES, _NO = ("yes", "on", "true", "1"), ("no", "off", "false", "0")


def read_cell(project: Project, slot: OpenSlot, text: str, folder: Path | None) -> Value | Source:
    """Return the value that a cell means for a slot.

    Raises:
        SpiralisError: one sentence: a colour that is none, a picture that is not there …
    """
    kind = slot.kind(project)
    match kind:
        case Kind.SOURCE:
            return source_for(project, slot, text, folder)
        case Kind.COLOUR:
            return parse_hex(text)
        case Kind.NUMBER:
            try:
                return float(text.strip().rstrip("%").replace(",", "."))
            except ValueError:
                raise ModelError(f"“{text}” is not a number.") from None
        case Kind.SWITCH:
            word = text.strip().casefold()
            if word not in _YES + _NO:
                raise ModelError(f"“{text}” is neither yes nor no.")
            return word in _YES
    # A line break in a cell is often written as two signs.
    return text.replace("\\n", "\n")


def as_cell(project: Project, slot: OpenSlot) -> str:
    """Return what a slot holds now as the text of a cell."""
    value, kind = slot.value(project), slot.kind(project)
    if kind is Kind.SOURCE:
        source = project.source(value)
        return source.name if source is not None else ""
    if kind is Kind.COLOUR:
        return to_hex(value)
    if kind is Kind.NUMBER:
        return f"{value:g}"
    if kind is Kind.SWITCH:
        return "yes" if value else "no"
    return str(value)


def filled_by(
    project: Project, piece_id: str, slots: tuple[OpenSlot, ...], row: Variant, folder: Path | None
) -> Project:
    """Return the project with a row of its table filled in; empty cells leave what is there.

    Raises:
        SpiralisError: one sentence on the first cell that means nothing.
    """
    by_name = {slot.name: slot for slot in slots}
    values = {}
    for name, text in row.cells:
        if not text.strip():
            continue
        if name not in by_name:
            raise ModelError(f"There is no slot “{name}” in this piece any more; make it again, or drop its column.")
        values[name] = read_cell(project, by_name[name], text, folder)
    return filled(project, piece_id, values)
