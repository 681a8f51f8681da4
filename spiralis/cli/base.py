"""What all commands share: their group, how they print, how errors end them."""

from __future__ import annotations

import atexit
import codecs
import errno
import gc
import io
import json
import os
import signal
import sys
from types import FrameType
from typing import Any

import click

from spiralis import __version__
from spiralis.core.errors import Cancelled, FileError, SpiralisError, legible

#: Python looks for cycles each time so many more things have been made than have gone. By itself it does so at 700:
#: modules and projects are made of far more, and none of it goes.
_SELDOM = 200_000
#: How far threads that draw stand back behind those that encode: no window waits for them here.
NICENESS = 10
#: What stands for signs that a terminal of an older encoding does not have; "?" for any other.
_PLAIN = {"“": '"', "”": '"', "‘": "'", "’": "'", "×": "x", "·": "-", "–": "-", "…": "...", "→": "->"}


class _Group(click.Group):
    """Takes a file where a command could stand: ``spiralis FILE`` opens it."""

    def resolve_command(self, context: click.Context, args: list[str]) -> Any:
        if args and args[0] not in self.commands and not args[0].startswith("-"):
            return "open", self.commands["open"], args
        return super().resolve_command(context, args)


@click.group(cls=_Group, invoke_without_command=True, context_settings={"help_option_names": ["-h", "--help"]})
@click.version_option(__version__, message="Spiralis %(version)s")
@click.pass_context
def cli(context: click.Context) -> None:
    """Layered looping motion for square and upright screens.

    `spiralis` and `spiralis FILE` open the window.
    """
    if context.invoked_subcommand is None:
        context.invoke(cli.commands["open"])


def say(text: str, err: bool = False) -> None:
    """Print lines a person reads; what names from files hold that is no writing is left out."""
    _print("\n".join(map(legible, text.split("\n"))), err)


def say_data(data: object) -> None:
    """Print JSON; signs that the terminal does not have as JSON writes them in ASCII."""
    plain = codecs.lookup(sys.stdout.encoding or "ascii").name != "utf-8"
    _print(json.dumps(data, ensure_ascii=plain, indent=2))


def _print(text: str, err: bool = False) -> None:
    try:
        click.echo(text, err=err)
    except OSError as error:
        if error.errno == errno.EPIPE or err:
            raise
        raise FileError(f"What this command says cannot be written where it goes: {error.strerror}.") from error


def _in_plain_signs(error: UnicodeError) -> tuple[str, int]:
    assert isinstance(error, UnicodeEncodeError)
    return "".join(_PLAIN.get(sign, "?") for sign in error.object[error.start : error.end]), error.end


def _print_anything() -> None:
    """Let what a terminal cannot show be printed in signs that it can, instead of ending the command."""
    codecs.register_error("plain signs", _in_plain_signs)
    for stream in (sys.stdout, sys.stderr):
        if isinstance(stream, io.TextIOWrapper):
            stream.reconfigure(errors="plain signs")


def _end(number: int, frame: FrameType | None) -> None:
    sys.exit(128 + number)


class _Leaving:
    """Ends the process once all that waits for its end is done: taking every module apart takes a fifth of a second,
    and gives back what the system takes back anyway."""

    def __init__(self) -> None:
        self.status: int | None = None
        # What is registered first is called last, when all threads have ended.
        atexit.register(self._leave)

    def _leave(self) -> None:
        # A window's own parts clear up as they are taken apart.
        if self.status is None or "PyQt6.QtCore" in sys.modules:
            return
        try:
            for stream in (sys.stdout, sys.stderr):
                if stream is not None:  # Where it was closed before the start.
                    stream.flush()
        except (OSError, ValueError):
            return  # Python says what is to be said of a pipe that nobody reads.
        os._exit(self.status)


def main() -> None:
    """Run the command line: exit 0 done, 1 with one sentence, 2 wrong usage, 3 no display, 143 told to end."""
    leaving = _Leaving()
    gc.set_threshold(_SELDOM)
    # Nothing half written stays: what a command does ends as it would at an error.
    signal.signal(signal.SIGTERM, _end)
    _print_anything()
    try:
        _run()
    except SystemExit as end:
        if end.code is None or isinstance(end.code, int):
            leaving.status = end.code or 0
        raise


def _run() -> None:
    try:
        cli()
    except Cancelled as stop:
        say(str(stop), err=True)
        sys.exit(1)
    except SpiralisError as error:
        say(str(error), err=True)
        sys.exit(1)
    except MemoryError:
        say("There is too little memory for that; end other programs, or choose a smaller scale.", err=True)
        sys.exit(1)
