"""The command line: ``spiralis [FILE]`` opens the window, the commands work without one.

A command is a function in one of the files here, which adds itself to the group.
"""

from importlib import import_module
from pkgutil import iter_modules

from spiralis.cli.base import cli, main

for _file in iter_modules(__path__):
    import_module(f"{__name__}.{_file.name}")

__all__ = ["cli", "main"]
