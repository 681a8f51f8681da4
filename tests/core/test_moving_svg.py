"""Moving SVG: what a file of outlines shows at any moment is what is drawn; what cannot be kept is said."""

from __future__ import annotations

import re
import tempfile
import unittest
from pathlib import Path

import numpy as np
from attrs import evolve
from hypothesis import given, settings
from hypothesis import strategies as st
from lxml import etree

from spiralis.core.animation.easing import HOLD, LINEAR, CubicBezier
from spiralis.core.geometry import Affine
from spiralis.core.media.exporters import ExportJob, export, exporter
from spiralis.core.media.svg_animation import Timeline, at_moment, matrix_css
from spiralis.core.model import Key, Layer, Project, Track
from spiralis.core.model.blocks import Block
from spiralis.core.model.track import Extend, Rule
from spiralis.core.render.frame import render_straight8
from tests.core.samples import backdrop, piece, project, square_source

SOFT = CubicBezier(0.4, 0, 0.6, 1)
RED, BLUE = (1.0, 0.1, 0.0, 1.0), (0.0, 0.2, 1.0, 1.0)
SIZE = {"width": 120, "height": 90, "length": 20}


def square(**values: object) -> Layer:
    return Layer("Square", "shape", 0, 20, id="square").with_values(
        **{"form": "rectangle", "size": (36.0, 24.0), "position": (60.0, 45.0), "fill": RED, **values}
    )


def keys(*pairs: tuple[int, object], ease: object = SOFT) -> Track:
    return Track(pairs[0][1], tuple(Key(frame, value, ease) for frame, value in pairs))  # type: ignore[arg-type]


class MovingSvgTest(unittest.TestCase):
    def setUp(self) -> None:
        self.folder = Path(self.enterContext(tempfile.TemporaryDirectory()))

    def written(self, sample: Project) -> tuple[Path, tuple[str, ...]]:
        job = ExportJob(sample, sample.compositions[0].id, self.folder / "a.svg", 0, 20, workers=1)
        result = export(exporter("svg"), job)
        self.assertEqual((result.frames, round(result.seconds, 2)), (20, 0.8))
        return result.path, result.notes

    def same(self, *layers: Layer, notes: int = 0, near: float = 1.2, **more: object) -> Path:
        sample = project(*layers, **{**SIZE, **more})  # type: ignore[arg-type]
        path, said = self.written(sample)
        self.assertEqual(len(said), notes, said)
        for index in (0, 3, 9, 14, 19):
            got = exporter("svg").read(path, index)
            assert got is not None
            expected = render_straight8(sample, sample.compositions[0].id, index).astype(float)
            both = [p[..., :3].astype(float) * p[..., 3:] / 255 for p in (got, expected)]
            self.assertLess(float(np.abs(both[0] - both[1]).mean()), near, index)
        return path

    def test_place_turn_scale_and_opacity(self) -> None:
        layer = square().with_track("position", keys((0, (30.0, 45.0)), (12, (90.0, 30.0)), (20, (30.0, 45.0))))
        layer = layer.with_track("rotation", keys((0, 0.0), (20, 360.0))).with_track(
            "opacity", keys((0, 100.0), (10, 20.0), (20, 100.0))
        )
        self.same(layer.with_track("scale", keys((0, (100.0, 100.0)), (8, (60.0, 140.0)), (20, (100.0, 100.0)))),
                  backdrop(120, 90, (0.2, 0.2, 0.3, 1.0)))  # fmt: skip

    def test_what_comes_and_goes_on_frames(self) -> None:
        blinking = square().with_track("visible", keys((0, True), (7, False), (14, True), ease=HOLD))
        self.same(blinking)
        self.same(evolve(square(), first=5, last=12))

    def test_colours_sizes_and_strokes(self) -> None:
        layer = square(stroke=4.0).with_track("fill", keys((0, RED), (10, BLUE), (20, RED)))
        layer = layer.with_track("size", keys((0, (36.0, 24.0)), (10, (80.0, 60.0)), (20, (36.0, 24.0))))
        self.same(layer, near=3.0)

    def test_the_drawn_part_of_a_line(self) -> None:
        line = Layer("Line", "shape", 0, 20, id="line").with_values(
            form="line", size=(90.0, 0.0), stroke=8.0, position=(60.0, 45.0), cap="butt", stroke_colour=BLUE
        )
        self.same(line.with_track("drawn_to", keys((0, 0.0), (20, 100.0))), near=1.5)

    def test_dashes_move_on_round_the_seam(self) -> None:
        line = Layer("Line", "shape", 0, 20, id="line").with_values(
            form="line", size=(100.0, 0.0), stroke=40.0, position=(60.0, 45.0), cap="butt", stroke_colour=BLUE,
            dash=(24.0, 16.0),
        )  # fmt: skip
        moving = evolve(keys((0, 0.0), (10, 100.0), ease=LINEAR), after=Extend(Rule.REPEAT))
        path = self.same(line.with_track("dash_shift", moving), near=1.5)
        written = path.read_text("utf-8")
        # One way all along: it ends two dashes and gaps further, not back where it began.
        found = re.search(r'stroke-dashoffset"[^>]*values="([^"]*)"', written)
        assert found is not None, re.findall(r"<animate[^>]*>", written)
        shifts = [float(value) for value in found[1].split(";")]
        self.assertEqual((0.0, -80.0), (shifts[0], shifts[-1]))
        self.assertEqual(shifts, sorted(shifts, reverse=True))

    def test_numbers_count_and_letters_are_found(self) -> None:
        words = Layer("Words", "text", 0, 20, id="words").with_values(
            text="# km", number_form="a number", number=120.0, size=30.0, weight=700.0, position=(60.0, 45.0), fill=RED
        )
        self.same(words.with_track("number_counted", keys((0, 0.0), (15, 100.0), ease=LINEAR)))
        found = words.with_values(number_form="itself", text="WIND", spread_by="letters", spread_others=5.0,
                                  spread_opacity=100.0, spread_place=(0.0, 0.0))  # fmt: skip
        self.same(found.with_track("spread", keys((0, 0.0), (15, 100.0), ease=LINEAR)))

    def test_plates_and_lines_are_drawn(self) -> None:
        words = Layer("Words", "text", 0, 20, id="words").with_values(
            text="WIND", size=30.0, weight=700.0, position=(60.0, 45.0), plate="all lines", plate_room=(10.0, 6.0),
            line="through", line_colour=(0.0, 0.0, 0.0, 1.0),
        )  # fmt: skip
        drawn = keys((0, 0.0), (15, 100.0), ease=LINEAR)
        self.same(words.with_track("plate_drawn", drawn).with_track("line_drawn", drawn))

    def test_groups_carriers_and_nests(self) -> None:
        carrier = Layer("Carrier", "carrier", 0, 20, id="carrier").with_values(position=(60.0, 45.0))
        carrier = carrier.with_track("rotation", keys((0, 0.0), (20, 90.0)))
        child = evolve(square(position=(70.0, 50.0)), parent="carrier")
        self.same(child, carrier)
        inner = evolve(
            piece(square().with_track("rotation", keys((0, 0.0), (10, 180.0))), width=120, height=90, length=10),
            id="inner", background=(0.1, 0.4, 0.2, 1.0),
        )  # fmt: skip
        nest = Layer("Nest", "nested", 0, 20, id="nest").with_values(
            composition="inner", position=(60.0, 45.0), scale=(70.0, 70.0)
        )
        sample = Project("s", (piece(nest, **SIZE), inner))
        path, said = self.written(sample)
        self.assertEqual(said, ())
        for index in (0, 4, 13):
            got = exporter("svg").read(path, index)
            assert got is not None
            expected = render_straight8(sample, sample.compositions[0].id, index)
            self.assertLess(float(np.abs(got.astype(float) - expected).mean()), 2.0, index)

    def test_crops_and_pictures_move(self) -> None:
        source = square_source(40)
        picture = Layer("Picture", "picture", 0, 20, id="p").with_values(source=source.id)
        picture = picture.with_track("position", keys((0, (-30.0, 45.0)), (10, (60.0, 45.0)), (20, (150.0, 45.0))))
        self.same(picture.with_track("crop_across", keys((0, (0.0, 60.0)), (20, (60.0, 0.0)))), sources=(source,))

    def test_what_cannot_be_kept_is_a_picture_and_said(self) -> None:
        block = Block("halo")
        glowing = square().with_block(block).with_values(**{block.named("size"): 6.0})
        moving = glowing.with_track("position", keys((0, (40.0, 45.0)), (20, (80.0, 45.0))))
        path = self.same(moving, notes=1, near=2.0)
        self.assertIn(b"data:image/png", path.read_bytes())

    def test_it_is_small_and_loops(self) -> None:
        there = keys((0, (30.0, 45.0)), (10, (90.0, 45.0)), (20, (30.0, 45.0)), ease=HOLD)
        layer = square().with_track("position", there)
        path = self.same(layer)
        root = etree.parse(str(path)).getroot()
        css = root.findtext("{*}style") or ""
        self.assertEqual(css.count("{transform:"), 5)  # Where it jumps, and both ends.
        self.assertIn("infinite", path.read_text())
        once = project(layer, loop=False, **SIZE)  # type: ignore[arg-type]
        self.assertNotIn("infinite", self.written(once)[0].read_text())


class TimelineTest(unittest.TestCase):
    @settings(max_examples=60, deadline=None)
    @given(st.lists(st.floats(-500, 500), min_size=2, max_size=24), st.floats(0, 0.999))
    def test_places_come_back_at_any_moment(self, across: list[float], share: float) -> None:
        timeline = Timeline(2.0, True)
        root = etree.Element("svg")
        style = etree.SubElement(root, "style")
        element = etree.SubElement(root, "g")
        maps = [matrix_css(Affine.shift(x, 2 * x)) for x in across]
        timeline.animate(element, {"transform": (maps, False)})
        style.text = "".join(timeline.rules)
        settled = etree.fromstring(at_moment(etree.tostring(root), share))
        found = settled.find("g")
        assert found is not None
        text = found.get("transform") or (found.get("style") or "").partition(":")[2]
        place = share * (len(across) - 1)
        index = int(place)
        expected = across[index] + (across[min(index + 1, len(across) - 1)] - across[index]) * (place - index)
        self.assertAlmostEqual(float(text.split(",")[4]), expected, delta=0.1 + 0.002 * max(map(abs, across)))


if __name__ == "__main__":
    unittest.main()
