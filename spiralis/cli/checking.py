"""Commands that look a piece over."""

from __future__ import annotations

import sys
from pathlib import Path

import click

from spiralis.cli.base import cli, say, say_data


@cli.command()
@click.argument("file", type=click.Path(path_type=Path))
@click.option("--composition", "-c", "name", help="Its name or id; the first one where it is left out.")
@click.option("--json", "as_json", is_flag=True, help="Print JSON.")
def seam(file: Path, name: str | None, as_json: bool) -> None:
    """Look whether a piece's end meets its beginning; exits with 1 where its loop is not clean."""
    from spiralis.core.checks.seam import check
    from spiralis.core.checks.seam.report import as_data, as_lines
    from spiralis.core.storage import load

    project = load(file, name)
    piece = project.composition(name) if name else project.compositions[0]
    verdict = check(project, piece, full=True)
    if as_json:
        say_data(as_data(project, piece, verdict))
    else:
        say("\n".join(as_lines(piece, verdict)))
    if not verdict.clean:
        sys.exit(1)


@cli.command("check")
@click.argument("file", type=click.Path(path_type=Path))
@click.option("--composition", "-c", "name", help="Its name or id; every whole piece where it is left out.")
@click.option("--words", "list_", type=click.Path(path_type=Path), help="A word list, one a line, to spell by.")
@click.option("--json", "as_json", is_flag=True, help="Print JSON.")
def check_pieces(file: Path, name: str | None, list_: Path | None, as_json: bool) -> None:
    """Look a piece over: flashes, time to read, contrast, size and place of words; exits with 1 on findings."""
    from spiralis.core.checks.piece.report import findings_data, findings_lines
    from spiralis.core.checks.piece.verdict import check_piece
    from spiralis.core.checks.piece.word_list import read_word_list
    from spiralis.core.model.pieces import whole_pieces
    from spiralis.core.storage import load

    project = load(file, name)
    known = read_word_list(list_) if list_ is not None else None
    pieces = [project.composition(name)] if name else whole_pieces(project)
    found = [(piece, check_piece(project, piece, known=known)) for piece in pieces]
    if as_json:
        data = [findings_data(project, piece, findings) for piece, findings in found]
        say_data(data[0] if name else data)
    else:
        say("\n".join(line for piece, findings in found for line in findings_lines(piece, findings)))
    if not all(findings.clean for _, findings in found):
        sys.exit(1)
