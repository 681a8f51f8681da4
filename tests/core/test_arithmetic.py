"""Arithmetic in number fields."""

import unittest

from hypothesis import given
from hypothesis import strategies as st

from spiralis.core.arithmetic import calculate, size_text, with_unit
from spiralis.core.errors import ModelError


class ArithmeticTest(unittest.TestCase):
    def test_what_people_type(self) -> None:
        for text, unit, whole, expected in (
            ("1080/2 + 12", "px", 1080, 552), ("50%", "px", 1080, 540), ("50 %", "%", 100, 50), ("-3", "°", 100, -3),
            ("(3+4)*2 px", "px", 100, 14), ("1,5", "", 100, 1.5), ("45°", "°", 100, 45), ("4 s", "s", 100, 4),
            ("10 × 4 − 2", "px", 100, 38), ("100% - 20", "px", 1350, 1330), (".5", "", 100, 0.5), ("2 s", "f", 100, 2),
        ):  # fmt: skip
            self.assertAlmostEqual(calculate(text, unit, whole), expected, msg=text)

    def test_one_of_a_unit_that_is_a_word_is_read_so_and_taken_so(self) -> None:
        for number, unit, read in (
            ("1", "levels", "1 level"), ("40", "levels", "40 levels"), ("0.1", "levels", "0.1 levels"),
            ("1", "fps", "1 fps"), ("1", "px/s", "1 px/s"), ("1", "°", "1°"), ("1", "", "1"), ("1", "s", "1 s"),
        ):  # fmt: skip
            self.assertEqual(with_unit(number, unit), read)
            self.assertAlmostEqual(calculate(read, unit), float(number), msg=read)

    def test_bytes_are_read_in_the_unit_that_fits(self) -> None:
        read = {0: "0 B", 999: "999 B", 1000: "1 kB", 812_400: "812 kB", 999_400: "999 kB", 999_600: "1.00 MB",
                3_417_000: "3.42 MB"}  # fmt: skip
        for size, text in read.items():
            self.assertEqual(text, size_text(size))

    def test_refuses_all_else_with_a_sentence(self) -> None:
        for text in (
            "",
            "abs(1)",
            "x",
            "1/0",
            "2**9",
            "9" * 400,
            "1e999",
            "__import__('os')",
            "True",
            "[1]",
            "1 if 1 else 2",
        ):
            with self.assertRaises(ModelError, msg=text) as caught:
                calculate(text)
            self.assertTrue(str(caught.exception).endswith("."))

    @given(st.text(max_size=30))
    def test_any_text_gives_a_number_or_a_sentence(self, text: str) -> None:
        try:
            self.assertIsInstance(calculate(text, "px", 100), float)
        except ModelError:
            pass
