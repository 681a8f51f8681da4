"""Effects one after another: what one lays beyond a layer's box the next one does not cut off."""

from __future__ import annotations

import unittest
from functools import cache

import numpy as np
from attrs import evolve
from hypothesis import given
from hypothesis import strategies as some

from spiralis.core.effects.job import EffectJob, Finish
from spiralis.core.geometry import Affine, Projection, intersect_whole
from spiralis.core.model import Composition, Layer, Project
from spiralis.core.model.blocks import ALL, BOX, EFFECT, Block, EffectKind, effect_kind, effect_kinds
from spiralis.core.raster.raster import Raster
from spiralis.core.render import render_frame
from spiralis.core.render.effecting import Step, filled, needed, run_steps

#: Values with which effects change hardly anything.
HARDLY = {
    "bend": {"angle": 0.02}, "taper": {"first": 100.02, "last": 100.0}, "spin-blur": {"angle": 0.02},
    "zoom-blur": {"first": 99.99, "last": 100.01}, "corner-pin": {"top_left": (0.01, 0.0)},
}  # fmt: skip
#: Seen as far as the frame goes and further, so that what lies beyond that comes into it, however little.
ENDLESS = ("tile", "mirror-wheel")
WIDTH, HEIGHT = 240, 160
OWN = (30.0, 20.0, 90.0, 60.0)


@cache
def picture(*blocks: str) -> np.ndarray:
    """Return a shape with a wide stroke, which lies beyond its box, with effects."""
    layer = Layer("Shape", "shape", 0, 10).with_values(
        form="rectangle", size=(80.0, 48.0), fill=(1.0, 0.5, 0.1, 1.0), stroke=14.0, stroke_colour=(0.1, 0.3, 0.9, 1.0),
        position=(120.0, 80.0),
    )  # fmt: skip
    for index, name in enumerate(blocks):
        layer = layer.with_block(Block(name, id=f"b{index}"))
        if index == len(blocks) - 1 and name in HARDLY:
            layer = layer.with_values(**{f"b{index}.{key}": value for key, value in HARDLY[name].items()})
    piece = Composition("Piece", WIDTH, HEIGHT, 25, 10, id="piece", layers=(layer,))
    return render_frame(Project("P", (piece,)), "piece", 3)


class InARowTest(unittest.TestCase):
    def test_all_that_read_everything_are_looked_at(self) -> None:
        self.assertEqual(set(HARDLY), {kind.name for kind in effect_kinds() if kind.takes == ALL})
        self.assertEqual({"tile", "mirror-wheel", "round"}, {k.name for k in effect_kinds() if k.takes == BOX})

    def test_an_effect_that_does_hardly_anything_cuts_nothing_off(self) -> None:
        for first in (None, *(kind.name for kind in effect_kinds() if kind.role == EFFECT and kind.name not in HARDLY)):
            before = (first,) if first is not None else ()
            for last in HARDLY:
                with self.subTest(first=first, last=last):
                    apart = np.abs(picture(*before, last) - picture(*before)).max(axis=-1)
                    self.assertLess(float(apart.max()), 0.2 if first in ENDLESS else 0.06)

    def test_near_ones_read_around_and_others_what_the_source_fills(self) -> None:
        blur = Step(effect_kind("gaussian-blur"), {"across": 2.0, "down": 2.0, "edge": "clear"}, (1.0, 1.0), box=OWN)
        turn = Step(effect_kind("bend"), {"angle": 40.0}, (1.0, 1.0), box=OWN)
        source, region = (30, 20, 90, 60), (0, 0, 200, 100)
        soft = blur.fills(source)
        self.assertLess(soft[0], source[0] - 5)
        regions = needed([blur, turn], region, filled([blur, turn], source))
        self.assertEqual(soft, regions[1])
        self.assertEqual(filled([blur, turn], source)[1], soft)
        self.assertLess(regions[0][0], soft[0])
        tile = Step(effect_kind("tile"), {}, (1.0, 1.0), box=OWN)
        self.assertEqual((29, 19, 91, 61), needed([tile, blur], region, filled([tile, blur], source))[0])


class ScatteredTest(unittest.TestCase):
    """Layers that show something far from their box keep that under effects, too."""

    def assert_kept(self, layer: Layer, *others: Layer) -> None:
        piece = Composition("Piece", WIDTH, HEIGHT, 25, 10, id="piece")
        for name, values in HARDLY.items():
            changed = layer.with_block(Block(name, id="b"))
            changed = changed.with_values(**{f"b.{key}": value for key, value in values.items()})
            seen = (Project("P", (evolve(piece, layers=(y, *others)),)) for y in (layer, changed))
            was, now = (render_frame(project, "piece", 3) for project in seen)
            self.assertGreater(float(was.mean()), 0.001)
            self.assertLess(float(np.abs(was - now).mean()), 0.05 * float(was.mean()), (layer.kind, name))

    def dot(self, **values: object) -> Layer:
        layer = Layer("Dot", "shape", 0, 10, id="dot")
        return layer.with_values(form="ellipse", size=(12.0, 12.0), fill=(1.0, 0.6, 0.1, 1.0), **values)

    def test_copies(self) -> None:
        rows = Layer("Rows", "copies", 0, 10).with_values(
            of="dot", layout="grid", count=24.0, columns=6.0, spacing=(36.0, 36.0), position=(120.0, 80.0),
        )  # fmt: skip
        self.assert_kept(rows, self.dot(position=(20.0, 20.0)))

    def test_a_group(self) -> None:
        group = Layer("Group", "group", 0, 10, id="group").with_values(
            corner=(110.0, 70.0), size=(20.0, 20.0), position=(120.0, 80.0)
        )
        self.assert_kept(group, evolve(self.dot(position=(220.0, 140.0)), parent="group"))

    def test_particles(self) -> None:
        self.assert_kept(Layer("Cloud", "particles", 0, 10).with_values(
            region=(80.0, 10.0), speed=900.0, speed_vary=0.0, born="at once", look="dot", size=8.0, count=80.0,
            position=(120.0, 80.0),
        ))  # fmt: skip

    def test_a_solid(self) -> None:
        carrier = Layer("World", "carrier", 0, 10, id="world").with_values(depth=True, position=(40.0, 40.0))
        box = Layer("Box", "box", 0, 10, parent="world").with_values(depth=True, position=(60.0, 30.0), turn_y=30.0)
        self.assert_kept(box, carrier)


class HeldTest(unittest.TestCase):
    def test_what_holds_reads_nothing_beyond_the_frame(self) -> None:
        frame, far = (0, 0, 70, 50), 260
        pixels = np.random.default_rng(3).random((50, 70, 4)).astype(np.float32)
        padded = Raster(np.pad(pixels, ((far, far), (far, far), (0, 0)), mode="edge"), corner=(-far, -far))
        kinds = [kind for kind in effect_kinds() if kind.holds]
        self.assertEqual({"bulge", "churn", "gaussian-blur", "ripple", "twirl", "wave"}, {kind.name for kind in kinds})
        for kind in kinds:
            values = {parameter.name: parameter.default for parameter in kind.parameters} | {"edge": "repeat"}
            values |= {"across": 40.0, "down": 25.0} if "across" in values else {}
            held = Step(kind, values, (1.0, 1.0), box=(0.0, 0.0, 70.0, 50.0), held=True)
            read = held.needs(frame, frame)
            self.assertLessEqual((read[2] - read[0]) * (read[3] - read[1]), 72 * 52, kind.name)
            self.assertGreater(evolve(held, held=False).needs(frame, frame)[2], 70, kind.name)
            near, wide = run_steps(Raster(pixels), [held], frame), run_steps(padded, [evolve(held, held=False)], frame)
            np.testing.assert_allclose(near.data, wide.data, atol=1e-4, err_msg=kind.name)


class DegenerateTest(unittest.TestCase):
    def test_a_bend_near_none_at_all_is_as_smooth_as_none(self) -> None:
        pixels = np.random.default_rng(1).random((40, 900, 4)).astype(np.float32)
        pixels[:] = np.cumsum(pixels, axis=1) / 900
        box = (0.0, 0.0, 900.0, 40.0)
        for angle in (0.0011, -0.004):
            job = EffectJob(Raster(pixels), (0, 0, 900, 40), {"angle": angle}, box=box)
            made = effect_kind("bend").run(job).data[2:-2, 2:-2]
            self.assertLess(float(np.abs(made - pixels[2:-2, 2:-2]).max()), 0.01)

    def test_a_box_without_width_or_height_gives_a_picture(self) -> None:
        pixels = np.ones((3, 3, 4), dtype=np.float32)
        for kind in effect_kinds():
            values = {parameter.name: parameter.default for parameter in kind.parameters}
            for box in ((1.0, 0.0, 1.0, 3.0), (0.0, 1.0, 3.0, 1.0), (1.0, 1.0, 1.0, 1.0)):
                with self.subTest(kind.name, box=box):
                    step = Step(kind, values, (1.0, 1.0), box=box)
                    filled([step], (0, 0, 3, 3))
                    made = step.run(Raster(pixels), (-4, -4, 8, 8))
                    for part in (made.behind, made.front) if isinstance(made, Finish) else (made,):
                        self.assertTrue(part is None or np.isfinite(part.data).all())


class FillsTest(unittest.TestCase):
    """What a kind says that its result fills holds all of it."""

    def assert_held(self, kind: EffectKind, values: dict[str, object], source: tuple[int, int, int, int]) -> None:
        left, top, right, bottom = source
        raster = Raster(np.ones((bottom - top, right - left, 4), dtype=np.float32), Affine(), (left, top))
        region = (-300, -300, 420, 400)
        step = Step(kind, {"on": True, **values}, (1.0, 1.0), box=OWN)
        held = intersect_whole(step.fills(source), region)
        made = kind.run(EffectJob(raster, region, step.values, box=OWN))
        alpha = np.array(made.spread_over(region).data[..., 3])
        if held is not None:
            alpha[held[1] - region[1] : held[3] - region[1], held[0] - region[0] : held[2] - region[0]] = 0
        self.assertLess(float(alpha.max()), 0.02, (kind.name, values, source, held))

    sources = some.tuples(some.integers(0, 60), some.integers(0, 40), some.integers(61, 130), some.integers(41, 90))

    @given(sources, some.floats(-350, 350).filter(lambda angle: abs(angle) > 1))
    def test_bend(self, source: tuple[int, int, int, int], angle: float) -> None:
        self.assert_held(effect_kind("bend"), {"angle": angle}, source)

    @given(sources, some.floats(5, 400), some.floats(5, 400), some.booleans())
    def test_taper(self, source: tuple[int, int, int, int], first: float, last: float, sideways: bool) -> None:
        self.assert_held(effect_kind("taper"), {"first": first, "last": last, "sideways": sideways}, source)

    @given(sources, some.floats(1, 360), some.tuples(some.floats(-50, 150), some.floats(-50, 150)))
    def test_spin_blur(self, source: tuple[int, int, int, int], angle: float, centre: tuple[float, float]) -> None:
        self.assert_held(effect_kind("spin-blur"), {"angle": angle, "centre": centre}, source)

    @given(sources, some.floats(20, 200), some.floats(20, 200), some.tuples(some.floats(-50, 150), some.floats(0, 99)))
    def test_zoom_blur(
        self, source: tuple[int, int, int, int], first: float, last: float, centre: tuple[float, float]
    ) -> None:
        self.assert_held(effect_kind("zoom-blur"), {"first": first, "last": last, "centre": centre}, source)

    @given(sources, some.lists(some.floats(-25, 25), min_size=8, max_size=8))
    def test_corner_pin(self, source: tuple[int, int, int, int], by: list[float]) -> None:
        corners = [(0.0, 0.0), (100.0, 0.0), (100.0, 100.0), (0.0, 100.0)]
        names = ("top_left", "top_right", "bottom_right", "bottom_left")
        moved = zip(names, corners, by[::2], by[1::2], strict=True)
        places = {name: (x + across, y + down) for name, (x, y), across, down in moved}
        points = [(OWN[0] + x * 0.6, OWN[1] + y * 0.4) for x, y in places.values()]
        if Projection.pinning(OWN, points) is not None:
            self.assert_held(effect_kind("corner-pin"), places, source)


if __name__ == "__main__":
    unittest.main()
