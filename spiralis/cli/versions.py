"""The command that writes a file for each row of a table."""

from __future__ import annotations

import sys
from pathlib import Path
from typing import Any

import click

from spiralis.cli.base import NICENESS, cli, say
from spiralis.core.errors import SpiralisError


@cli.command()
@click.argument("file", type=click.Path(path_type=Path))
@click.option("--composition", "-c", "name", help="The piece whose slots the table fills; the only one if left out.")
@click.option("--table", type=click.Path(path_type=Path), help="CSV or TSV; the rows in the project where left out.")
@click.option("--pictures", type=click.Path(path_type=Path), help="Their folder; the table's own if left out.")
@click.option("--target", default="mp4", help="Kind of file: gif, webm … (see `spiralis targets`).")
@click.option("--set", "settings", multiple=True, metavar="NAME=VALUE", help="A setting of the kind of file.")
@click.option("--formats", is_flag=True, help="Write each row in the formats that follow the piece, too.")
@click.option("--names", "pattern", default=None, help="File names from columns: “{Left word}-{row}-{format}”.")
@click.option("--scale", type=click.FloatRange(0.01, 1000), default=1.0, help="Size beside the composition's.")
@click.option("--check", "only_check", is_flag=True, help="Say what is wrong with the rows, and write nothing.")
@click.option("-o", "goal", type=click.Path(path_type=Path), default=Path(), help="The folder to write into.")
def variants(
    file: Path, name: str | None, table: Path | None, pictures: Path | None, target: str, settings: tuple[str, ...],
    formats: bool, pattern: str | None, scale: float, only_check: bool, goal: Path,
) -> None:  # fmt: skip
    """Write one file for each row of a table; exits with 1 where a row could not be written."""
    from spiralis.core.editing.slots import open_slots
    from spiralis.core.model.pieces import asked_for
    from spiralis.core.storage import load
    from spiralis.core.variants.orders import Batch, pictures_folder
    from spiralis.core.variants.table import read_table

    project = load(file)
    piece = asked_for(project, name)
    slots = open_slots(project, piece)
    rows, folder = piece.variants, pictures or pictures_folder(piece, file)
    if table is not None:
        read = read_table(table, [slot.name for slot in slots])
        for note in read.notes():
            say(note, err=True)
        rows, folder = read.rows, pictures or table.parent
    batch = Batch(project, piece, rows, folder)
    written = _check_rows(batch) if only_check else _write_rows(batch, target, settings, formats, pattern, scale, goal)
    if not written:
        sys.exit(1)


def _check_rows(batch: Any) -> bool:
    """Print what is wrong with each row; return whether nothing is."""
    from spiralis.core.variants.problems import contrast_problem, row_problems

    fine = True
    for number, row in enumerate(batch.rows):
        found = row_problems(batch.project, batch.slots, row, batch.folder)
        contrast = "" if found else contrast_problem(batch.project, batch.piece, batch.slots, row, batch.folder)
        told = [f"{slot}: {problem}" for slot, problem in found.items()] + ([contrast] if contrast else [])
        fine = fine and not told
        say(f"{number + 1:4}  {'; '.join(told) or 'ready'}")
    return fine


def _write_rows(
    batch: Any, target: str, settings: tuple[str, ...], formats: bool, pattern: str | None, scale: float, goal: Path
) -> bool:
    """Write the file of each row, the next one also where one fails; return whether all were written."""
    from attrs import evolve

    from spiralis.core.editing.reframing import formats_of
    from spiralis.core.errors import FileError
    from spiralis.core.media.exporters import export, exporter
    from spiralis.core.variants.naming import usual_pattern

    kind = exporter(target)
    pieces = (batch.piece, *(formats_of(batch.project, batch.piece) if formats else ()))
    pattern = pattern or usual_pattern(tuple(slot.name for slot in batch.slots), len(pieces))
    try:
        goal.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        raise FileError(f"“{goal}” cannot be made; choose another folder.") from error
    read, failed = kind.read_settings(settings), 0
    for order in batch.orders(pieces, goal, pattern, kind):
        try:
            result = export(kind, evolve(batch.job(order, read, scale), niceness=NICENESS))
        except SpiralisError as error:
            failed += 1
            say(f"Row {order.number + 1}: {error}", err=True)
            continue
        say(f"Wrote {result.path}: {result.width} × {result.height}, {result.bytes / 1e6:.2f} MB.")
    if failed:
        say(f"{failed} of the files could not be written; the others are there.", err=True)
    return not failed
