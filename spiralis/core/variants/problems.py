"""What is wrong with a row before anything is drawn."""

from __future__ import annotations

from pathlib import Path

from spiralis.core.checks.piece import PieceCase
from spiralis.core.checks.piece.clearness import clearness
from spiralis.core.checks.piece.reading import readers_of
from spiralis.core.editing.slots import OpenSlot, filled, overflow
from spiralis.core.errors import SpiralisError
from spiralis.core.model import Composition, Kind, Project, Source
from spiralis.core.model.slots import Variant
from spiralis.core.raster.fonts import families
from spiralis.core.variants.cells import filled_by, read_cell

#: Words may be so much larger than those they stand for before they count as too large; a ratio may be so far off.
_SLACK, _RATIO = 0.02, 0.02


def slot_problem(project: Project, slot: OpenSlot, text: str, folder: Path | None) -> str:
    """Return what is wrong with what a slot is to hold, in a few words; empty where nothing is."""
    limits = slot.slot
    if not text.strip():
        return ""
    if limits.choices and text.strip() not in limits.choices:
        return f"one of {', '.join(limits.choices[:6])} is wanted"
    try:
        value = read_cell(project, slot, text, folder)
    except SpiralisError as error:
        return str(error).rstrip(".")
    if isinstance(value, Source):
        if limits.ratio > 0 and abs(value.width / max(value.height, 1) / limits.ratio - 1) > _RATIO:
            return f"the picture is {value.width} × {value.height}, and {limits.ratio:.3g} : 1 is wanted"
        return ""
    kind = slot.kind(project)
    if kind is Kind.TEXT and limits.longest and len(str(value)) > limits.longest:
        return f"too long by {len(str(value)) - limits.longest} letters"
    if kind is Kind.FONT and value not in families(project):
        return f"there is no font “{value}”"
    try:
        there = filled(project, slot.places[0].piece, {slot.name: value})
    except SpiralisError as error:
        return str(error).rstrip(".")
    if kind is Kind.TEXT and limits.fit == "as set":
        over = max(overflow(there, place) for place in slot.places)
        if over > _SLACK:
            return f"{100 * over:.0f} % larger than the words it stands for; let the slot shrink or wrap them"
    return ""


def row_problems(
    project: Project, slots: tuple[OpenSlot, ...], row: Variant, folder: Path | None
) -> dict[str, str]:
    """Return what is wrong with the cells of a row, by slot; a slot that is gone is named too."""
    by_name = {slot.name: slot for slot in slots}
    found = {}
    for name, text in row.cells:
        if name not in by_name:
            found[name] = "there is no such slot any more"
        elif problem := slot_problem(project, by_name[name], text, folder):
            found[name] = problem
    return found


def contrast_problem(project: Project, piece: Composition, slots: tuple[OpenSlot, ...], row: Variant,
                     folder: Path | None) -> str:  # fmt: skip
    """Return which words of a row stand out too little, measured on frames; empty where all do, or it has no words.

    Only words are looked at that a slot of the row changes, or whose colour or ground it may change.
    """
    try:
        made = filled_by(project, piece.id, slots, row, folder)
    except SpiralisError:
        return ""  # That is said of the cell.
    piece = made.composition(piece.id)
    case = PieceCase(made, piece)
    begin, end = piece.span
    frames = sorted({begin + round((end - 1 - begin) * part) for part in (0.2, 0.35, 0.5, 0.65)})
    for reader in readers_of(case.seam.project, piece, frames):
        clear = [seen for seen in reader.seen if seen.opacity >= 0.85]
        measured = [found for seen in clear if (found := clearness(made, piece, reader, seen)) is not None]
        if measured and all(found.ratio < found.enough for found in measured):
            best = max(measured, key=lambda found: found.ratio)
            return f"{reader.told} stands out by {best.ratio:.1f} : 1 only"
    return ""
