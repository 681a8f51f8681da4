"""Read a list of words that are spelled right."""

from __future__ import annotations

from pathlib import Path

from spiralis.core.checks.piece.finders.spelling import words_of
from spiralis.core.errors import FileError
from spiralis.core.media.files import read_bytes


def read_word_list(path: Path) -> frozenset[str]:
    """Return the words of a text file, one or several a line, in small letters.

    Raises:
        FileError: one sentence, where it cannot be read, is no UTF-8 text, or holds no word.
    """
    try:
        text = read_bytes(path).decode("utf-8-sig")
    except UnicodeDecodeError as error:
        raise FileError(f"“{path.name}” is no plain text in UTF-8; save it as that.") from error
    words = frozenset(words_of(text))
    if not words:
        raise FileError(f"“{path.name}” holds no words; put one on each line.")
    return words
