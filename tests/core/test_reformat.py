"""Other formats, frames, rates and lengths: what stays, what moves, what scales."""

from __future__ import annotations

import unittest
from fractions import Fraction
from functools import reduce

import numpy as np
from attrs import evolve
from hypothesis import given
from hypothesis import strategies as st

from spiralis.core.editing.reformat import cropped, reformatted
from spiralis.core.model import Composition, Key, Layer, Marker, Project, Track
from spiralis.core.model.moves import MoveUse
from spiralis.core.render import render_frame
from spiralis.demo.stored import stored_demo
from tests.core.samples import backdrop, moving, piece, square_source


def sample() -> tuple[Composition, Project]:
    source = square_source(10)
    square = moving(Layer("S", "picture", 0, 20, id="s").with_values(source=source.id), (20.0, 20.0), (40.0, 30.0), 10)
    made = evolve(
        piece(square, backdrop(64, 48, (0.1, 0.2, 0.3, 1.0))), guides=((0, 20.0),), markers=(Marker(10, "turn"),)
    )
    return made, Project("P", (made,), (source,))


class FrameTest(unittest.TestCase):
    def test_cropping_and_enlarging_keep_what_is_seen(self) -> None:
        made, project = sample()
        whole = render_frame(project, made.id, 3)
        small = cropped(made, (8.0, 4.0, 56.0, 44.0))
        self.assertEqual((small.width, small.height, small.guides), (48, 40, ((0, 12.0),)))
        np.testing.assert_allclose(
            render_frame(project.with_composition(small), made.id, 3), whole[4:44, 8:56], atol=1e-5
        )
        large = cropped(made, (-10.0, -6.0, 74.0, 60.0))
        inner = render_frame(project.with_composition(large), made.id, 3)[6:54, 10:74]
        np.testing.assert_allclose(inner, whole, atol=1e-5)

    def test_layers_can_scale_with_the_format(self) -> None:
        made, project = sample()
        double = reformatted(made, 128, 96, made.rate, made.length, scales="fit")
        pixels = render_frame(project.with_composition(double), made.id, 5)
        half = pixels.reshape(48, 2, 64, 2, 4).mean(axis=(1, 3))
        self.assertLess(float(np.abs(half - render_frame(project, made.id, 5)).mean()), 0.01)
        covered = reformatted(made, 128, 48, made.rate, made.length, scales="cover")
        self.assertEqual(covered.layer("s").track("scale").value, (200.0, 200.0))
        self.assertEqual(reformatted(made, 128, 48, made.rate, 20).layer("s").track("position").value, (52.0, 20.0))


class TimeTest(unittest.TestCase):
    def test_keys_stay_keep_their_seconds_or_stretch(self) -> None:
        made, _ = sample()

        def frames(result: Composition) -> list[int]:
            return [key.frame for key in result.layer("s").track("position").keys]

        self.assertEqual(frames(reformatted(made, 64, 48, Fraction(50), 40)), [0, 10])
        doubled = reformatted(made, 64, 48, Fraction(50), 40, times="seconds")
        self.assertEqual((frames(doubled), doubled.layer("s").last, doubled.markers[0].frame), ([0, 20], 40, 20))
        stretched = reformatted(made, 64, 48, made.rate, 60, times="stretch")
        self.assertEqual((frames(stretched), stretched.length, stretched.rate), ([0, 30], 60, made.rate))

    def test_moves_keep_their_seconds(self) -> None:
        made, _ = sample()
        use = MoveUse("pop-in", 4, 6)
        moved = made.with_layer(evolve(made.layer("s"), moves=(use,)))
        (doubled,) = reformatted(moved, 64, 48, Fraction(50), 40, times="seconds").layer("s").moves
        self.assertEqual((doubled.first, doubled.length), (8, 12))
        (kept,) = reformatted(moved, 64, 48, Fraction(50), 40).layer("s").moves
        self.assertEqual(kept, use)

    def test_at_twice_the_rate_every_other_frame_of_the_demo_is_as_it_was(self) -> None:
        demo = stored_demo()
        for piece_ in demo.compositions:
            # An open shutter and grain go by the frame, not by the second.
            grainy = {block.id for layer in piece_.layers for block in layer.blocks if block.kind == "grain"}
            layers = [reduce(Layer.without_block, grainy & {b.id for b in y.blocks}, y) for y in piece_.layers]
            calm = evolve(piece_, shutter_angle=0.0, layers=tuple(layers))
            twice = reformatted(calm, calm.width, calm.height, 2 * calm.rate, 2 * calm.length, times="seconds")
            scale, frame = 72 / max(calm.width, calm.height), calm.length // 3
            before = render_frame(demo.with_composition(calm), calm.id, frame, scale)
            after = render_frame(demo.with_composition(twice), calm.id, 2 * frame, scale)
            np.testing.assert_allclose(after, before, atol=1e-4, err_msg=piece_.name)

    @given(st.lists(st.integers(0, 200), min_size=1, max_size=20, unique=True), st.integers(1, 90))
    def test_no_two_keys_ever_share_a_frame(self, frames: list[int], length: int) -> None:
        keys = tuple(Key(frame, float(frame)) for frame in sorted(frames))
        layer = Layer("L", "backdrop", 0, 200, id="l").with_track("rotation", Track(0.0, keys))
        made = reformatted(piece(layer, length=201), 64, 48, Fraction(25), length, times="stretch")
        landed = [key.frame for key in made.layer("l").track("rotation").keys]
        self.assertEqual(landed, sorted(set(landed)))
        self.assertEqual(made.layer("l").track("rotation").keys[-1].value, float(max(frames)))


if __name__ == "__main__":
    unittest.main()
