"""The command line: ``spiralis [FILE]`` opens the window, the commands work without one.

A command is a function in one of the files here, which adds itself to the group.
"""

from spiralis.cli.base import cli, main
from spiralis.core.registry import import_files

import_files(__name__)

__all__ = ["cli", "main"]
