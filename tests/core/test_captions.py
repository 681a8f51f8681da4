"""Captions: what files hold, and the layer that it becomes."""

from __future__ import annotations

import tempfile
import unittest
from fractions import Fraction
from pathlib import Path

from attrs import evolve
from hypothesis import given, settings
from hypothesis import strategies as st

from spiralis.core.animation.easing import LINEAR
from spiralis.core.editing.captioning import captions_from, captions_layer, late_ones
from spiralis.core.editing.importing import brought_in, gather, new_project
from spiralis.core.errors import ExportError, FileError
from spiralis.core.media.captions import Caption, captions_of, captions_written, read_captions, write_captions
from spiralis.core.model import Composition, Key, Layer, Project, Track
from spiralis.core.raster.kinds.text import setting_of
from spiralis.core.render.layers import Evaluated
from tests.core.samples import piece

SRT = (
    "1\r\n00:00:00,500 --> 00:00:02,000\r\n<i>Hello</i> wind,\r\nsays she\r\n\r\n"
    "2\r\n00:01:02,040 --> 01:00:03,500\r\nKites &amp; strings\r\n\r\n3\r\n00:00:05,000 --> 00:00:05,000\r\nNever\r\n"
)
VTT = (
    "WEBVTT\n\nNOTE nobody reads this\n\nSTYLE\n::cue { color: red }\n\nfirst\n00:00.500 --> 00:02.000 align:start\n"
    "<v Ann>Hello <c.loud>wind</c>\n\n00:00:02.500 --> 00:00:03.500\nÄpfel\n"
)
#: What may be said; none is the beginning of another's words, so that each is a caption of its own.
WORDS = ("Kites up", "wind & string\nof the hill", "a > b < c", "1", "Äpfel — “fly”")


class ReadingTest(unittest.TestCase):
    def test_both_formats_give_times_and_words_without_marks(self) -> None:
        first, second = captions_of(SRT.encode(), "talk.srt")
        self.assertEqual(first, Caption(0.5, 2.0, "Hello wind,\nsays she"))
        self.assertEqual(second, Caption(62.04, 3603.5, "Kites & strings"))
        self.assertEqual(captions_of(VTT.encode(), "Talk.VTT"),
                         (Caption(0.5, 2.0, "Hello wind"), Caption(2.5, 3.5, "Äpfel")))  # fmt: skip

    def test_encodings_are_told_apart(self) -> None:
        for encoding in ("utf-8", "utf-8-sig", "utf-16", "cp1252"):
            with self.subTest(encoding):
                self.assertEqual(captions_of(VTT.encode(encoding), "a.vtt")[1].words, "Äpfel")

    def test_they_are_in_the_order_of_their_times(self) -> None:
        text = "1\n00:00:03,000 --> 00:00:04,000\nlater\n\n2\n00:00:01,000 --> 00:00:02,000\nsooner\n"
        self.assertEqual([c.words for c in captions_of(text.encode(), "a.srt")], ["sooner", "later"])

    def test_what_holds_none_or_is_something_else_is_said_with_its_name(self) -> None:
        for data in (b"", b"WEBVTT", b"just words", b"\x00\x01\xff" * 50, b"1\n00:00:01,000 --> x\nwords"):
            with self.subTest(data[:12]), self.assertRaisesRegex(FileError, "“a.srt”"):
                captions_of(data, "a.srt")
        with self.assertRaisesRegex(FileError, "too long"):
            captions_of(b" " * 20_000_001, "a.srt")

    @settings(max_examples=60, deadline=None)
    @given(st.binary(max_size=300), st.sampled_from([".srt", ".vtt"]), st.integers(0, 200))
    def test_any_bytes_give_captions_or_a_sentence(self, junk: bytes, suffix: str, place: int) -> None:
        whole = (SRT if suffix == ".srt" else VTT).encode()
        for data in (junk, whole[:place] + junk + whole[place:]):
            try:
                self.assertTrue(all(c.words and c.end > c.begin for c in captions_of(data, f"a{suffix}")))
            except FileError as error:
                self.assertIn("“a.", str(error))


class LayerTest(unittest.TestCase):
    def words(self, captions: list[Caption], length: int = 100) -> dict[int, str]:
        layer = captions_layer(captions, piece(width=1080, height=1350, length=length), "Talk")
        return {key.frame: str(key.value) for key in layer.track("text").keys}

    def test_words_are_there_from_frame_to_frame_and_gone_in_between(self) -> None:
        captions = [Caption(0.4, 1.2, "one"), Caption(1.2, 2.0, "two"), Caption(3.0, 3.01, "three")]
        self.assertEqual(self.words(captions), {0: "", 10: "one", 30: "two", 50: "", 75: "three", 76: ""})
        self.assertEqual(self.words([Caption(0.0, 1.0, "at once")]), {0: "at once", 25: ""})

    def test_two_at_the_same_time_stand_below_one_another(self) -> None:
        captions = [Caption(0.0, 2.0, "one"), Caption(1.0, 3.0, "two")]
        self.assertEqual(self.words(captions), {0: "one", 25: "one\ntwo", 50: "two", 75: ""})

    def test_it_lies_within_the_frame_near_its_bottom_and_is_drawn(self) -> None:
        for width, height in ((1080, 1080), (1080, 1920), (1920, 1080)):
            whole = piece(width=width, height=height, length=100)
            layer = captions_layer([Caption(0.0, 2.0, "Come and fly one with us on the hill on Sunday")], whole, "Talk")
            at = Evaluated(Project("P", (whole,)), whole, 10.0)
            left, top, right, bottom = at.matrix(layer).box(at.box(layer))
            self.assertTrue(0 < left < right < width and height / 2 < top < bottom < height)
            values = at.values(layer)
            line = setting_of(values, at.scene).lines[-1]
            self.assertAlmostEqual(line.baseline + line.descent, values["frame"][1])

    def test_files_come_in_with_others_and_say_what_is_late(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "talk.srt"
            path.write_text(SRT, encoding="utf-8")
            self.assertEqual(len(read_captions(path)), 2)
            whole = piece(length=50)
            project = Project("P", (whole,))
            (Path(folder) / "bad.vtt").write_text("nothing", encoding="utf-8")
            gathered = gather([Path(folder)], project)
            self.assertEqual(gathered.names, ["talk.srt"])
            self.assertEqual(len(gathered.problems), 1)
            made = brought_in(project, whole.id, gathered)
            layer = made.project.compositions[0].layers[0]
            self.assertEqual((layer.name, layer.kind, made.layers), ("talk", "text", (layer.id,)))
            self.assertEqual(made.notes, ("1 of 2 captions of “talk.srt” begin after the piece has ended.",))
            alone, _ = new_project(gathered, "Talk")
            self.assertEqual([y.name for y in alone.compositions[0].layers], ["talk"])

    @settings(max_examples=60, deadline=None)
    @given(
        st.lists(st.tuples(st.integers(1, 20), st.integers(1, 20), st.sampled_from(WORDS)), min_size=1, max_size=6),
        st.sampled_from([Fraction(25), Fraction(30000, 1001), Fraction(60)]), st.sampled_from([".srt", ".vtt"]),
    )  # fmt: skip
    def test_what_is_written_comes_back_as_it_was(
        self, parts: list[tuple[int, int, str]], rate: Fraction, suffix: str
    ) -> None:
        frame, captions = 0, []
        for gap, long, words in parts:
            captions.append(Caption((frame + gap) / float(rate), (frame + gap + long) / float(rate), words))
            frame += gap + long
        whole = Composition("P", 640, 480, rate, frame + 1)
        layer = captions_layer(captions, whole, "Talk")
        whole = evolve(whole, layers=(layer,))
        found = captions_from(Project("P", (whole,)), whole, layer)
        back = captions_of(captions_written(found, suffix).encode(), f"a{suffix}")
        self.assertEqual([y.words for y in found], [words for _, _, words in parts])
        self.assertEqual([y.words for y in back], [words for _, _, words in parts])
        self.assertEqual(captions_layer(back, whole, "Talk").track("text").keys, layer.track("text").keys)

    def test_written_are_the_words_that_are_there_while_it_plays(self) -> None:
        group = Layer("Group", "group", 0, 100, id="group").with_track(
            "visible", Track(True, (Key(0, True, LINEAR), Key(60, False, LINEAR)))
        )
        words = Track("one", (Key(0, "one", LINEAR), Key(30, " ", LINEAR), Key(40, "two", LINEAR)))
        layer = Layer("Talk", "text", 5, 90, id="talk", parent="group").with_track("text", words)
        whole = piece(group, layer, length=100)
        project = Project("P", (whole,))
        self.assertEqual(captions_from(project, whole, layer),
                         (Caption(0.2, 1.2, "one"), Caption(1.6, 2.4, "two")))  # fmt: skip
        short = whole.with_layer(evolve(group, last=50))
        self.assertEqual(captions_from(project.with_composition(short), short, layer)[1], Caption(1.6, 2.0, "two"))
        late = evolve(whole, play_span=(25, 45))
        self.assertEqual(captions_from(project.with_composition(late), late, layer),
                         (Caption(0.0, 0.2, "one"), Caption(0.6, 0.8, "two")))  # fmt: skip

    def test_files_hold_what_their_formats_ask_for(self) -> None:
        captions = (Caption(3725.04, 3726.0, "a <b> & {c}\n\nd"), Caption(3727.0, 3728.5, "e"))
        self.assertEqual(captions_written(captions, ".srt"),
                         "1\n01:02:05,040 --> 01:02:06,000\na <b> & {c}\nd\n\n"
                         "2\n01:02:07,000 --> 01:02:08,500\ne\n")  # fmt: skip
        self.assertEqual(captions_written(captions, ".vtt"),
                         "WEBVTT\n\n1\n01:02:05.040 --> 01:02:06.000\na &lt;b&gt; &amp; {c}\nd\n\n"
                         "2\n01:02:07.000 --> 01:02:08.500\ne\n")  # fmt: skip

    def test_where_nothing_can_be_written_a_sentence_says_so(self) -> None:
        captions = (Caption(0.0, 1.0, "a"),)
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "a.srt"
            path.write_text("before")
            for held, name, told in ((captions, "a.txt", "none of .srt, .vtt"), ((), "a.srt", "Nothing is to be read"),
                                     (captions, "no/a.srt", "no/a.srt|folder")):  # fmt: skip
                with self.subTest(name), self.assertRaisesRegex(ExportError, told):
                    write_captions(held, Path(folder) / name)
            self.assertEqual(path.read_text(), "before")
            write_captions(captions, path)
            self.assertEqual(read_captions(path), captions)

    def test_frames_are_those_of_the_piece_s_rate(self) -> None:
        whole = Composition("P", 640, 480, Fraction(30000, 1001), 60)
        captions = [Caption(1.0, 1.5, "one"), Caption(2.0, 3.0, "late")]
        keys = captions_layer(captions, whole, "Talk").track("text").keys
        self.assertEqual([key.frame for key in keys], [0, 30, 45, 60, 90])
        self.assertEqual(late_ones(captions, whole), 1)


if __name__ == "__main__":
    unittest.main()
