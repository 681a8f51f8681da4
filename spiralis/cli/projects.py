"""Commands that make projects and tell what is in them."""

from __future__ import annotations

import sys
from pathlib import Path

import click

from spiralis.cli.base import cli, say, say_data


@cli.command("import")
@click.argument("files", nargs=-1, required=True, type=click.Path(path_type=Path))
@click.option("-o", "output", type=click.Path(path_type=Path), required=True, help="The .spiralis file to write.")
@click.option("--rate", default="25", help="Frames per second: 25, 30000/1001 and the like.")
@click.option("--length", type=click.IntRange(1, 200_000), default=100, help="Frames.")
@click.option("--flat-groups", is_flag=True, help="Take groups of layered files apart instead of nesting them.")
def import_files(files: tuple[Path, ...], output: Path, rate: str, length: int, flat_groups: bool) -> None:
    """Make a project from artwork: SVG, OpenRaster, pictures, footage, fonts, folders."""
    from fractions import Fraction

    from spiralis.core.editing.artwork import Timing
    from spiralis.core.editing.importing import gather, new_project
    from spiralis.core.model import Project
    from spiralis.core.storage import save

    try:
        timing = Timing(Fraction(rate), length)
    except (ValueError, ZeroDivisionError) as error:
        raise click.UsageError("--rate is written like 25 or 30000/1001.") from error
    if output.suffix.lower() != ".spiralis":
        raise click.UsageError("The output of `import` is a .spiralis file.")
    gathered = gather(files, Project())
    project, notes = new_project(gathered, output.stem, timing, not flat_groups)
    save(project, output)
    for line in (*gathered.problems, *notes):
        say(line, err=True)
    layers = sum(len(piece.layers) for piece in project.compositions)
    say(f"Wrote {output}: {len(project.compositions)} compositions, {layers} layers.")
    if gathered.problems:
        sys.exit(1)


@cli.command()
@click.argument("file", type=click.Path(path_type=Path))
@click.option("--json", "as_json", is_flag=True, help="Print JSON.")
def info(file: Path, as_json: bool) -> None:
    """List a project's compositions, layers, keys, sources and what is missing."""
    from spiralis.core.contents import contents_lines, contents_of

    contents = contents_of(file)
    if contents is None:
        from spiralis.core.storage import load
        from spiralis.core.storage.summary import summary

        contents = summary(load(file))
    if as_json:
        say_data(contents)
    else:
        say("\n".join(contents_lines(contents)))


@cli.command()
@click.argument("file", type=click.Path(path_type=Path))
@click.argument("picture", type=click.Path(path_type=Path))
@click.option("--size", type=click.IntRange(16, 1024), default=256, help="The longer side, in px.")
def thumbnail(file: Path, picture: Path, size: int) -> None:
    """Write the small picture of a project as PNG, as desktops ask for it."""
    from spiralis.core.storage.project_file import write_stored_picture

    write_stored_picture(file, picture, size)
