"""Copies against the same layers made one by one; delays, layouts, own words and pictures, hiding, refusals, files."""

from __future__ import annotations

import math
import unittest

import numpy as np
from attrs import evolve
from hypothesis import given
from hypothesis import strategies as st

from spiralis.core.editing.copying import copies_of
from spiralis.core.errors import ModelError
from spiralis.core.geometry import Affine
from spiralis.core.model import Composition, Key, Layer, Matte, Track, layer_kind
from spiralis.core.model.art import Bundle, Figure
from spiralis.core.model.drivers import DialJoin, Follow
from spiralis.core.model.forms import polygon
from spiralis.core.raster.kinds.copies import Copies, delays, placements
from spiralis.core.render import render_frame
from spiralis.core.render.layers import Evaluated
from spiralis.core.storage.conversion import from_json, to_json
from tests.core.samples import piece, project, square_source


def dot(name: str, x: float, y: float, **values: object) -> Layer:
    return Layer(name, "shape", 0, 40, id=name).with_values(
        form="rectangle", size=(12.0, 8.0), fill=(1.0, 0.5, 0.0, 1.0), position=(x, y), **values
    )


def copies(of: str, x: float, y: float, **values: object) -> Layer:
    return Layer("Copies", "copies", 0, 40, id="copies").with_values(of=of, position=(x, y), **values)


def picture(composition: Composition, frame: float = 0.0, **values: object) -> np.ndarray:
    return render_frame(evolve(project(**values), compositions=(composition,)), composition.id, frame)


def made(**values: object) -> Copies:
    return placements({**{p.name: p.default for p in layer_kind("copies").parameters}, **values})


class LookTest(unittest.TestCase):
    def test_a_row_is_the_same_as_layers_made_one_by_one(self) -> None:
        row = piece(copies("dot", 12.0, 20.0, spacing=(16.0, 0.0), count=4, anchor="first"), dot("dot", 40, 40))
        single = piece(*(dot(f"d{i}", 12 + 16 * i, 20) for i in range(4)))
        np.testing.assert_allclose(picture(row), picture(single), atol=2 / 255)

    def test_a_group_on_a_carrier_is_copied_with_its_members(self) -> None:
        carrier = Layer("Carrier", "carrier", 0, 40, id="carrier").with_values(position=(20.0, 10.0))
        member = evolve(dot("dot", 54.0, 50.0), parent="carrier")
        row = piece(copies("carrier", 16.0, 24.0, spacing=(20.0, 0.0), count=2, anchor="first"), carrier, member)
        single = piece(dot("a", 20, 24), dot("b", 40, 24))
        np.testing.assert_allclose(picture(row), picture(single), atol=2 / 255)

    def of_one(self, *layers: Layer, of: str, solo: bool = False) -> np.ndarray:
        """Return the picture of one copy in the middle, where ``of`` lies at home."""
        shown = evolve(copies(of, 32.0, 24.0, count=1), solo=solo)
        return picture(piece(shown, *layers))

    def test_a_masked_layer_is_copied_as_it_looks_without_its_mask(self) -> None:
        wide = dot("dot", 32.0, 24.0).with_values(size=(40.0, 40.0))
        mask = evolve(dot("mask", 20.0, 20.0), parent="dot").with_values(fill=(1.0, 1.0, 1.0, 1.0), size=(20.0, 30.0))
        masked = evolve(wide, mattes=(Matte("mask"),))
        np.testing.assert_allclose(
            picture(piece(mask, masked)), self.of_one(mask, masked, of="dot"), atol=2 / 255
        )

    def test_groups_are_copied_and_groups_on_what_is_copied(self) -> None:
        group = Layer("Group", "group", 0, 40, id="group").with_values(position=(32.0, 24.0), size=(30.0, 20.0))
        inside = tuple(evolve(dot(f"d{i}", 5.0 + 12 * i, 9.0), parent="group") for i in (0, 1))
        plain = picture(piece(group, *inside))
        self.assertGreater(float(plain[..., 3].sum()), 100.0)
        for solo in (False, True):
            np.testing.assert_allclose(plain, self.of_one(group, *inside, of="group", solo=solo), atol=2 / 255)
        carrier = Layer("Carrier", "carrier", 0, 40, id="carrier").with_values(position=(32.0, 24.0))
        hung = evolve(group, parent="carrier").with_values(position=(50.0, 50.0))
        np.testing.assert_allclose(plain, self.of_one(hung, *inside, carrier, of="carrier"), atol=2 / 255)
        # What is hidden in the group, as it is only shown as copies there, stays so.
        rows = evolve(copies("d0", 15.0, 4.0, count=2, spacing=(9.0, 0.0)), id="rows", parent="group")
        np.testing.assert_allclose(
            picture(piece(group, rows, *inside)), self.of_one(group, rows, *inside, of="group"), atol=2 / 255
        )

    def test_what_is_only_shown_as_copies_stays_so_in_copies_of_what_it_hangs_on(self) -> None:
        carrier = Layer("Carrier", "carrier", 0, 40, id="carrier").with_values(position=(32.0, 24.0))
        member = evolve(dot("dot", 30.0, 50.0), parent="carrier")
        rows = evolve(copies("dot", 60.0, 40.0, count=2, spacing=(0.0, 12.0)), id="rows", parent="carrier")
        np.testing.assert_allclose(
            picture(piece(rows, member, carrier)), self.of_one(rows, member, carrier, of="carrier"), atol=2 / 255
        )

    def test_one_copy_lies_where_its_source_is_seen_whenever_it_was_asked_for(self) -> None:
        way = Track((10.0, 10.0), (Key(0, (10.0, 10.0)), Key(30, (50.0, 38.0))))
        moved = dot("dot", 0.0, 0.0).with_track("position", way)
        for asked in (0.0, 12.0):
            plain = piece(moved)
            copy = copies_of(Evaluated(project(), plain, asked), moved).with_values(count=1)
            self.assertEqual("Copies of dot", copy.name)
            for frame in (0, 12, 25):
                np.testing.assert_allclose(
                    picture(plain, frame), picture(piece(copy, moved), frame), atol=2 / 255
                )

    def test_steps_of_opacity_and_colour(self) -> None:
        row = piece(
            copies("dot", 12.0, 20.0, spacing=(16.0, 0.0), count=3, anchor="first", step_opacity=-50.0),
            dot("dot", 40, 40),
        )
        alpha = picture(row)[20, [12, 28, 44], 3]
        np.testing.assert_allclose(alpha, [1.0, 0.5, 0.0], atol=2 / 255)
        tinted = piece(
            copies("dot", 12.0, 20.0, spacing=(16.0, 0.0), count=3, anchor="first", colour_to=(0.0, 0.0, 1.0, 1.0)),
            dot("dot", 40, 40),
        )
        seen = picture(tinted)[20, [12, 44], :3]
        np.testing.assert_allclose(seen, [[1.0, 0.5, 0.0], [0.0, 0.0, 1.0]], atol=3 / 255)

    def test_a_mode_and_an_opacity_hold_for_all_copies_as_one(self) -> None:
        pile = copies("dot", 20.0, 20.0, spacing=(6.0, 0.0), count=2, anchor="first", opacity=50.0)
        alpha = picture(piece(pile, dot("dot", 40, 40)))[20, :, 3]
        self.assertAlmostEqual(float(alpha[23]), 0.5, delta=2 / 255)
        self.assertAlmostEqual(float(alpha[16]), 0.5, delta=2 / 255)

    def test_words_and_pictures_of_each_copy(self) -> None:
        text = Layer("Word", "text", 0, 40, id="word").with_values(text="Ll", size=18.0, position=(20.0, 20.0))
        row = piece(copies("word", 10.0, 20.0, spacing=(24.0, 0.0), count=2, anchor="first", words="W\nI"), text)
        ink = picture(row)[:, :, 3]
        self.assertGreater(ink[:, :26].sum(), 1.5 * ink[:, 26:].sum())
        red, blue = square_source(8, (255, 0, 0, 255)), square_source(8, (0, 0, 255, 255))
        shown = Layer("Square", "picture", 0, 40, id="square").with_values(source=red.id, position=(9.0, 9.0))
        pair = copies(
            "square", 12.0, 20.0, spacing=(20.0, 0.0), count=2, anchor="first", pictures=((blue.id, 1), (red.id, 1))
        )
        seen = picture(piece(pair, shown), sources=(red, blue))[20, [12, 32]]
        np.testing.assert_allclose(seen, [[0, 0, 1, 1], [1, 0, 0, 1]], atol=2 / 255)


class TimeTest(unittest.TestCase):
    def walker(self) -> Layer:
        track = Track((0.0, 40.0), (Key(0, (0.0, 40.0)), Key(20, (0.0, 0.0))))
        return dot("dot", 0, 0).with_track("position", track)

    def test_each_copy_is_later_by_the_delay(self) -> None:
        row = piece(
            copies("dot", 12.0, 42.0, spacing=(16.0, 0.0), count=3, anchor="first", delay=4.0),
            self.walker(), length=40,
        )  # fmt: skip
        single = piece(*(dot(f"d{i}", 12 + 16 * i, 42 - 2 * max(14 - 4 * i, 0)) for i in range(3)), length=40)
        np.testing.assert_allclose(picture(row, 14), picture(single), atol=2 / 255)

    def test_delays_go_around_a_loop(self) -> None:
        track = Track((0.0, 40.0), (Key(0, (0.0, 40.0)), Key(20, (0.0, 0.0)), Key(40, (0.0, 40.0))))
        base = dot("dot", 0, 0).with_track("position", track)
        row = copies("dot", 12.0, 42.0, spacing=(16.0, 0.0), count=2, anchor="first", delay=30.0)
        composition = piece(row, base, length=40, loop=True)
        wanted = piece(dot("a", 12, 42), dot("b", 28, 22), length=40)
        np.testing.assert_allclose(picture(composition), picture(wanted), atol=2 / 255)

    def test_an_edit_of_the_source_or_what_it_follows_reaches_the_copies(self) -> None:
        leader = dot("leader", 8, 4, rotation=0.0)
        follower = dot("dot", 0, 0).with_track("rotation", Track(0.0, driver=Follow("leader", "rotation")))
        row = piece(copies("dot", 12.0, 30.0, spacing=(16.0, 0.0), count=2, anchor="first"), leader, follower)
        before = picture(row)
        turned = row.with_layer(leader.with_values(rotation=90.0))
        self.assertGreater(np.abs(picture(turned)[20:] - before[20:]).max(), 0.5)

    def test_orders_of_delays(self) -> None:
        self.assertEqual(delays(4, "first", 1).tolist(), [0, 1, 2, 3])
        self.assertEqual(delays(4, "last", 1).tolist(), [3, 2, 1, 0])
        self.assertEqual(delays(5, "centre", 1).tolist(), [2, 1, 0, 1, 2])
        mixed = delays(30, "random", 7).tolist()
        self.assertEqual(sorted(mixed), list(range(30)))
        self.assertEqual(mixed, delays(30, "random", 7).tolist())
        self.assertNotEqual(mixed, delays(30, "random", 8).tolist())


class LayoutTest(unittest.TestCase):
    @given(st.integers(1, 40), st.integers(1, 9), st.floats(-90, 90), st.floats(-90, 90))
    def test_grids(self, count: int, columns: int, dx: float, dy: float) -> None:
        spots = made(layout="grid", count=count, columns=columns, spacing=(dx, dy), anchor="first")
        for index, row in enumerate(spots.matrices):
            np.testing.assert_allclose(row[4:], (index % columns * dx, index // columns * dy))

    @given(st.integers(1, 30), st.floats(10, 500))
    def test_rings_are_round_and_even(self, count: int, radius: float) -> None:
        spots = made(layout="ring", count=count, radius=radius).matrices[:, 4:]
        np.testing.assert_allclose(np.hypot(*spots.T), radius)
        np.testing.assert_allclose(spots[0], (0, -radius), atol=1e-9)
        gaps = np.hypot(*(spots - np.roll(spots, 1, axis=0)).T)
        np.testing.assert_allclose(gaps, gaps[0], rtol=1e-6, atol=1e-9)

    def test_steps_of_scale_and_turn(self) -> None:
        third = made(count=3, spacing=(0.0, 0.0), step_scale=50.0, step_rotation=45.0).matrices[2]
        np.testing.assert_allclose(Affine(*third.tolist()).apply(4, 0), (0, 1), atol=1e-9)

    @given(st.integers(1, 12), st.floats(0, 360), st.floats(-90, 90), st.floats(50, 150), st.booleans())
    def test_turns_and_sizes_come_before_the_place(
        self, count: int, start: float, turn: float, size: float, turned: bool
    ) -> None:
        rows = made(layout="ring", count=count, radius=80.0, from_angle=start, step_rotation=turn, step_scale=size,
                    turned=turned).matrices  # fmt: skip
        for index, row in enumerate(rows):
            angle = start + index * 360 / count
            place = Affine.shift(80 * math.cos(math.radians(angle)), 80 * math.sin(math.radians(angle)))
            share = (size / 100) ** index
            wanted = place @ Affine.rotation((angle + 90 if turned else 0) + turn * index)
            np.testing.assert_allclose(row, wanted @ Affine.scaling(share, share), rtol=1e-9, atol=1e-9)

    def test_along_a_path_they_stand_evenly_and_turn_with_it(self) -> None:
        corner = Figure((polygon([(0.0, 0.0), (100.0, 0.0), (100.0, 100.0)], closed=False),), None)
        rows = made(layout="path", count=5, along=Bundle((corner,))).matrices
        np.testing.assert_allclose(rows[:, 4:], [(0, 0), (50, 0), (100, 0), (100, 50), (100, 100)], atol=1e-5)
        np.testing.assert_allclose(rows[[1, 3], :2], [(1, 0), (0, 1)], atol=1e-9)
        still = made(layout="path", count=5, along=Bundle((corner,)), turned=False).matrices
        np.testing.assert_allclose(still[:, :4], np.tile((1, 0, 0, 1), (5, 1)))
        self.assertEqual(made(layout="path", count=3).matrices[:, 4:].tolist(), [[0, 0]] * 3)

    def test_none_and_very_many(self) -> None:
        self.assertEqual(len(made(count=0)), 0)
        self.assertEqual(len(made(count=1e9)), 100_000)

    def test_a_hundred_thousand_are_all_there(self) -> None:
        many = piece(copies("dot", 0.0, 0.0, layout="grid", count=100_000, columns=400, spacing=(0.15, 0.15),
                            anchor="first"), dot("dot", 40, 40))  # fmt: skip
        shown = picture(many)
        self.assertEqual(shown[5:35, 8:50, 3].min(), 1.0)


class KeptTest(unittest.TestCase):
    def test_the_source_is_out_of_sight_unless_asked_for(self) -> None:
        hidden = piece(copies("dot", 12.0, 10.0, count=1), dot("dot", 40, 40))
        self.assertEqual(picture(hidden)[40, 40, 3], 0)
        shown = piece(copies("dot", 12.0, 10.0, count=1, show_source=True), dot("dot", 40, 40))
        self.assertEqual(picture(shown)[40, 40, 3], 1)

    def test_copies_of_themselves_are_refused(self) -> None:
        with self.assertRaisesRegex(ModelError, "copies of itself"):
            piece(copies("copies", 0.0, 0.0))
        with self.assertRaisesRegex(ModelError, "copies of itself"):
            piece(
                copies("dot", 0.0, 0.0), dot("dot", 0, 0), evolve(copies("copies", 0.0, 0.0), id="more", parent="dot")
            )

    def test_copies_of_a_layer_that_is_gone_show_nothing(self) -> None:
        self.assertEqual(picture(piece(copies("gone", 12.0, 10.0))).max(), 0)

    def test_copies_of_copies(self) -> None:
        row = copies("dot", 10.0, 10.0, spacing=(16.0, 0.0), count=2, anchor="first")
        grid = evolve(copies("copies", 10.0, 10.0, spacing=(0.0, 20.0), count=2, anchor="first"), id="grid")
        single = piece(*(dot(f"d{x}{y}", x, y) for x in (10, 26) for y in (10, 30)))
        np.testing.assert_allclose(picture(piece(grid, row, dot("dot", 40, 40))), picture(single), atol=2 / 255)

    def test_in_two_nests_that_set_a_dial_otherwise_they_differ(self) -> None:
        dial = Layer("Dark", "dial", 0, 40, id="d")
        joined = DialJoin("d", ((0.0, (1.0, 1.0, 1.0, 1.0)), (100.0, (0.0, 0.0, 0.0, 1.0))))
        shaded = dot("dot", 4, 4).with_track("fill", Track((1.0, 1.0, 1.0, 1.0), driver=joined))
        inner = evolve(piece(copies("dot", 10.0, 10.0, count=1), shaded, dial, width=20, height=20), id="inner")
        nests = [
            Layer(f"N{value}", "nested", 0, 20, id=f"n{value}", dial_values=(("d", float(value)),)).with_values(
                composition="inner", position=(x, 10.0)) for value, x in ((0, 10.0), (100, 50.0))
        ]  # fmt: skip
        outer = evolve(piece(*nests), name="Outer")
        pixels = render_frame(evolve(project(), compositions=(outer, inner)), outer.id, 0)
        self.assertEqual([float(v) for v in pixels[10, (10, 50), 0]], [1.0, 0.0])

    def test_files_keep_copies(self) -> None:
        made_of = project(copies("dot", 12.0, 10.0, words="A\nB", delay=3.0), dot("dot", 4, 4))
        self.assertEqual(from_json(to_json(made_of), "x"), made_of)


if __name__ == "__main__":
    unittest.main()
