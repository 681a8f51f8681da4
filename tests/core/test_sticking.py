"""Layers that stick to what lies beneath them, beside motion that is known."""

from __future__ import annotations

import math
import unittest
from collections.abc import Callable
from unittest import mock

import cv2
import numpy as np
from attrs import evolve

from spiralis.core.animation.easing import LINEAR
from spiralis.core.editing.corner_pinning import pinned_to
from spiralis.core.editing.sticking import Stuck, stuck
from spiralis.core.effects.corner_pin import CORNERS
from spiralis.core.errors import Cancelled, ModelError
from spiralis.core.geometry import point_in
from spiralis.core.media.pictures import picture_source
from spiralis.core.media.tracing import traced
from spiralis.core.model import Composition, EdgePin, Key, Layer, Project, Track
from spiralis.core.render.layers import Evaluated
from tests.core.samples import backdrop, moving, piece, png_bytes

Maps = Callable[[int], np.ndarray]
AREA = np.array([[10.0, 10.0], [150.0, 10.0], [150.0, 90.0], [10.0, 90.0]])


def texture(width: int, height: int, seed: int, soft: float = 2.0) -> np.ndarray:
    """Return soft noise as uint8 (height, width), over the whole range."""
    noise = cv2.GaussianBlur(np.random.default_rng(seed).random((height, width)).astype(np.float32), (0, 0), soft)
    return ((noise - noise.min()) / (noise.max() - noise.min()) * 255).astype(np.uint8)


def mapped(matrix: np.ndarray, points: np.ndarray) -> np.ndarray:
    there = np.column_stack([points, np.ones(len(points))]) @ matrix.T
    return there[:, :2] / there[:, 2:]


def pictures_of(maps: Maps, count: int, noise: float = 2.0) -> list[np.ndarray]:
    """Return pictures of a card of 160 x 100 px that goes over another texture by maps of its pixels."""
    card, ground = texture(160, 100, 1), texture(400, 300, 2)
    rng, found = np.random.default_rng(3), []
    for number in range(count):
        there = cv2.warpPerspective(card, maps(number), (400, 300))
        covers = cv2.warpPerspective(np.full_like(card, 255), maps(number), (400, 300)) > 127
        picture = np.where(covers, there, ground) + noise * rng.standard_normal(ground.shape)
        found.append(np.clip(picture, 0, 255).astype(np.uint8))
    return found


def turning(number: float) -> np.ndarray:
    """A card that goes right, turns by two degrees a frame and grows."""
    angle, size = math.radians(2 * number), 1 + 0.008 * number
    cos, sin = size * math.cos(angle), size * math.sin(angle)
    return np.array([[cos, -sin, 90 + 2.3 * number], [sin, cos, 60 + 6 * math.sin(number / 4)], [0, 0, 1]])


def leaning(number: float) -> np.ndarray:
    """The same, and it leans back."""
    return turning(number) + np.array([[0, 0, 0], [0, 0, 0], [6e-5 * number, -3e-5 * number, 0]])


def shifting(number: int) -> np.ndarray:
    """A card that goes by parts of pixels, and by many at once."""
    return np.array([[1, 0, 60 + 3.7 * number + 25 * (number % 2)], [0, 1, 80 - 1.3 * number], [0, 0, 1.0]])


class TracingTest(unittest.TestCase):
    def off(self, maps: Maps, motion: str, count: int = 30) -> float:
        """Return how far corners are off at most, in pixels."""
        area = mapped(maps(0), AREA)
        found = list(traced(pictures_of(maps, count), area, motion))
        self.assertEqual(len(found), count - 1)
        wanted = (mapped(maps(number), AREA) for number in range(1, count))
        return max(float(np.abs(mapped(m, area) - corners).max()) for m, corners in zip(found, wanted, strict=True))

    def test_each_motion_is_found_within_a_tenth_of_a_pixel(self) -> None:
        for motion, maps in (("turn", shifting), ("turn", turning), ("corners", leaning)):
            with self.subTest(motion):
                self.assertLess(self.off(maps, motion), 0.1)

    def test_what_passes_over_it_leads_nothing_astray(self) -> None:
        pictures = pictures_of(turning, 24)
        for number in range(6, 16):
            pictures[number][:, 40 + 12 * number : 80 + 12 * number] = texture(40, 300, 9)
        area = mapped(turning(0), AREA)
        found = list(traced(pictures, area, "turn"))
        self.assertEqual(len(found), 23)
        self.assertLess(np.abs(mapped(found[-1], area) - mapped(turning(23), AREA)).max(), 0.5)

    def test_it_ends_where_the_area_is_gone_and_begins_only_with_something_to_hold_on_to(self) -> None:
        pictures = pictures_of(shifting, 20)
        pictures[12:] = [texture(400, 300, 77)] * 8
        area = mapped(shifting(0), AREA)
        self.assertEqual(len(list(traced(pictures, area, "turn"))), 11)
        flat = [np.full((300, 400), 90, dtype=np.uint8)] * 5
        for motion in ("turn", "corners"):
            self.assertEqual(list(traced(flat, area, motion)), [])

    def test_an_empty_screen_is_followed_by_its_rim(self) -> None:
        screen = np.full((220, 140), 25, dtype=np.uint8)
        cv2.rectangle(screen, (0, 0), (139, 219), 70, 4)
        cv2.rectangle(screen, (12, 20), (127, 195), 150, -1)
        cv2.circle(screen, (70, 207), 6, 120, -1)
        desk, rng, pictures = texture(400, 400, 4, 3.0), np.random.default_rng(6), []
        maps = [leaning(0.55 * number) for number in range(60)]
        for into in maps:
            there = cv2.warpPerspective(screen, into, (400, 400), flags=cv2.INTER_AREA)
            covers = cv2.warpPerspective(np.full_like(screen, 255), into, (400, 400)) > 127
            noisy = np.where(covers, there, desk) + rng.normal(0, 2, desk.shape)
            pictures.append(np.clip(noisy, 0, 255).astype(np.uint8))
        glass = np.array([[12.0, 20.0], [128.0, 20.0], [128.0, 196.0], [12.0, 196.0]])
        corners = mapped(maps[0], glass)
        found = list(traced(pictures, corners + 0.12 * (corners - corners.mean(axis=0)), "corners"))
        off = [np.abs(mapped(m, corners) - mapped(into, glass)).max() for m, into in zip(found, maps[1:], strict=False)]
        self.assertGreater(len(off), 40)
        self.assertLess(max(off[:40]), 0.2)
        # From there on it leaves the picture; where it can no longer be told it ends.
        self.assertLess(max(off), 3.0)

    def test_a_large_area_that_grows_a_lot_is_looked_at_anew_where_it_is(self) -> None:
        card, ground, pictures = texture(300, 260, 8, 3.0), texture(1000, 900, 9, 3.0), []

        def growing(number: int) -> np.ndarray:
            angle, size = math.radians(2 * number), 1 + 0.04 * number
            cos, sin = size * math.cos(angle), size * math.sin(angle)
            return np.array([[cos, -sin, 300 + 4 * number], [sin, cos, 120 + 2 * number], [0, 0, 1]])

        for number in range(24):
            there = cv2.warpPerspective(card, growing(number), (1000, 900))
            covers = cv2.warpPerspective(np.full_like(card, 255), growing(number), (1000, 900)) > 127
            pictures.append(np.where(covers, there, ground))
        own = np.array([[5.0, 5.0], [295.0, 5.0], [295.0, 255.0], [5.0, 255.0]])
        area = mapped(growing(0), own)
        found = list(traced(pictures, area, "turn"))
        self.assertEqual(len(found), 23)
        wanted = [mapped(growing(number), own) for number in range(1, 24)]
        off = [float(np.abs(mapped(m, area) - corners).max()) for m, corners in zip(found, wanted, strict=True)]
        self.assertLess(max(off), 0.25)

    def test_one_straight_edge_is_nothing_to_hold_on_to(self) -> None:
        rows = [np.where(np.arange(200) < 90 + number, 40, 200).astype(np.uint8) for number in range(4)]
        pictures = [np.repeat(row[None], 120, axis=0) for row in rows]
        area = np.array([[60.0, 30.0], [120.0, 30.0], [120.0, 90.0], [60.0, 90.0]])
        for motion in ("turn", "corners"):
            self.assertEqual(list(traced(pictures, area, motion)), [])

    def test_few_places_still_tell_a_shift(self) -> None:
        pictures = []
        for number in range(10):
            picture = np.full((120, 160), 60, dtype=np.float32)
            for x, y in ((30, 40), (48, 44), (38, 60)):
                picture[y + number, x + 3 * number] = 4000
            pictures.append(np.clip(cv2.GaussianBlur(picture, (0, 0), 2.0), 0, 255).astype(np.uint8))
        area = np.array([[20.0, 30.0], [60.0, 30.0], [60.0, 70.0], [20.0, 70.0]])
        found = list(traced(pictures, area, "turn"))
        self.assertEqual(len(found), 9)
        self.assertLess(np.abs(found[-1] - [[1, 0, 27], [0, 1, 9], [0, 0, 1]]).max(), 0.05)

    def test_light_that_changes_is_no_motion(self) -> None:
        still = pictures_of(lambda _: turning(0), 12)
        dimmer = [np.clip(p * (1 - 0.07 * n) + 2 * n, 0, 255).astype(np.uint8) for n, p in enumerate(still)]
        area = mapped(turning(0), AREA)
        found = list(traced(dimmer, area, "turn"))
        self.assertEqual(len(found), 11)
        self.assertLess(np.abs(mapped(found[-1], area) - area).max(), 0.2)


class StickingTest(unittest.TestCase):
    """A card goes over the frame; a label lies on it on one frame."""

    def setUp(self) -> None:
        card = np.dstack([texture(120, 80, seed) for seed in (1, 2, 3)] + [np.full((80, 120), 255, np.uint8)])
        self.source = picture_source(png_bytes(card), "card.png")
        keys = tuple(Key(f, v, LINEAR) for f, v in ((0, (110.0, 90.0)), (12, (200.0, 150.0)), (24, (240.0, 100.0))))
        self.card = Layer("Card", "picture", 0, 24, id="card").with_values(source=self.source.id)
        self.card = self.card.with_track("position", Track(keys[0].value, keys))
        self.label = Layer("Label", "shape", 0, 24, id="label").with_values(
            form="rectangle", size=(70.0, 40.0), position=(158.0, 118.0), rotation=10.0, scale=(90.0, 90.0)
        )

    def project(self, *layers: Layer, **values: object) -> tuple[Project, Composition]:
        ground = backdrop(360, 240, (0.2, 0.2, 0.3, 1.0))
        whole = piece(*layers, ground, width=360, height=240, length=24, **values)
        return Project("Sticks", (whole,), (self.source,)), whole

    def turned(self) -> Layer:
        spun = Track(0.0, (Key(0, 0.0, LINEAR), Key(24, 60.0, LINEAR)))
        grown = Track((100.0, 100.0), (Key(0, (100.0, 100.0), LINEAR), Key(24, (130.0, 130.0), LINEAR)))
        return self.card.with_track("rotation", spun).with_track("scale", grown)

    def stick(self, way: str, *layers: Layer, frame: int = 6) -> tuple[Stuck, Project, Composition]:
        project, whole = self.project(*layers)
        found = stuck(project, whole, whole.layer("label"), frame, way)
        whole = whole.with_layer(found.layer)
        return found, project.with_composition(whole), whole

    def worst(self, project: Project, whole: Composition, points: list[tuple[float, float]], frame: int = 6) -> float:
        """Return how far points of the label's box, in percent, leave those of the card that they lay on, in px."""
        worst, held = 0.0, []
        for number in (frame, *range(24)):
            at = Evaluated(project, whole, float(number))
            label, card = whole.layer("label"), whole.layer("card")
            there = [at.matrix(label).apply(*point_in(at.box(label), point)) for point in points]
            into = at.matrix(card).inverse()
            assert into is not None
            if not held:
                held = [into.apply(*point) for point in there]
            wanted = [at.matrix(card).apply(*point) for point in held]
            worst = max(worst, *(math.dist(a, b) for a, b in zip(there, wanted, strict=True)))
        return worst

    def test_its_place_goes_along_before_and_after_the_frame_and_nothing_else_changes(self) -> None:
        found, project, whole = self.stick("place", self.label, self.card)
        self.assertEqual((found.first, found.last, found.gone), (0, 23, 0))
        self.assertEqual(found.layer.animated(), ["position"])
        self.assertLess(self.worst(project, whole, [(50, 50), (0, 0), (100, 0)]), 0.15)

    def test_turn_and_size_go_along_too(self) -> None:
        found, project, whole = self.stick("turn", self.label, self.turned())
        self.assertEqual(set(found.layer.animated()), {"position", "rotation", "scale"})
        self.assertLess(self.worst(project, whole, [(50, 50), (0, 0), (100, 0), (100, 100)]), 0.3)
        self.assertAlmostEqual(found.layer.track("rotation").keys[6].value, 10.0, delta=0.05)

    def test_a_whole_turn_more_than_once_round_stays_what_it_is(self) -> None:
        found, _, _ = self.stick("turn", self.label.with_values(rotation=730.0), self.turned())
        self.assertAlmostEqual(found.layer.track("rotation").keys[6].value, 730.0, delta=0.05)

    def test_corners_that_were_pinned_stay_on_the_surface(self) -> None:
        found, project, whole = self.stick("corners", self.label, self.turned())
        block = found.layer.blocks[-1]
        self.assertEqual(set(found.layer.animated()), {block.named(name) for name, _, _ in CORNERS})
        at, card = Evaluated(project, whole, 20.0), whole.layer("card")
        before = Evaluated(project, whole, 6.0)
        into = before.matrix(card).inverse()
        assert into is not None
        for index, (name, _, _) in enumerate(CORNERS):
            start = before.matrix(self.label).apply(*point_in(before.box(self.label), CORNERS[index][2]))
            share = at.values(found.layer)[block.named(name)]
            there = at.matrix(found.layer).apply(*point_in(at.box(found.layer), share))
            self.assertLess(math.dist(there, at.matrix(card).apply(*into.apply(*start))), 0.5)

    def test_on_a_parent_that_moves_and_turns_it_stays_on_the_card_all_the_same(self) -> None:
        spun = Track(0.0, (Key(0, 0.0, LINEAR), Key(24, 90.0, LINEAR)))
        carrier = moving(Layer("Carrier", "carrier", 0, 24, id="carrier"), (20.0, 30.0), (60.0, 10.0), 24)
        carrier = carrier.with_track("rotation", spun)
        project, whole = self.project(carrier)
        into = Evaluated(project, whole, 6.0).matrix(carrier).inverse()
        assert into is not None
        hung = evolve(self.label, parent="carrier").with_values(position=into.apply(158.0, 118.0))
        for way in ("place", "turn"):
            _, project, whole = self.stick(way, hung, self.turned(), carrier)
            points = [(50.0, 50.0)] if way == "place" else [(50.0, 50.0), (0.0, 0.0), (100.0, 100.0)]
            self.assertLess(self.worst(project, whole, points), 0.6, way)

    def test_what_lies_in_front_and_what_hangs_on_it_is_not_looked_at(self) -> None:
        front = Layer("Front", "picture", 0, 24).with_values(source=self.source.id, position=(158.0, 118.0))
        project, whole = self.project(self.label)
        at = Evaluated(project, whole, 6.0)
        into = at.matrix(self.label).inverse()
        assert into is not None
        child = evolve(front, id="child", name="Child", parent="label").with_values(position=into.apply(158.0, 118.0))
        found, project, whole = self.stick("place", front, self.label, child, self.card)
        self.assertEqual((found.first, found.last), (0, 23))
        self.assertLess(self.worst(project, whole, [(50, 50)]), 0.15)

    def test_shown_alone_and_in_a_group_it_still_sees_what_lies_beneath(self) -> None:
        group = Layer("Group", "group", 0, 24, id="group")
        held, card = evolve(self.label, parent="group", solo=True), evolve(self.card, parent="group")
        found, project, whole = self.stick("place", group, held, card)
        self.assertEqual((found.first, found.last), (0, 23))
        self.assertLess(self.worst(project, whole, [(50, 50)]), 0.15)

    def test_what_its_own_pin_covers_is_what_counts(self) -> None:
        away = self.label.with_values(position=(40.0, 210.0), rotation=0.0, scale=(100.0, 100.0))
        project, whole = self.project(away, self.card)
        pinned = pinned_to(Evaluated(project, whole, 6.0), away, [(130, 95), (190, 95), (190, 140), (130, 140)])
        for way in ("corners", "place"):
            found, _, _ = self.stick(way, pinned, self.card)
            self.assertEqual((found.first, found.last), (0, 23), way)
        self.assertEqual(len(self.stick("corners", pinned, self.card)[0].layer.blocks), 1)

    def test_what_stands_close_around_an_empty_screen_counts(self) -> None:
        pixels = np.full((80, 120, 4), (30, 30, 34, 255), dtype=np.uint8)
        pixels[10:70, 10:110, :3] = 150
        self.source = picture_source(png_bytes(pixels), "screen.png")
        screen = self.turned().with_values(source=self.source.id)
        project, whole = self.project(self.label, screen)
        at = Evaluated(project, whole, 6.0)
        there, middle = at.matrix(screen), at.box(screen)
        glass = [(middle[0] + x, middle[1] + y) for x, y in ((13, 13), (107, 13), (107, 67), (13, 67))]
        pinned = pinned_to(at, self.label, [there.apply(*point) for point in glass])
        found, project, whole = self.stick("corners", pinned, screen)
        self.assertEqual((found.first, found.last), (0, 23))
        at, block = Evaluated(project, whole, 20.0), found.layer.blocks[-1]
        seen = [
            at.matrix(found.layer).apply(*point_in(at.box(found.layer), at.values(found.layer)[block.named(name)]))
            for name, _, _ in CORNERS
        ]  # fmt: skip
        wanted = [at.matrix(screen).apply(*point) for point in glass]
        self.assertLess(max(min(math.dist(a, b) for a in seen) for b in wanted), 1.0)

    def test_separate_x_and_y_take_it_each_and_keys_that_give_way_are_counted(self) -> None:
        apart = self.label.with_values(separate=True, position_x=158.0, position_y=118.0)
        apart = apart.with_track("position_x", Track(158.0, (Key(2, 100.0), Key(6, 158.0), Key(40, 300.0))))
        found, project, whole = self.stick("place", apart, self.card)
        self.assertEqual(found.gone, 2)
        self.assertEqual(found.layer.track("position_x").keys[-1].frame, 40)
        self.assertLess(self.worst(project, whole, [(50, 50)]), 0.15)

    def test_what_cannot_stick_says_why(self) -> None:
        still = self.card.with_track("position", Track((150.0, 110.0)))
        deep = self.label.with_values(depth=True)
        pinned = evolve(self.label, edge_pins=(EdgePin("left", "left"),))
        late = evolve(self.label, first=10)
        away = self.label.with_values(position=(30.0, 220.0), scale=(30.0, 30.0))
        for layer, below, words in (
            (self.label, still, "stands still"), (deep, self.card, "in depth"), (pinned, self.card, "something else"),
            (late, self.card, "not shown on frame 6"), (away, self.card, "held on to"),
            (self.label.with_values(scale=(0.0, 100.0)), self.card, "no size"),
            (evolve(self.label, locked=True), self.card, "is locked"),
            (Layer("Level", "dial", 0, 24, id="label"), self.card, "shows nothing"),
        ):  # fmt: skip
            with self.subTest(words), self.assertRaisesRegex(ModelError, words):
                self.stick("place", layer, below)

    def test_it_is_asked_on_each_frame_whether_it_is_to_end(self) -> None:
        project, whole = self.project(self.label, self.card)
        shares: list[float] = []

        def stops(share: float) -> bool:
            shares.append(share)
            return len(shares) == 5

        with self.assertRaises(Cancelled):
            stuck(project, whole, whole.layer("label"), 6, "place", stops)
        self.assertEqual(shares, sorted(shares))
        shares.clear()
        stuck(project, whole, whole.layer("label"), 6, "place", lambda share: bool(shares.append(share)))
        self.assertAlmostEqual(shares[-1], 1.0)
        self.assertEqual(len(shares), 23)
        self.assertEqual(shares, sorted(shares))

    def test_where_it_is_lost_it_rests(self) -> None:
        gone = evolve(self.card, last=15)
        with mock.patch("spiralis.core.editing.sticking._WORKERS", 1):
            found, _, whole = self.stick("place", self.label, gone)
        self.assertEqual((found.first, found.last), (0, 14))
        self.assertEqual(whole.layer("label").track("position").keys[-1].frame, 14)


if __name__ == "__main__":
    unittest.main()
