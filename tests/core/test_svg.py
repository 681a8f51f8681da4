"""SVG in: the same picture as an independent renderer draws, and layers where the drawing has objects."""

from __future__ import annotations

import gzip
import unittest
from functools import partial
from unittest import mock

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from spiralis.core.editing.artwork import as_composition
from spiralis.core.errors import FileError
from spiralis.core.geometry import Affine
from spiralis.core.media.layered import LayeredFile
from spiralis.core.media.svg.allowance import Allowance
from spiralis.core.media.svg.drawing_apart import DRAWER
from spiralis.core.media.svg.fallback import draw_document
from spiralis.core.media.svg.reader import read_svg
from spiralis.core.media.svg.simplifying import flattened
from spiralis.core.media.svg.values import colour, length, transform
from spiralis.core.model import Project
from spiralis.core.model.art import Bundle, Figure, Stroke, contours_of, path_data
from spiralis.core.raster.vectors import art_box
from spiralis.core.render import render_frame
from tests.core.drawings import DRAWINGS, svg

#: Mean difference of the channels in levels of 255 that antialiasing alone may bring.
_CLOSE = 1.0
#: Enlarged pictures fade out over a pixel of their own at the rim, where the other renderer cuts them off. Fonts say
#: where the upper edge of a line lies (OpenType, "post"), which the other renderer takes for its middle.
_CLOSER_OR_NOT = {"embedded picture": 2.0, "words with lines": 2.0}


def ours(data: bytes, nested: bool = True) -> np.ndarray:
    layered = read_svg(data, "drawing.svg")
    project, piece = as_composition(Project(), layered, "drawing.svg", nested=nested)
    return render_frame(project, piece.id, 0) * 255


def judged(data: bytes) -> np.ndarray:
    pixels = np.asarray(draw_document(data)).astype(np.float32)
    pixels[..., :3] *= pixels[..., 3:] / 255
    return pixels


def difference(data: bytes, nested: bool = True) -> float:
    return float(np.abs(ours(data, nested) - judged(data)).mean())


def names(layered: LayeredFile) -> list[str]:
    return [part.name for part in layered.parts]


class LikenessTest(unittest.TestCase):
    def test_drawings_look_as_an_independent_renderer_draws_them(self) -> None:
        self.assertEqual(len(DRAWINGS), 21)
        for name, data in DRAWINGS.items():
            with self.subTest(name):
                self.assertLess(difference(data), _CLOSER_OR_NOT.get(name, _CLOSE))

    def test_lines_along_words_are_outlines_in_the_colour_of_what_has_them(self) -> None:
        data = DRAWINGS["words with lines"]
        layered = read_svg(data, "a.svg")
        self.assertEqual(layered.notes, ())
        seen, other = ours(data), judged(data)
        # Below the letters of the red word a black line goes on.
        for pixels in (seen, other):
            line = pixels[53:60, 110:150]
            self.assertGreater((line[..., 3] > 200).sum(), 35)
            self.assertLess(line[line[..., 3] > 200][:, 0].max(), 30)

    def test_a_line_through_words_lies_over_them(self) -> None:
        data = svg('<text x="10" y="100" font-family="Inter" font-size="80" font-weight="700" fill="#00f" '
                   'text-decoration="line-through"><tspan fill="#f00">OOO</tspan></text>')  # fmt: skip
        seen = ours(data)
        middle = max(range(50, 90), key=lambda row: seen[row, :, 2].sum())
        self.assertGreater(seen[middle, 20:150, 2].min(), 250)
        self.assertLess(seen[middle, 20:150, 0].max(), 5)
        self.assertGreater(seen[45:100, :, 0].max(), 250)

    def test_taking_groups_apart_changes_nothing_that_is_seen(self) -> None:
        for name in ("transforms", "clip paths", "opacity of groups", "symbols and use"):
            with self.subTest(name):
                self.assertLess(difference(DRAWINGS[name], nested=False), _CLOSE)

    def test_vectors_stay_crisp_when_they_are_enlarged(self) -> None:
        data = DRAWINGS["basic shapes"]
        project, piece = as_composition(Project(), read_svg(data, "a.svg"), "a.svg")
        large = render_frame(project, piece.id, 0, 4.0)[..., 3]
        edges = np.mean((large > 0.02) & (large < 0.98))
        self.assertLess(edges, 0.012)


class FiltersTest(unittest.TestCase):
    def test_filtered_things_all_over_a_large_drawing_look_as_the_whole_does(self) -> None:
        things = "".join(
            f'<g transform="rotate({7 * i} 500 400)"><rect x="{60 + 90 * i}" y="{30 + 60 * i}" width="120" height="60" '
            f'fill="#2{i}a" filter="url(#f{i % 3})"/></g>' for i in range(9)
        )
        defs = (
            '<defs><filter id="f0"><feGaussianBlur stdDeviation="12"/></filter><filter id="f1" x="-1" y="-1" width="3" '
            'height="3"><feOffset dx="90" dy="40"/></filter><filter id="f2"><feDropShadow dx="14" dy="-9" '
            'stdDeviation="4"/></filter></defs>'
        )
        for view in ("", 'viewBox="0 0 1000 800"', 'viewBox="-40 20 500 400"'):
            with self.subTest(view):
                data = svg(defs + things, f'width="1000" height="800" {view}')
                self.assertLess(difference(data), 0.6)

    def test_one_that_shows_nothing_is_left_out_and_a_small_one_is_found(self) -> None:
        defs = '<defs><filter id="f"><feGaussianBlur stdDeviation="1"/></filter></defs>'
        dots = (f'<circle cx="{x}" cy="{y}" r="{r}" filter="url(#f)"/>' for x, y, r in ((4000, 0, 9), (900, 700, 1.2)))
        far = svg(defs + "".join(dots), 'width="1000" height="800"')
        self.assertEqual(len(read_svg(far, "a.svg").parts), 1)


class LayersTest(unittest.TestCase):
    def test_objects_become_named_layers_front_to_back(self) -> None:
        body = (
            '<rect id="Ground" width="9" height="9"/><g id="Group" transform="translate(3 4)"><circle id="A" r="2"/>'
            '<circle id="B" r="1"/></g><path d="M0 0h5v5z"><title>Sail</title></path>'
        )
        layered = read_svg(svg(body), "a.svg")
        self.assertEqual(names(layered), ["Sail", "Group", "Ground"])
        group = layered.parts[1]
        self.assertEqual([(p.name, p.key) for p in group.parts], [("B", "Group/B"), ("A", "Group/A")])
        _, piece = as_composition(Project(), layered, "a.svg")
        self.assertEqual([y.kind for y in piece.layers], ["shape", "nested", "shape"])
        self.assertEqual((piece.width, piece.height), (200, 160))
        flat, _ = as_composition(Project(), layered, "a.svg", nested=False)
        self.assertEqual([y.name for y in flat.compositions[0].layers], ["Sail", "B", "A", "Ground"])

    def test_a_turned_object_says_how_far_it_is_turned(self) -> None:
        body = '<rect width="40" height="20" transform="translate(100 50) rotate(30)"/>'
        _, piece = as_composition(Project(), read_svg(svg(body), "a.svg"), "a.svg")
        layer = piece.layers[0]
        self.assertAlmostEqual(layer.track("rotation").value, 30.0)
        middle = (Affine.shift(100, 50) @ Affine.rotation(30)).apply(20, 10)
        np.testing.assert_allclose(layer.track("position").value, middle, atol=1e-6)

    def test_hidden_objects_come_in_hidden_and_what_cannot_stay_is_listed(self) -> None:
        layered = read_svg(svg('<rect id="Off" width="9" height="9" display="none"/>'), "a.svg")
        self.assertEqual([(p.name, p.visible) for p in layered.parts], [("Off", False)])
        notes = read_svg(DRAWINGS["things without a counterpart"], "a.svg").notes
        self.assertEqual(len(notes), 2)
        self.assertIn("a filter", " ".join(notes))
        self.assertIn("a pattern fill", " ".join(notes))

    def test_a_font_that_is_not_here_is_named(self) -> None:
        layered = read_svg(svg('<text y="40" font-family="Nowhere Grotesk">Hi</text>'), "a.svg")
        self.assertEqual(len(layered.notes), 1)
        self.assertIn("Nowhere Grotesk", layered.notes[0])

    def test_pictures_outside_the_file_are_left_out_and_named(self) -> None:
        layered = read_svg(
            svg('<image href="../secret.png" width="9" height="9"/><rect width="5" height="5"/>'), "a.svg"
        )
        self.assertEqual(len(layered.parts), 1)
        self.assertIn("outside the SVG", layered.notes[0])

    def test_packed_documents_open(self) -> None:
        self.assertEqual(len(read_svg(gzip.compress(DRAWINGS["dashes"]), "a.svgz").parts), 2)


class HostileTest(unittest.TestCase):
    def refused(self, data: bytes) -> str:
        with self.assertRaises(FileError) as caught:
            read_svg(data, "bad.svg")
        sentence = str(caught.exception)
        self.assertIn("bad.svg", sentence)
        self.assertNotIn("\n", sentence)
        return sentence

    def test_each_attack_is_one_sentence(self) -> None:
        bomb = (
            b'<!DOCTYPE svg [<!ENTITY a "ha"><!ENTITY b "&a;&a;&a;">]><svg xmlns="http://www.w3.org/2000/svg">&b;</svg>'
        )
        self.assertIn("entities", self.refused(bomb))
        outside = b'<!DOCTYPE svg [<!ENTITY f SYSTEM "file:///etc/hostname">]><svg xmlns="http://www.w3.org/2000/svg">&f;</svg>'
        self.assertIn("entities", self.refused(outside))
        deep = svg("<g>" * 500 + '<rect width="9" height="9"/>' + "</g>" * 500)
        self.assertIn("nests", self.refused(deep))
        self.assertIn("px", self.refused(svg("", 'width="30000" height="30000"')))
        self.refused(DRAWINGS["masks"][:300])
        self.refused(b"<html></html>")
        self.refused(b"\x1f\x8b\x08\x00broken")
        self.refused(b"\x89PNG\r\n\x1a\n" + bytes(50))

    def test_parts_that_use_themselves_and_use_bombs_stop(self) -> None:
        circle = svg('<defs><g id="a"><use href="#b"/></g><g id="b"><use href="#a"/></g></defs><use href="#a"/>')
        self.assertIn("within themselves", self.refused(circle))
        rows = "".join(f'<g id="g{i}">' + f'<use href="#g{i - 1}"/>' * 12 + "</g>" for i in range(1, 9))
        bomb = svg(f'<defs><rect id="g0" width="1" height="1"/>{rows}</defs><use href="#g8"/>')
        self.assertIn("repeats", self.refused(bomb))

    @settings(max_examples=120, deadline=None)
    @given(st.sampled_from(sorted(DRAWINGS)), st.integers(0, 4000), st.binary(min_size=0, max_size=8))
    def test_any_damage_is_layers_or_a_sentence(self, name: str, place: int, noise: bytes) -> None:
        data = DRAWINGS[name]
        place %= len(data)
        try:
            layered = read_svg(data[:place] + noise + data[place + len(noise) :], "bad.svg")
        except FileError as error:
            self.assertNotIn("\n", str(error))
        else:
            as_composition(Project(), layered, "bad.svg")

    @settings(max_examples=150, deadline=None)
    @given(
        st.sampled_from(["d", "transform", "fill", "style", "viewBox", "points", "stroke-dasharray"]),
        st.text(max_size=40),
    )
    def test_any_attribute_is_read_or_passed_over(self, name: str, value: str) -> None:
        from xml.sax.saxutils import quoteattr

        clean = "".join(letter for letter in value if letter.isprintable())
        kind = "polygon" if name == "points" else "path"
        try:
            read_svg(svg(f'<{kind} {name}={quoteattr(clean)} stroke="red" width="9"/>'), "a.svg")
        except FileError as error:
            self.assertNotIn("\n", str(error))


class ValuesTest(unittest.TestCase):
    def test_lengths_and_colours(self) -> None:
        for text, wanted in (("12", 12.0), ("1in", 96.0), ("2.54cm", 96.0), ("50%", 40.0), ("2em", 32.0), ("x", 7.0)):
            self.assertAlmostEqual(length(text, 7.0, 80.0), wanted, msg=text)
        self.assertEqual(colour("#f00"), (1.0, 0.0, 0.0, 1.0))
        self.assertEqual(colour("rgba(0, 255, 0, .5)"), (0.0, 1.0, 0.0, 0.5))
        self.assertIsNone(colour("no such colour"))

    @given(st.floats(-720, 720), st.floats(-50, 50), st.floats(0.2, 4))
    def test_transform_lists_apply_the_last_first(self, turn: float, shift: float, size: float) -> None:
        got = transform(f"translate({shift:.6f}) rotate({turn:.6f}) scale({size:.6f})")
        want = Affine.shift(shift, 0) @ Affine.rotation(turn) @ Affine.scaling(size, size)
        np.testing.assert_allclose(got.apply(3, 5), want.apply(3, 5), atol=1e-3)

    @given(
        st.lists(st.tuples(*[st.floats(-999, 999).map(lambda v: round(v, 3))] * 6), min_size=1, max_size=6),
        st.booleans(),
    )
    def test_path_data_comes_back(self, curves: list[tuple[float, ...]], closed: bool) -> None:
        text = "M1 2" + "".join("C" + " ".join(repr(v) for v in curve) for curve in curves) + ("Z" if closed else "")
        once = contours_of(text)
        self.assertEqual(contours_of(path_data(once)), once)

    def test_flattening_keeps_the_box(self) -> None:
        figure = Figure(contours_of("M0 0L30 0L30 10L0 10Z"), (1, 0, 0, 1), stroke=Stroke((0, 0, 0, 1), 4.0))
        for matrix in (Affine.scaling(2, 2), Affine.scaling(3, 1), Affine.rotation(30), Affine.skewing(20, 0)):
            item = Bundle((figure,), matrix=matrix)
            np.testing.assert_allclose(art_box(item), art_box(flattened(item, Affine())), atol=0.02)


class AllowanceTest(unittest.TestCase):
    TURBULENT = svg(
        '<filter id="f">' + '<feTurbulence baseFrequency="0.9" numOctaves="500"/>' * 4 + "</filter>"
        '<rect width="150" height="150" filter="url(#f)"/>'
    )
    SOFT = svg(
        '<filter id="f"><feGaussianBlur stdDeviation="3"/></filter><rect width="30" height="30" filter="url(#f)"/>'
    )

    def refused(self, data: bytes, **limits: float) -> str:
        with (
            mock.patch("spiralis.core.media.svg.reader.Allowance", partial(Allowance, **limits)),
            self.assertRaises(FileError) as caught,
        ):
            read_svg(data, "hard.svg")
        return str(caught.exception)

    def test_what_takes_too_long_or_too_many_pixels_is_refused_by_its_name(self) -> None:
        self.assertEqual(
            self.refused(self.TURBULENT, seconds=1.5), "“hard.svg” takes longer than 1.5 s to read; simplify it."
        )
        self.assertIn("“hard.svg” has parts that need over 0 million pixels", self.refused(self.SOFT, pixels=100))
        rules = "".join(f".a{i} rect {{fill:red}}" for i in range(20_000))
        self.assertIn("takes longer", self.refused(svg(f"<style>{rules}</style>" + "<rect/>" * 9000), seconds=0.5))

    def test_after_one_was_given_up_others_are_drawn(self) -> None:
        self.refused(self.TURBULENT, seconds=0.5)
        self.assertEqual([part.kind for part in read_svg(self.SOFT, "soft.svg").parts], ["picture"])

    def test_a_drawing_process_that_died_is_begun_anew(self) -> None:
        read_svg(self.SOFT, "soft.svg")
        process = DRAWER._process
        assert process is not None
        process.kill()
        process.wait()
        self.assertEqual([part.kind for part in read_svg(self.SOFT, "soft.svg").parts], ["picture"])
        self.assertIsNot(DRAWER._process, process)
