"""Every reader with damaged files reads something or says one sentence; ``python -m tests.fuzz`` does more."""

import contextlib
import io
import random
import unittest

from tests.fuzz import TARGETS, damaged, run

#: So many files each: a few seconds for all.
COUNT = 40


class FuzzTest(unittest.TestCase):
    def test_damaged_files_are_answered_with_a_sentence(self) -> None:
        for name in TARGETS:
            with self.subTest(name):
                self.assertEqual(run(name, COUNT, 11, 120), [])

    def test_the_same_seed_damages_in_the_same_way_and_does_damage(self) -> None:
        data = bytes(range(256)) * 8
        for seed in range(20):
            self.assertEqual(damaged(data, random.Random(seed)), damaged(data, random.Random(seed)))
        self.assertGreater(len({damaged(data, random.Random(seed)) for seed in range(20)} - {data}), 17)

    def test_a_reader_that_fails_is_told(self) -> None:
        from unittest import mock

        from tests import fuzz

        def broken(data: bytes, folder: object) -> object:
            return data[10_000_000]

        target = fuzz.Target(lambda: [b"abc"], broken)
        with mock.patch.object(fuzz, "_targets", lambda: {"picture": target}), mock.patch("resource.setrlimit"):
            told = io.StringIO()
            with contextlib.redirect_stdout(told), contextlib.redirect_stderr(io.StringIO()):
                self.assertEqual(fuzz.child("picture", 3, 1), 3)
            self.assertIn("IndexError", told.getvalue())


if __name__ == "__main__":
    unittest.main()
