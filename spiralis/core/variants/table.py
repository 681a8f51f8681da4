"""Tables of variants: CSV and TSV in and out, matched to slots by the names of their columns."""

from __future__ import annotations

import csv
import io
from collections.abc import Iterable, Sequence
from pathlib import Path

from attrs import frozen

from spiralis.core.errors import FileError
from spiralis.core.media.files import read_bytes
from spiralis.core.model.slots import MOST_VARIANTS, Variant

#: The largest file of a table, in bytes, and its widest row.
LARGEST, MOST_COLUMNS = 32 << 20, 200


@frozen
class Table:
    """Rows as they were read, with the columns that are no slots, and the slots that no column fills."""

    rows: tuple[Variant, ...]
    strange: tuple[str, ...] = ()
    unfilled: tuple[str, ...] = ()

    def notes(self) -> list[str]:
        """Say in sentences what did not match."""
        told = []
        if self.strange:
            names = ", ".join(f"“{name}”" for name in self.strange[:6])
            what = "column matches no slot and is" if len(self.strange) == 1 else "columns match no slots and are"
            told.append(f"{len(self.strange)} {what} left out: {names}.")
        if self.unfilled:
            names = ", ".join(f"“{name}”" for name in self.unfilled[:6])
            told.append(f"No column fills {names}; what is there stays.")
        return told


def read_table(path: Path, slots: Iterable[str]) -> Table:
    """Read a table whose first row names slots; tabs, commas or semicolons part its cells (RFC 4180).

    Raises:
        FileError: one sentence: it cannot be read, its quotes do not close, no column is a slot, it is too large.
    """
    try:
        text = read_bytes(path, LARGEST).decode("utf-8-sig")
    except UnicodeDecodeError as error:
        raise FileError(f"“{path.name}” is no text in UTF-8; save the table as CSV in UTF-8.") from error
    rows = _rows(text, path.name, "\t" if path.suffix.lower() in (".tsv", ".tab") else _parted_by(text))
    return _matched(rows, path.name, tuple(slots))


def _parted_by(text: str) -> str:
    head = text.split("\n", 1)[0]
    return max(",;\t", key=head.count)


def _rows(text: str, name: str, parted_by: str) -> list[list[str]]:
    reader = csv.reader(io.StringIO(text, newline=""), delimiter=parted_by, strict=True)
    found = []
    try:
        for row in reader:
            if any(cell.strip() for cell in row):
                found.append(row)
            if len(found) > MOST_VARIANTS + 1:
                raise FileError(f"“{name}” has more than {MOST_VARIANTS} rows; part it into several tables.")
    except csv.Error as error:
        raise FileError(
            f"“{name}” breaks off at line {reader.line_num}: a quote is not closed, or stands within a cell; mend it "
            "there."
        ) from error
    return found


def _matched(rows: Sequence[Sequence[str]], name: str, slots: tuple[str, ...]) -> Table:
    if not rows:
        raise FileError(f"“{name}” is empty; its first row names the slots, each further row is a variant.")
    head = [cell.strip() for cell in rows[0]]
    if len(head) > MOST_COLUMNS:
        raise FileError(f"“{name}” has {len(head)} columns; {MOST_COLUMNS} are the most.")
    known = {slot.casefold(): slot for slot in slots}
    columns = [known.get(cell.casefold()) for cell in head]
    taken = [column for column in columns if column is not None]
    if not taken:
        wanted = ", ".join(f"“{slot}”" for slot in slots) or "none yet"
        raise FileError(f"No column of “{name}” is named like a slot of this piece; the slots are {wanted}.")
    if len(set(taken)) < len(taken):
        raise FileError(f"Two columns of “{name}” are named alike; give each slot one.")
    made = tuple(
        Variant(tuple((slot, cell) for slot, cell in zip(columns, row, strict=False) if slot is not None and cell))
        for row in rows[1:]
    )
    strange = tuple(cell for cell, column in zip(head, columns, strict=True) if column is None and cell)
    return Table(made, strange, tuple(slot for slot in slots if slot not in taken))


def write_table(slots: Sequence[str], rows: Iterable[Variant]) -> str:
    """Return a table as CSV text (RFC 4180), with the slots as its columns."""
    out = io.StringIO(newline="")
    writer = csv.writer(out)
    writer.writerow(slots)
    for row in rows:
        writer.writerow([row.cell(slot) or "" for slot in slots])
    return out.getvalue()
