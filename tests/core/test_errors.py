"""Sentences stay sentences, whatever names files hold."""

import pickle
import unittest
from pathlib import Path
from tempfile import TemporaryDirectory

from click.testing import CliRunner
from hypothesis import given
from hypothesis import strategies as st

from spiralis.cli import cli
from spiralis.core.errors import FileError, ModelError, PictureError, SpiralisError, UnknownName, legible
from spiralis.core.model import Layer
from spiralis.core.storage import save
from tests.core.samples import project

KINDS = (SpiralisError, ModelError, UnknownName, FileError, PictureError)


class LegibleTest(unittest.TestCase):
    @given(st.text(st.characters(categories=["Cc", "Cs", "L", "Zl", "Zp", "Cf"])))
    def test_no_error_holds_what_steers_a_terminal_or_cannot_be_written(self, name: str) -> None:
        for kind in KINDS:
            said = str(kind(f"“{name}” is not there."))
            said.encode()
            self.assertFalse({c for c in said if ord(c) < 32 or 0x7F <= ord(c) < 0xA0 or c in "\u202e\u2066"})
            self.assertTrue(said.startswith("“") and said.endswith("” is not there."))

    def test_words_of_every_language_stay(self) -> None:
        for words in ("Drachenfest – naïve", "مهرجان الطائرات\u200f", "凧揚げ 🪁", "क्षि\u200d"):
            self.assertEqual(legible(words), words)

    def test_errors_travel_between_processes(self) -> None:
        for kind in KINDS:
            self.assertEqual(str(pickle.loads(pickle.dumps(kind("A sentence.")))), "A sentence.")

    def test_what_commands_print_of_a_file_steers_no_terminal(self) -> None:
        runner = CliRunner()
        folder = Path(self.enterContext(TemporaryDirectory()))
        save(project(Layer("Red \x1b[31m", "shape", 0, 9)), folder / "a.spiralis")
        told = runner.invoke(cli, ["info", str(folder / "a.spiralis")]).output
        self.assertIn("Red", told)
        self.assertNotIn("\x1b", told)
        missing = runner.invoke(cli, ["info", "no\x1b]0;x\x07.spiralis"])
        self.assertNotEqual(missing.exit_code, 0)
        self.assertNotIn("\x1b", str(missing.exception) + missing.output)


if __name__ == "__main__":
    unittest.main()
