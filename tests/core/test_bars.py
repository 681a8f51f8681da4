"""Plates behind words, lines under and through them, and letters raised, spaced and marked by themselves."""

import math
import unittest
from fractions import Fraction

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from spiralis.core.colour import Colour
from spiralis.core.editing.moving import with_move, without_move
from spiralis.core.editing.text_runs import after_typing, looked_at, with_look, with_marks_seen
from spiralis.core.errors import ModelError
from spiralis.core.model import Composition, Key, Layer, Project, Track, layer_kind
from spiralis.core.model.art import Figure
from spiralis.core.model.moves import MoveUse
from spiralis.core.raster.bars import MARKED, bars_of
from spiralis.core.raster.fitting import ink_of
from spiralis.core.raster.kinds.text import figures_of_words, setting_of
from spiralis.core.raster.layer_image import Scene
from spiralis.core.raster.setting import Setting
from spiralis.core.raster.spreading_letters import spread
from spiralis.core.raster.vectors import art_box
from spiralis.core.render.frame import render_frame
from spiralis.core.render.layers import Evaluated
from tests.core.samples import backdrop

RED: Colour = (1.0, 0.0, 0.0, 1.0)
WIDTH, HEIGHT = 300, 160


def words(text: str, **values: object) -> Layer:
    return Layer("W", "text", 0, 20, id="w").with_values(
        **({"text": text, "size": 40.0, "position": (150.0, 80.0)} | values)
    )


def project_of(*layers: Layer) -> Project:
    piece = Composition("Piece", WIDTH, HEIGHT, Fraction(25), 20, id="Piece", layers=layers)
    return Project("P", (piece,))


def at_of(layer: Layer, frame: float = 0.0) -> tuple[dict[str, object], Scene]:
    project = project_of(layer)
    at = Evaluated(project, project.compositions[0], frame)
    return at.values(layer), Scene(project, WIDTH, HEIGHT)


def set_(layer: Layer) -> Setting:
    return setting_of(*at_of(layer))


def boxes(layer: Layer) -> list[tuple[float, float, float, float]]:
    """Return the box of each bar, those behind first."""
    values, scene = at_of(layer)
    bars = bars_of(setting_of(values, scene), values)
    figures = [*bars.behind, *bars.before]
    return [art_box(Figure((contour,), RED)) for figure in figures for contour in figure.contours]


def length(found: list[tuple[float, float, float, float]]) -> float:
    return sum(box[2] - box[0] for box in found)


class PlatesTest(unittest.TestCase):
    def test_a_plate_goes_beyond_its_line_by_its_room(self):
        layer = words("BIG\nwide words", plate="each line", plate_room=(10.0, 6.0))
        lines, found = set_(layer).lines, boxes(layer)
        self.assertEqual(len(found), 2)
        for line, box in zip(lines, found, strict=True):
            self.assertAlmostEqual(box[0], line.left - 10, 3)
            self.assertAlmostEqual(box[2], line.left + line.width + 10, 3)
        self.assertAlmostEqual(found[1][1] - found[0][1], lines[1].baseline - lines[0].baseline, 3)
        self.assertAlmostEqual(found[0][3] - found[0][1], found[1][3] - found[1][1], 3)
        # Nothing hangs below the baseline, and b and d are the tallest.
        alone = set_(words("wide words"))
        self.assertAlmostEqual(found[1][3], lines[1].baseline + 6, 0)
        self.assertAlmostEqual(lines[1].baseline - found[1][1] - 6, alone.lines[0].baseline - ink_of(alone)[1], 0)

    def test_one_plate_holds_all_lines(self):
        each, one = (boxes(words("BIG\nwide words\n\nag", plate=way)) for way in ("each line", "all lines"))
        self.assertEqual((len(each), len(one)), (3, 1))
        around = [min(b[0] for b in each), each[0][1], max(b[2] for b in each), each[-1][3]]
        for wanted, got in zip(around, one[0], strict=True):
            self.assertAlmostEqual(wanted, got, 3)

    def test_it_is_seen_beyond_the_letters_and_where_lines_overlap_it_is_one(self):
        ground = backdrop(WIDTH, HEIGHT, (0.0, 0.0, 0.0, 1.0))
        layer = words("II\nII", plate="each line", plate_colour=(1.0, 0.0, 0.0, 0.5), plate_room=(40.0, 30.0),
                      fill=(0.0, 0.0, 1.0, 1.0))  # fmt: skip
        picture = render_frame(project_of(layer, ground), "Piece", 0)
        shades = np.unique(np.round(picture[..., 0], 2))
        self.assertEqual(shades.max(), 0.5)
        box = boxes(layer)[0]
        self.assertLess(box[1] + 30 + 40, boxes(layer)[1][1] + 30 + 30)
        near = picture[80, 150 - 45 : 150 - 25, 0]
        self.assertTrue((near > 0.4).any())

    def test_corners_are_round_up_to_half_the_height(self):
        layer = words("pill", plate="all lines", plate_corners=500.0, plate_room=(40.0, 10.0))
        values, scene = at_of(layer)
        (figure,) = bars_of(setting_of(values, scene), values).behind
        (left, top, _, bottom), (contour,) = art_box(figure), figure.contours
        self.assertEqual(len(contour.vertices), 8)
        self.assertAlmostEqual(contour.vertices[0][0] - left, (bottom - top) / 2, 3)

    def test_it_stays_where_all_letters_are_away(self):
        layer = words("BIG", plate="each line", plate_colour=RED, spread_by="letters", spread=0.0)
        picture = render_frame(project_of(layer), "Piece", 0)
        self.assertGreater(float((picture[..., 0] > 0.9).sum()), 3000)
        self.assertAlmostEqual(float(picture[..., 1].max()), 0.0, 4)

    def test_it_fits_the_number_that_is_counted(self):
        layer = words("#", number_form="a number", number=1000.0, plate="each line")
        layer = layer.with_track("number_counted", Track(0.0, (Key(0, 0.0), Key(10, 100.0))))
        found = []
        for frame in (0, 10):
            values, scene = at_of(layer, frame)
            (figure,) = bars_of(setting_of(values, scene), values).behind
            box = art_box(figure)
            found.append(box[2] - box[0])
        self.assertGreater(found[1], found[0] + 50)
        pictures = [render_frame(project_of(layer), "Piece", frame) for frame in (0, 10)]
        self.assertGreater(float((pictures[1][..., 3] > 0.5).sum()), 1.5 * float((pictures[0][..., 3] > 0.5).sum()))

    def test_stretched_words_have_bars_in_pixels_of_the_layer(self):
        layer = words("wide", flow="stretch", frame=(200.0, 40.0), plate="all lines", plate_room=(10.0, 5.0))
        (box,) = boxes(layer)
        self.assertAlmostEqual(box[3] - box[1], 40 + 10, 0)
        # Their lines are as long as they go on, which is a little more than what is inked.
        self.assertTrue(220 <= box[2] - box[0] < 232)
        picture = render_frame(project_of(layer), "Piece", 0)
        rows = np.flatnonzero((picture[..., 3] > 0.5).any(axis=1))
        self.assertAlmostEqual(rows[-1] - rows[0] + 1, 50, delta=1)


class LinesTest(unittest.TestCase):
    def test_lines_lie_under_and_through(self):
        baseline = set_(words("ace")).lines[0].baseline
        (under,), (through,) = boxes(words("ace", line="under")), boxes(words("ace", line="through"))
        self.assertGreater(under[1], baseline)
        top = ink_of(set_(words("ace")))[1]
        self.assertTrue(top < through[1] < through[3] < baseline)
        self.assertAlmostEqual(through[3] - through[1], 0.07 * 40, 3)
        (raised,) = boxes(words("ace", line="through", line_rise=10.0))
        self.assertAlmostEqual(through[1] - raised[1], 4.0, 3)

    def test_what_goes_through_lies_before_the_letters_and_the_other_behind(self):
        blue = {"fill": (0.0, 0.0, 1.0, 1.0), "line_colour": RED, "line_width": 60.0, "weight": 700.0}
        through = render_frame(project_of(words("HHH", line="through", **blue)), "Piece", 0)
        behind = render_frame(project_of(words("HHH", line="under", line_rise=40.0, **blue)), "Piece", 0)
        row = slice(78, 86)
        self.assertLess(float(through[row, 110:190, 2].max()), 0.01)
        self.assertGreater(float(behind[row, 110:190, 2].max()), 0.9)

    @given(st.floats(0, 100))
    def test_lines_are_drawn_one_after_another_by_their_length(self, drawn):
        layer = words("one\nand a longer one\nwo", line="under")
        whole, found = boxes(layer), boxes(layer.with_values(line_drawn=drawn))
        self.assertAlmostEqual(length(found), length(whole) * drawn / 100, delta=1e-2)
        lengths = [length([box]) for box in found]
        begun = [n for n in range(3) if lengths[n] > 1e-6]
        self.assertEqual(begun, list(range(len(begun))))
        self.assertEqual(found[: max(len(begun) - 1, 0)], whole[: max(len(begun) - 1, 0)])
        for n in begun:
            self.assertAlmostEqual(found[n][0], whole[n][0], 3)

    def test_what_is_not_drawn_is_not_seen(self):
        for corners in (0.0, 20.0):
            layer = words("WIND\nup", plate="each line", line="through", plate_drawn=0.0, line_drawn=0.0,
                          plate_corners=corners, spread_by="letters", spread=0.0)  # fmt: skip
            self.assertEqual(float(render_frame(project_of(layer), "Piece", 0).max()), 0.0)

    def test_wrapped_lines_are_drawn_from_the_left_too(self):
        layer = words("one two three four", flow="box", frame=(110.0, 200.0), size=30.0, line="under")
        whole, found = boxes(layer), boxes(layer.with_values(line_drawn=60.0))
        self.assertGreater(len(whole), 2)
        for one, other in zip(whole, found, strict=True):
            self.assertAlmostEqual(one[0], other[0], 3)

    def test_words_that_run_from_the_right_are_lined_from_the_right(self):
        arabic = words("نص عربي", font="Noto Sans Arabic", line="under")
        (whole,), (half,) = boxes(arabic), boxes(arabic.with_values(line_drawn=50.0))
        self.assertAlmostEqual(half[2], whole[2], 3)
        self.assertAlmostEqual(half[0], (whole[0] + whole[2]) / 2, 2)

    def test_bent_words_have_bent_bars(self):
        layer = words("bent words", arc=90.0, line="under", plate="each line", plate_room=(0.0, 0.0))
        values, scene = at_of(layer)
        setting = setting_of(values, scene)
        plate, line = bars_of(setting, values).behind
        radius = setting.lines[0].width / math.radians(90)
        middle = (setting.lines[0].width / 2, setting.lines[0].baseline + radius)
        for figure, least, most in ((line, radius - 0.2 * 40, radius - 0.05 * 40), (plate, radius - 1, radius + 34)):
            away = [math.hypot(v[0] - middle[0], v[1] - middle[1]) for v in figure.contours[0].vertices]
            self.assertGreater(min(away), least)
            self.assertLess(max(away), most)
        turns = [math.degrees(math.atan2(v[0] - middle[0], middle[1] - v[1])) for v in plate.contours[0].vertices]
        self.assertAlmostEqual(min(turns), -45, 0)
        self.assertAlmostEqual(max(turns), 45, 0)

    def test_outlines_hold_them_too(self):
        layer = words("in lines", plate="each line", line="through", stroke=2.0)
        bundle = figures_of_words(*at_of(layer))
        self.assertEqual([figure.fill for figure in bundle.items],
                         [layer.track("plate_colour").value, (1.0, 1.0, 1.0, 1.0), (1.0, 1.0, 1.0, 1.0)])  # fmt: skip
        kind = layer_kind("text")
        values, scene = at_of(layer)
        whole = art_box(bundle)
        for wanted, got in zip(whole, kind.stamp(values, scene).box, strict=True):
            self.assertAlmostEqual(wanted, got, delta=1.0)


class TypedTest(unittest.TestCase):
    TEXT = "two words\nand more"

    def typed(self, spread_: float, **values: object) -> Layer:
        return words(self.TEXT, size=24.0, spread_by="letters", spread=spread_, spread_at_once=True,
                     **({"spread_place": (0.0, 0.0)} | values))  # fmt: skip

    @given(st.floats(0, 100))
    def test_letters_are_there_at_once_one_after_another(self, share):
        values, scene = at_of(self.typed(share))
        setting = setting_of(values, scene)
        seen = spread(setting, values).opacity
        letters = [n for n, y in enumerate(setting.letters) if not self.TEXT[y.cluster].isspace()]
        there = [seen[n] for n in letters]
        self.assertEqual(there, sorted((1.0 if n < sum(there) else 0.0 for n in range(len(letters))), reverse=True))
        self.assertAlmostEqual(sum(there), math.floor(share / 100 * len(letters) + 1e-6), delta=0)

    @given(st.integers(0, 15), st.sampled_from(("line", "block")))
    def test_the_caret_stands_behind_the_last_letter(self, count, form):
        layer = self.typed(min(100 * count / 15 + 1e-3, 100.0), caret=form)
        setting, (box,) = set_(layer), boxes(layer)
        letters = [y for y in setting.letters if not self.TEXT[y.cluster].isspace()]
        last, line = letters[max(count - 1, 0)], setting.lines[1 if count > 8 else 0]
        place = setting.carets[last.cluster + (count > 0)][0]
        breadth = {"line": 0.08, "block": 0.5}[form] * 24
        self.assertAlmostEqual(box[0] - place, breadth / 2, places=3)
        self.assertAlmostEqual(box[2] - box[0], breadth, places=3)
        self.assertTrue(box[1] < line.baseline < box[3])
        self.assertGreater(box[1], line.baseline - 24)

    def test_it_stands_at_the_end_of_words_that_are_whole_and_blinks(self):
        layer = words("abc", caret="line")
        self.assertGreater(boxes(layer)[0][0], set_(layer).carets[3][0])
        self.assertEqual(boxes(layer.with_values(caret_shown=False)), [])
        arabic = words("نص", font="Noto Sans Arabic", caret="block")
        self.assertLess(boxes(arabic)[0][2], set_(arabic).lines[0].left)
        self.assertEqual(len(boxes(words("", caret="line"))), 1)

    def test_the_move_types_and_another_one_does_not(self):
        layer = words("abcd")
        project = project_of(layer)
        typing = with_move(project, project.compositions[0], layer, MoveUse("type-in", 0, 8, part="letters"))
        made = project_of(typing)
        shown = [int(render_frame(made, "Piece", frame)[..., 3].sum()) for frame in range(9)]
        self.assertEqual(shown[0], 0)
        self.assertEqual(shown, sorted(shown))
        self.assertEqual([shown[n] == shown[n + 1] for n in range(0, 8, 2)], [True] * 4)
        leaving = with_move(project, project.compositions[0], layer, MoveUse("type-away", 0, 8, part="letters"))
        back = [int(render_frame(project_of(leaving), "Piece", frame)[..., 3].sum()) for frame in range(9)]
        self.assertEqual(back, shown[::-1])
        bare = without_move(made, made.compositions[0], typing, 0)
        self.assertEqual(bare, layer)
        faded = with_move(made, made.compositions[0], bare, MoveUse("fade-in", 0, 8, part="letters"))
        self.assertFalse(faded.track("spread_at_once").value)


class RunsTest(unittest.TestCase):
    def test_marked_words_alone_have_them_and_marking_moves_no_letter(self):
        text = "was AVAVA now"
        plain, marked = words(text), words(text, runs=with_look((), 4, 9, marked=True))
        maps = [[letter.matrix for letter in set_(layer).letters] for layer in (plain, marked)]
        self.assertEqual(*maps)
        carets = set_(marked).carets
        for found in (boxes(marked.with_values(line="through", line_of=MARKED)),
                      boxes(marked.with_values(plate=MARKED, plate_room=(0.0, 0.0)))):  # fmt: skip
            self.assertEqual(len(found), 1)
            self.assertAlmostEqual(found[0][0], carets[4][0], 3)
            self.assertAlmostEqual(found[0][2], carets[9][0], 3)
        self.assertEqual(boxes(plain.with_values(plate=MARKED)), [])

    def test_what_is_marked_ends_with_its_last_letter_and_stretches(self):
        runs = with_look((), 0, 3, marked=True)
        spaced = words("abc def", runs=runs, plate=MARKED, plate_room=(0.0, 0.0), tracking=500.0)
        (box,), carets = boxes(spaced), set_(spaced).carets
        self.assertAlmostEqual(box[2], carets[3][0] - 0.5 * 40, 3)
        wide = words("abc def", runs=runs, flow="stretch", frame=(280.0, 30.0), line="under", line_of=MARKED)
        (box,) = boxes(wide)
        self.assertAlmostEqual(box[0], set_(wide).carets[0][0], 3)
        self.assertAlmostEqual(box[2], set_(wide).carets[3][0], 3)

    def test_marked_words_over_two_lines_are_two_bars(self):
        runs = with_look((), 2, 9, marked=True)
        found = boxes(words("one two\nthree", runs=runs, plate=MARKED))
        self.assertEqual(len(found), 2)
        self.assertLess(found[0][1], found[1][1])

    def test_raised_small_letters_have_lines_of_their_size(self):
        runs = with_look((), 2, 4, size=50.0, rise=60.0, marked=True)
        layer = words("19xx", runs=runs, line="through", line_of=MARKED)
        (box,), baseline = boxes(layer), set_(layer).lines[0].baseline
        self.assertAlmostEqual(box[3] - box[1], 0.07 * 20, 3)
        lifts = [baseline - letter.matrix.f for letter in set_(layer).letters]
        self.assertEqual([round(lift, 3) for lift in lifts], [0.0, 0.0, 12.0, 12.0])
        self.assertAlmostEqual((box[1] + box[3]) / 2, baseline - 12 - 0.3 * 20, 3)

    def test_letters_are_spaced_by_themselves(self):
        plain, spaced = set_(words("abcd")), set_(words("abcd", runs=with_look((), 1, 3, tracking=100.0)))
        gaps = [b.carets[n + 1][0] - b.carets[n][0] for b in (spaced, plain) for n in range(4)]
        wider = [round(gaps[n] - gaps[n + 4], 2) for n in range(4)]
        self.assertEqual(wider, [0.0, 4.0, 4.0, 0.0])

    def test_runs_from_before_there_were_marks_are_read(self):
        layer = words("abc", runs=((0, 1, "", 0.0, 150.0, RED),))
        self.assertEqual(layer.track("runs").value, ((0, 1, "", 0.0, 150.0, RED, 0.0, 0.0, False),))
        self.assertEqual(looked_at(((0, 1, "", 0.0, 150.0, RED),), 0).size, 150.0)
        old = Layer("W", "text", 0, 20).with_track("runs", Track(((0, 2, "", 700.0, 100.0, None),)))
        self.assertEqual(len(set_(old.with_values(text="abc")).letters), 3)

    def test_what_is_no_run_is_refused(self):
        good = (0, 1, "", 0.0, 100.0, None, 0.0, 0.0, False)
        for place, wrong in ((0, -1), (1, 0), (2, 3), (3, 2000.0), (4, 0.0), (5, (1.0,)), (6, 1e6), (7, "x"), (8, 1)):
            with self.assertRaises(ModelError, msg=(place, wrong)):
                words("abc", runs=((*good[:place], wrong, *good[place + 1 :]),))
        for runs in (((0, 1),), (good[:7],), ((*good, 1),)):
            with self.assertRaises(ModelError):
                words("abc", runs=runs)

    def test_what_is_typed_within_marked_words_is_marked(self):
        runs = after_typing(with_look((), 2, 4, marked=True, rise=5.0), 3, 3, 2)
        self.assertEqual([(run[0], run[1], run[7], run[8]) for run in runs], [(2, 6, 5.0, True)])

    def test_marking_shows_something(self):
        layer = words("abc", runs=with_look((), 0, 1, marked=True))
        self.assertEqual(with_marks_seen(layer, 0).track("plate").value, MARKED)
        for values in ({"plate": MARKED}, {"line": "under", "line_of": MARKED}):
            held = layer.with_values(**values)
            self.assertIs(with_marks_seen(held, 0), held)
        lined = layer.with_values(line="under", plate="each line")
        self.assertEqual(with_marks_seen(lined, 0).track("plate").value, MARKED)


if __name__ == "__main__":
    unittest.main()
