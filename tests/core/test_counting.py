"""A number among words: how it is written, and where it stands."""

import unittest
from fractions import Fraction

from hypothesis import given
from hypothesis import strategies as st

from spiralis.core.editing.slots import filled, with_slot
from spiralis.core.model import Composition, Key, Layer, Project, Track
from spiralis.core.model.slots import Slot
from spiralis.core.raster.counting import COUNTS, FORMS, MARKS, MINUTES, number_text
from spiralis.core.raster.kinds.text import setting_of
from spiralis.core.raster.layer_image import Scene
from spiralis.core.raster.spreading_letters import spread
from spiralis.core.render.frame import render_frame
from spiralis.core.render.layers import Evaluated


def text_of(
    number: float, form: str = COUNTS, decimals: float = 0, digits: float = 1, marks: str = MARKS[0],
    counted: float = 100, first: float = 0,
) -> str:  # fmt: skip
    return number_text({"number_form": form, "number": number, "number_decimals": decimals, "number_digits": digits,
                        "number_marks": marks, "number_counted": counted, "number_from": first})  # fmt: skip


def words(text: str, **values: object) -> Layer:
    return Layer("W", "text", 0, 20, id="w").with_values(
        text=text, size=30.0, position=(100.0, 40.0), **({"number_form": COUNTS} | values)
    )


def piece(*layers: Layer) -> Project:
    return Project("P", (Composition("Piece", 200, 80, Fraction(25), 20, id="Piece", layers=layers),))


def setting(layer: Layer, frame: float = 0.0):
    project = piece(layer)
    at = Evaluated(project, project.compositions[0], frame)
    return setting_of(at.values(layer), Scene(project, 200, 80))


class WrittenTest(unittest.TestCase):
    def test_the_sign_stays_itself_unless_it_counts(self):
        self.assertEqual(text_of(12, FORMS[0]), "")

    def test_numbers_in_words_of_their_own(self):
        for wanted, number, more in (
            ("0", 0, {}), ("7", 7.4, {}), ("8", 7.5, {}), ("−8", -7.5, {}), ("0", -0.4, {}), ("1234567", 1234567, {}),
            ("0.30", 0.1 + 0.2, {"decimals": 2}), ("2.68", 2.675, {"decimals": 2}), ("007", 7, {"digits": 3}),
            ("007.5", 7.5, {"digits": 3, "decimals": 1}), ("−007", -7, {"digits": 3}),
            ("1,234,567.0", 1234567, {"marks": MARKS[1], "decimals": 1}), ("999", 999, {"marks": MARKS[1]}),
            ("1.234,50", 1234.5, {"marks": MARKS[2], "decimals": 2}), ("0,5", 0.5, {"marks": MARKS[2], "decimals": 1}),
            ("1\N{NO-BREAK SPACE}234", 1234, {"marks": MARKS[3]}),
            ("12’345.6", 12345.6, {"marks": MARKS[4], "decimals": 1}),
            ("0,012", 12, {"marks": MARKS[1], "digits": 4}), ("1000", 999.96, {}), ("1000.0", 999.96, {"decimals": 1}),
        ):  # fmt: skip
            self.assertEqual(text_of(number, **more), wanted, (number, more))

    def test_it_counts_from_one_number_to_another(self):
        for wanted, counted, more in (
            ("0", 0, {}), ("63", 25, {}), ("250", 100, {}), ("275", 110, {}), ("10", 0, {"first": 10}),
            ("130", 50, {"first": 10}), ("300", 0, {"first": 300}), ("275", 50, {"first": 300}),
            ("0.3", 100, {"first": 0.1, "decimals": 1}),
        ):  # fmt: skip
            number = 0.3 if "decimals" in more else 250
            self.assertEqual(text_of(number, counted=counted, **more), wanted, (counted, more))
        clock = [text_of(0, MINUTES, counted=share, first=75) for share in (0, 20, 100)]
        self.assertEqual(clock, ["1:15", "1:00", "0:00"])

    def test_clocks(self):
        for wanted, number, form, more in (
            ("0:00", 0, MINUTES, {}), ("0:09", 9.2, MINUTES, {}), ("1:00", 59.7, MINUTES, {}),
            ("75:05", 4505, MINUTES, {}), ("00:59.9", 59.94, MINUTES, {"digits": 2, "decimals": 1}),

            ("1:00,0", 59.97, MINUTES, {"decimals": 1, "marks": MARKS[2]}), ("−0:10", -10, MINUTES, {}),
            ("1:15:05", 4505, FORMS[3], {}), ("01:00:00", 3599.6, FORMS[3], {"digits": 2}),
        ):  # fmt: skip
            self.assertEqual(text_of(number, form, **more), wanted, (number, form, more))

    @given(st.floats(-1e9, 1e9), st.integers(0, 6), st.sampled_from(MARKS))
    def test_what_is_written_reads_as_the_number(self, number, decimals, marks):
        written = text_of(number, decimals=decimals, marks=marks).replace("−", "-")
        point = marks[-2]
        for between in {",", ".", "\N{NO-BREAK SPACE}", "’"} - {point}:
            written = written.replace(between, "")
        self.assertLessEqual(abs(float(written.replace(point, ".")) - number), 0.5 * 10**-decimals + 1e-6)


class AmongWordsTest(unittest.TestCase):
    def test_it_stands_where_the_sign_is_and_looks_as_typed(self):
        counted = setting(words("Only # left", number=42.0))
        typed = setting(words("Only 42 left", number_form=FORMS[0]))
        self.assertEqual([y.glyph for y in counted.letters][:4], [y.glyph for y in typed.letters][:4])
        self.assertEqual(len(counted.letters), len(typed.letters))
        self.assertEqual([y.cluster for y in counted.letters], [0, 1, 2, 3, 4, 5, 5, 6, 7, 8, 9, 10])
        self.assertEqual(len(counted.carets), len("Only # left") + 1)
        # The caret behind the sign stands behind the whole number.
        first, sign, after = (counted.carets[n][0] for n in (4, 5, 6))
        self.assertGreater(after - sign, 2.5 * (sign - first))

    def test_each_sign_shows_it_and_runs_dress_it(self):
        red = (1.0, 0.0, 0.0, 1.0)
        made = setting(words("# of #", number=10.0, runs=((5, 6, "", 0.0, 150.0, red),)))
        self.assertEqual(len(made.letters), 8)
        self.assertEqual([y.colour == red for y in made.letters], [False] * 6 + [True] * 2)

    def test_digits_are_alike_in_breadth_so_that_words_do_not_tremble(self):
        for font in ("Inter",):
            widths = {round(setting(words("#", font=font, number=n)).lines[0].width, 6) for n in (10.0, 11.0, 88.0)}
            self.assertEqual(len(widths), 1, font)
            typed = {setting(words(t, font=font, number_form=FORMS[0])).lines[0].width for t in ("10", "11", "88")}
            self.assertGreater(len(typed), 1, font)

    def test_keys_count_frame_by_frame(self):
        layer = words("#", number=10.0).with_track("number_counted", Track(0.0, (Key(0, 0.0), Key(10, 100.0))))
        project = piece(layer)
        pictures = [render_frame(project, "Piece", frame) for frame in (0, 3, 10, 15)]
        for number, picture in zip((0.0, 3.0, 10.0, 10.0), pictures, strict=True):
            same = render_frame(piece(words("#", number=number)), "Piece", 0)
            self.assertEqual(float(abs(same - picture).max()), 0.0)
        self.assertGreater(float(abs(pictures[0] - pictures[1]).max()), 0.5)

    def test_each_version_counts_to_its_own(self):
        layer = words("# left", number=10.0).with_track("number_counted", Track(0.0, (Key(0, 0.0), Key(10, 100.0))))
        start = piece(layer)
        slotted = with_slot(start, start.compositions[0], "w", Slot("Left", "number"))
        made = filled(slotted, "Piece", {"Left": 250.0}).compositions[0].layer("w")
        self.assertEqual(layer.track("number_counted"), made.track("number_counted"))
        project = piece(made)
        at = (Evaluated(project, project.compositions[0], frame) for frame in (0, 5, 10, 19))
        shown = [number_text(one.values(made)) for one in at]
        self.assertEqual(["0", "125", "250", "250"], shown)

    def test_a_long_number_stays_in_its_line(self):
        layer = words("up to # now", number=1234567.0, number_marks=MARKS[3], flow="box", frame=(160.0, 70.0))
        self.assertEqual([(line.first, line.last) for line in setting(layer).lines], [(0, 6), (6, 8), (8, 11)])

    def test_parts_take_the_number_as_one(self):
        layer = words("a#b", number=123.0, spread_by="letters", spread=50.0, spread_place=(0.0, 40.0),
                      spread_overlap=0.0)  # fmt: skip
        project = piece(layer)
        at = Evaluated(project, project.compositions[0], 0.0)
        values = at.values(layer)
        heights = [round(float(row[5]), 6) for row in spread(setting_of(values, Scene(project, 200, 80)), values).maps]
        self.assertEqual(len(set(heights[1:4])), 1)
        self.assertNotEqual(heights[0], heights[1])
        self.assertNotEqual(heights[3], heights[4])


if __name__ == "__main__":
    unittest.main()
