"""Errors whose text is one sentence a person can act on."""

import re

#: Control characters, marks that turn the direction of writing, halves of characters.
_ILLEGIBLE = re.compile("[\x00-\x1f\x7f-\x9f\u2028-\u202e\u2066-\u2069\ud800-\udfff]")


def legible(text: str) -> str:
    """Return a name or a sentence without what no person wrote into it: names of files may hold anything, bytes that
    are no letters in UTF-8 too."""
    return text if text.isprintable() else _ILLEGIBLE.sub("\N{REPLACEMENT CHARACTER}", text)


class SpiralisError(Exception):
    """Base of all errors Spiralis raises on purpose; ``str(error)`` is one sentence."""

    def __init__(self, sentence: str = "", *more: object) -> None:
        super().__init__(legible(sentence), *more)


class ModelError(SpiralisError, ValueError):
    """A value outside what the model allows."""


class UnknownName(SpiralisError, KeyError):
    """A name that no registry or project knows; the message lists what is known."""

    def __str__(self) -> str:
        return str(self.args[0]) if self.args else ""


class FileError(SpiralisError, OSError):
    """A file that cannot be read or written."""

    def __str__(self) -> str:
        return str(self.args[0]) if self.args else ""


class PictureError(FileError):
    """A picture file that is broken, too large or of an unknown kind."""


class FontError(FileError):
    """A font file that is none, or a family that is not there."""


class ProjectFileError(FileError):
    """A project file that cannot be read as one."""


class ExportError(FileError):
    """A file that could not be written out."""


class Cancelled(SpiralisError):
    """The person asked to stop; nothing was left behind."""
