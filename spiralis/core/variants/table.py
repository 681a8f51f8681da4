"""Tables of variants: CSV and TSV in and out, matched to slots by the names of their columns."""

from __future__ import annotations

import csv
import io
from codecs import BOM_UTF16_BE, BOM_UTF16_LE
from collections.abc import Iterable, Mapping, Sequence
from pathlib import Path

from attrs import frozen

from spiralis.core.errors import FileError
from spiralis.core.media.files import read_bytes
from spiralis.core.model.slots import MOST_VARIANTS, Variant

#: The largest file of a table, in bytes, and its widest row.
LARGEST, MOST_COLUMNS = 32 << 20, 200
#: What a table from elsewhere is called that has no file.
_COPIED = "What was copied"


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
    data = read_bytes(path, LARGEST)
    try:
        # Programs for tables write “Unicode text” as UTF-16, which begins with a mark of its order of bytes.
        text = data.decode("utf-16" if data.startswith((BOM_UTF16_LE, BOM_UTF16_BE)) else "utf-8-sig")
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


def with_cells(
    rows: Sequence[Variant], slots: Sequence[str], text: str, row: int, column: int, now: Sequence[str] = (),
) -> Table:  # fmt: skip
    """Return rows with the cells of a table that was copied elsewhere (parted by tabs) from a cell of theirs on.

    Rows are added where there are too few. Where the first line names slots, its columns are theirs; not where that
    may as well be what they hold ``now``. An empty cell leaves its slot as it is.

    Raises:
        FileError: one sentence: its quotes do not close, or there are too many rows.
    """
    cells = _rows(text, _COPIED, "\t")
    names = {slot.casefold(): slot for slot in slots}
    columns: list[str | None] = [names.get(cell.strip().casefold()) for cell in cells[0]] if cells else []
    if len(cells) > 1 and _is_head(cells[0], columns, dict(zip(slots, now, strict=False))):
        strange = tuple(cell for cell, slot in zip(cells[0], columns, strict=True) if slot is None and cell.strip())
        cells = cells[1:]
    else:
        width = max((len(line) for line in cells), default=0)
        columns = [*slots[column:], *[None] * width][:width]
        strange = tuple(f"column {place + 1}" for place, slot in enumerate(columns) if slot is None)
    if row + len(cells) > MOST_VARIANTS:
        raise FileError(f"A table takes {MOST_VARIANTS} rows; copy fewer.")
    made = [*rows, *[Variant(())] * (row + len(cells) - len(rows))]
    for place, line in enumerate(cells, row):
        for slot, cell in zip(columns, line, strict=False):
            if slot is not None:
                made[place] = made[place].with_cell(slot, cell.strip() or None)
    return Table(tuple(made), strange)


def _is_head(line: Sequence[str], columns: Sequence[str | None], now: Mapping[str, str]) -> bool:
    """Whether a line names slots rather than being what they hold, which may be called alike."""
    named = [slot for slot in columns if slot is not None]
    return 2 * len(named) >= sum(bool(cell.strip()) for cell in line) and any(now.get(slot) != slot for slot in named)


def as_copied(slots: Sequence[str], row: Variant) -> str:
    """Return a row as programs for tables take it: its cells, parted by tabs."""
    out = io.StringIO(newline="")
    csv.writer(out, "excel-tab").writerow([row.cell(slot) or "" for slot in slots])
    return out.getvalue()


def write_table(slots: Sequence[str], rows: Iterable[Variant]) -> str:
    """Return a table as CSV text (RFC 4180), with the slots as its columns."""
    out = io.StringIO(newline="")
    writer = csv.writer(out)
    writer.writerow(slots)
    for row in rows:
        writer.writerow([row.cell(slot) or "" for slot in slots])
    return out.getvalue()
