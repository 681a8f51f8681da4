"""Edits that change how a piece is built and nothing of what is seen, on layers that have a bit of everything."""

from __future__ import annotations

import unittest
from collections.abc import Callable
from fractions import Fraction

import numpy as np
from attrs import evolve

from spiralis.core.editing.arranging import seen_box
from spiralis.core.editing.carrying import on_carrier, ties_given_up
from spiralis.core.editing.combining import as_outlines
from spiralis.core.editing.content_nesting import nest_content
from spiralis.core.editing.contours import as_drawing
from spiralis.core.editing.grouping import grouped, ungrouped
from spiralis.core.editing.nesting import nest, open_up, own_copy
from spiralis.core.editing.separating import position_switched
from spiralis.core.errors import ModelError
from spiralis.core.geometry import box_around
from spiralis.core.model import Composition, EdgePin, Key, Layer, Matte, Project, Track
from spiralis.core.model.blocks import Block
from spiralis.core.model.drivers import DialJoin, Follow, Wobble
from spiralis.core.model.poses import Pose, PoseStrip
from spiralis.core.model.slots import Slot
from spiralis.core.render.frame import render_frame
from spiralis.core.render.layers import Evaluated
from tests.core.samples import backdrop, square_source

LENGTH = 16
#: What is tied to others, which a nest would part them from.
TIED = ("dial", "joined", "mask", "inside")
FRAMES = (0, 6, 13)
RED, GREEN, BLUE = (0.9, 0.1, 0.1, 1.0), (0.1, 0.8, 0.2, 1.0), (0.1, 0.2, 0.9, 1.0)


def moving(*pairs: tuple[int, object]) -> Track:
    return Track(pairs[0][1], tuple(Key(frame, value) for frame, value in pairs))


def worn(layer: Layer, x: float, y: float, mixed: bool) -> Layer:
    """Return a layer with keys of its place, an effect, and a look that is not plain: ``mixed`` by a blend, or with a
    finish, whose own blend would not be the same within a nest."""
    layer = layer.with_values(
        rotation=12.0, skew=(6.0, 0.0), pivot=(30.0, 60.0), opacity=85.0, content_opacity=70.0, crop_down=(0.0, 10.0),
        blend="screen" if mixed else "normal", position=(x, y),
    )  # fmt: skip
    layer = layer.with_block(Block("gaussian-blur", id="soft")).with_track("soft.across", moving((0, 0.0), (13, 2.0)))
    if not mixed:
        layer = layer.with_block(Block("drop-shadow", id="cast"))
        layer = layer.with_values(**{"cast.distance": 7.0, "cast.colour": GREEN})
        layer = layer.with_track("cast.size", moving((0, 1.0), (13, 4.0)))
    return layer.with_track("scale", moving((0, (80.0, 80.0)), (13, (110.0, 90.0))))


def sample() -> Project:
    """Return a project whose piece holds words, a shape, a picture, a nest, a group, and what they are tied to."""
    source = square_source(14)
    words = Layer("Words", "text", 0, LENGTH, id="words").with_values(text="Kite", size=18.0, fill=RED)
    shape = Layer("Shape", "shape", 0, LENGTH, id="shape").with_values(form="star", size=(24.0, 20.0), fill=BLUE)
    shape = worn(shape, 70, 30, True).with_track("fill", moving((0, BLUE), (13, RED)))
    picture = worn(Layer("Picture", "picture", 0, LENGTH, id="picture").with_values(source=source.id), 30, 70, False)
    mask = Layer("Mask", "shape", 0, LENGTH, id="mask", parent="picture").with_values(
        form="ellipse", size=(12.0, 12.0), position=(7.0, 7.0))  # fmt: skip
    picture = evolve(picture, mattes=(Matte("mask"),))
    dot = Layer("Dot", "shape", 0, LENGTH, id="dot").with_values(form="ellipse", size=(9.0, 9.0), fill=GREEN)
    ends = Key(0, (20.0, 20.0), handle_out=(20.0, 0.0)), Key(13, (80.0, 75.0), handle_in=(0.0, -20.0))
    dot = dot.with_track("position", Track((20.0, 20.0), ends))
    shaky = Layer("Shaky", "shape", 0, LENGTH, id="shaky").with_values(
        form="rectangle", size=(8.0, 8.0), position=(15.0, 85.0), fill=RED)  # fmt: skip
    shaky = shaky.with_track("position", evolve(shaky.track("position"), wobble=Wobble(5.0, 2.0)))
    dial = Layer("Dial", "dial", 0, LENGTH, id="dial").with_track("value", moving((0, 0.0), (13, 100.0)))
    joined_one = Layer("Joined", "shape", 3, 12, id="joined").with_values(
        form="rectangle", size=(10.0, 4.0), position=(80.0, 85.0))  # fmt: skip
    joined_one = joined_one.with_track("rotation", Track(0.0, driver=DialJoin("dial", ((0.0, 0.0), (100.0, 180.0)))))
    inner = Composition("Inner", 20, 20, 25, LENGTH, id="inner", layers=(
        Layer("Leaf", "shape", 0, LENGTH, id="leaf").with_values(
            form="rectangle", size=(10.0, 10.0), position=(10.0, 10.0), fill=BLUE)
        .with_track("rotation", moving((0, 0.0), (13, 60.0))),
    ))  # fmt: skip
    shown = worn(Layer("Nest", "nested", 0, LENGTH, id="nest").with_values(composition="inner"), 70, 70, False)
    group = Layer("Group", "group", 0, LENGTH, id="group").with_values(
        corner=(40.0, 40.0), size=(20.0, 20.0), position=(50.0, 50.0))  # fmt: skip
    group = group.with_track("rotation", moving((0, 0.0), (13, 30.0)))
    inside = Layer("Inside", "shape", 2, 14, id="inside", parent="group").with_values(
        form="rectangle", size=(9.0, 6.0), position=(46.0, 52.0), fill=RED)  # fmt: skip
    ground = evolve(backdrop(96, 96, (0.2, 0.2, 0.3, 1.0)), id="ground", name="Ground", last=LENGTH)
    words = worn(words, 40, 20, False)
    layers = (words, shape, mask, picture, dot, shaky, dial, joined_one, shown, group, inside, ground)
    return Project("Worn", (Composition("Piece", 96, 96, 25, LENGTH, id="piece", layers=layers), inner), (source,))


def pictures(project: Project) -> list[np.ndarray]:
    return [render_frame(project, "piece", frame) for frame in FRAMES]


class LooksKeptTest(unittest.TestCase):
    start: Project
    before: list[np.ndarray]

    @classmethod
    def setUpClass(cls) -> None:
        cls.start = sample()
        cls.before = pictures(cls.start)

    @property
    def piece(self) -> Composition:
        return self.start.composition("piece")

    def assert_looks_kept(self, changed: Project, what: object, atol: float = 3 / 255) -> None:
        for frame, a, b in zip(FRAMES, self.before, pictures(changed), strict=True):
            self.assertLess(float(np.abs(a - b).max()), atol, (what, frame))

    def each(self, edit: Callable[[str], Project], refused: tuple[str, ...] = (), atol: float = 3 / 255) -> None:
        """Do an edit to each layer; those that are ``refused`` raise ModelError, no others do."""
        said = set()
        for layer in self.piece.layers:
            with self.subTest(layer.id):
                try:
                    self.assert_looks_kept(edit(layer.id), layer.id, atol)
                except ModelError:
                    said.add(layer.id)
        self.assertEqual(set(refused), said)

    def edited(self, change: Callable[[Layer], Layer]) -> Callable[[str], Project]:
        return lambda i: self.start.with_composition(self.piece.with_layer(change(self.piece.layer(i))))

    def test_nesting(self) -> None:
        for cropped in (False, True):
            self.each(lambda i, c=cropped: nest(self.start, "piece", [i], "New", c)[0], refused=TIED)

    def test_what_mixes_with_nothing_gets_no_blend_of_its_own(self) -> None:
        nested, shown = nest(self.start, "piece", ["dot"], "New")
        self.assertIs(self.piece.layer("dot"), nested.compositions[-1].layers[0])
        self.assertNotIn("blend", nested.composition("piece").layer(shown).properties)
        opened, made = open_up(nested, "piece", shown)
        self.assertNotIn("blend", opened.composition("piece").layer(made[0]).properties)
        mixed, shown = nest(self.start, "piece", ["shape"], "New")
        self.assertEqual("screen", mixed.composition("piece").layer(shown).track("blend").value)
        self.assertEqual("normal", mixed.compositions[-1].layers[0].track("blend").value)

    def test_nesting_and_opening_up_again(self) -> None:
        def there_and_back(layer_id: str) -> Project:
            nested, shown = nest(self.start, "piece", [layer_id], "New")
            return open_up(nested, "piece", shown)[0]

        self.each(there_and_back, refused=TIED)

    def test_nesting_the_content(self) -> None:
        self.each(lambda i: nest_content(self.start, "piece", i)[0], refused=("dial",), atol=0.2)

    def test_nested_content_is_not_cut_by_its_frame(self) -> None:
        """Strokes reach over the box, and boxes and letters grow: the frame holds them, pivot and crop stay true."""
        plain = {"rotation": 20.0, "position": (48.0, 40.0), "pivot": (20.0, 90.0)}
        line = Layer("Line", "shape", 0, LENGTH, id="one").with_values(
            form="line", size=(40.0, 0.0), stroke=7.0, stroke_colour=RED, **plain)  # fmt: skip
        grows = Layer("Grows", "shape", 0, LENGTH, id="one").with_values(fill=GREEN, crop_across=(25.0, 0.0), **plain)
        grows = grows.with_track("size", moving((0, (9.0, 9.0)), (13, (50.0, 31.0))))
        turned = grows.with_track("pivot", moving((0, (0.0, 0.0)), (13, (100.0, 50.0))))
        words = Layer("Words", "text", 0, LENGTH, id="one").with_values(size=14.0, fill=BLUE, **plain)
        words = words.with_track("text", Track("I", tuple(Key(f, t) for f, t in ((0, "I"), (6, "Kites")))))
        for layer in (line, grows, turned, words):
            with self.subTest(layer.name):
                child = Layer("Child", "shape", 0, LENGTH, id="child", parent="one").with_values(
                    form="rectangle", size=(6.0, 6.0), position=(3.0, 3.0), fill=GREEN)  # fmt: skip
                hangs = () if layer in (grows, turned, words) else (child,)
                start = self.start.with_composition(
                    evolve(self.piece, layers=(*hangs, layer, self.piece.layer("ground"))))  # fmt: skip
                made, shown = nest_content(start, "piece", "one")
                self.assertEqual("nested", made.composition("piece").layer(shown).kind)
                for a, b in zip(pictures(start), pictures(made), strict=True):
                    self.assertLess(float(np.abs(a - b).mean()), 0.004, layer.name)
                    self.assertLess(float(np.abs(a - b).max()), 0.35, layer.name)

    def test_what_fills_its_frame_is_as_large_in_its_nest(self) -> None:
        for kind in ("clouds", "field", "pattern", "backdrop"):
            for place in ({}, {"rotation": 20.0, "scale": (140.0, 140.0)}):
                middle = (self.piece.width / 2, self.piece.height / 2)
                layer = Layer("Ground", kind, 0, LENGTH, id="it").with_values(position=middle, **place)
                start = self.start.with_composition(evolve(self.piece, layers=(layer,)))
                made, shown = nest_content(start, "piece", "it")
                inner = made.composition(str(made.composition("piece").layer(shown).track("composition").value))
                with self.subTest(kind, place=place):
                    self.assertEqual((self.piece.width, self.piece.height), (inner.width, inner.height))
                    for a, b in zip(pictures(start), pictures(made), strict=True):
                        self.assertLess(float(np.abs(a - b).max()), 1e-3)

    def test_content_that_a_dial_drives_becomes_keys_inside_its_nest(self) -> None:
        wide = Layer("Wide", "shape", 0, LENGTH, id="one")
        wide = wide.with_values(form="rectangle", fill=RED, position=(40.0, 40.0))
        stops = ((0.0, (6.0, 9.0)), (100.0, (60.0, 20.0)))
        wide = wide.with_track("size", Track((6.0, 9.0), driver=DialJoin("dial", stops)))
        slot = Slot("Colour", "fill"), Slot("Strength", "opacity")
        layers = (evolve(wide, slots=slot), self.piece.layer("dial"), self.piece.layer("ground"))
        start = self.start.with_composition(evolve(self.piece, layers=layers))
        made, shown = nest_content(start, "piece", "one")
        inner = made.compositions[-1]
        self.assertGreaterEqual(inner.width, 59)
        self.assertEqual(("fill",), tuple(one.property for one in inner.layers[0].slots))
        self.assertEqual(("opacity",), tuple(one.property for one in made.composition("piece").layer(shown).slots))
        for a, b in zip(pictures(start), pictures(made), strict=True):
            self.assertLess(float(np.abs(a - b).max()), 0.05)

    def test_what_cannot_lie_flat_in_a_nest_is_refused(self) -> None:
        for kind, why in (("camera", "shows nothing"), ("light", "shows nothing"), ("carrier", "shows nothing"),
                          ("effect", "shows nothing"), ("box", "is a solid")):  # fmt: skip
            start = self.start.with_composition(evolve(self.piece, layers=(Layer("It", kind, 0, LENGTH, id="it"),)))
            with self.assertRaisesRegex(ModelError, f"“It” {why}"):
                nest_content(start, "piece", "it")

    def test_cropped_nests_of_what_is_driven(self) -> None:
        lead = Layer("Lead", "shape", 0, LENGTH, id="lead").with_values(form="rectangle", size=(8.0, 8.0), fill=RED)
        lead = lead.with_track("position", moving((0, (30.0, 40.0)), (13, (60.0, 50.0))))
        led = Layer("Led", "shape", 0, LENGTH, id="led").with_values(form="rectangle", size=(5.0, 5.0), fill=GREEN)
        dial = self.piece.layer("dial")
        stops = DialJoin("dial", ((0.0, (70.0, 70.0)), (100.0, (50.0, 30.0))))
        ground = self.piece.layer("ground")

        def nested(driver: object, *others: Layer) -> tuple[Project, Project]:
            layer = led.with_track("position", Track((20.0, 20.0), driver=driver))
            start = self.start.with_composition(evolve(self.piece, layers=(layer, *others, ground)))
            return start, nest(start, "piece", ["led", *(y.id for y in others)], "New", cropped=True)[0]

        for driver, other in ((stops, dial), (Follow("lead", "position", 1.0, 9.0), lead)):
            start, made = nested(driver, other)
            self.assertLess(made.composition(made.compositions[-1].id).width, 90)
            for a, b in zip(pictures(start), pictures(made), strict=True):
                self.assertLess(float(np.abs(a - b).max()), 3 / 255, driver)
            shown = made.composition("piece").layers[0].id
            for a, b in zip(pictures(start), pictures(open_up(made, "piece", shown)[0]), strict=True):
                self.assertLess(float(np.abs(a - b).max()), 3 / 255, driver)
        with self.assertRaisesRegex(ModelError, "“Led” follows something by its place; nest at full size"):
            nested(Follow("lead", "position", 2.0), lead)

    def test_what_opening_up_would_change_is_refused_and_says_why(self) -> None:
        start, shown = nest(self.start, "piece", ["dot", "shaky"], "New")
        piece = start.composition("piece")
        layer, inner = piece.layer(shown), start.compositions[-1]
        open_up(start, "piece", shown)
        words = piece.layer("words")
        strip = PoseStrip((Pose("A", (("dot", "opacity", 90.0),)), Pose("B", (("dot", "opacity", 90.0),))))
        blended = inner.with_layer(inner.layer("dot").with_values(blend="screen"))

        def outer(*layers: Layer, **values: object) -> Project:
            changed = piece
            for each in layers:
                changed = changed.with_layer(each)
            return start.with_composition(evolve(changed, **values))

        def within(changed: Composition, **values: object) -> Project:
            return start.with_composition(evolve(changed, **values))

        cases = {
            "mixed in as one picture; set its opacity": (
                outer(layer.with_values(opacity=50.0)), outer(layer.with_values(blend="screen"))),
            "has or is a matte": (
                outer(evolve(layer, mattes=(Matte("words"),))), outer(evolve(words, mattes=(Matte(shown),)))),
            "Other layers hang on": (outer(evolve(words, parent=shown)),),
            "Other layers are tied to": (
                outer(words.with_track("opacity", Track(1.0, driver=Follow(shown, "opacity")))),
                outer(evolve(layer, edge_pins=(EdgePin("left", "left"),)))),
            "carries effects": (outer(layer.with_block(Block("invert"))),),
            "both have a pose strip": (
                outer(poses=strip).with_composition(evolve(inner, poses=strip)),),
            "has a background colour": (within(inner, background=(0.0, 0.0, 0.0, 1.0)),),
            "is blurred or switched as one picture": (
                outer(layer.with_values(motion_blur=True)), outer(layer.with_values(visible=False))),
            "mix with each other only": (within(blended),),
            "runs at another rate": (within(inner, rate=Fraction(50)), outer(layer.with_values(start=1.5))),
            "repeats within": (outer(layer.with_values(start=4.0)), within(inner, length=9)),
            "has another light or shutter": (within(inner, light="linear"),),
            "is cut by the edge of": (within(inner, width=60),),
        }  # fmt: skip
        for reason, projects in cases.items():
            for number, project in enumerate(projects):
                with self.subTest(reason, number=number), self.assertRaisesRegex(ModelError, reason):
                    open_up(project, "piece", shown)

    def test_poses_go_where_their_layers_go(self) -> None:
        rows = (("dot", "opacity", 90.0), ("words", "opacity", 85.0))
        strip = PoseStrip((Pose("A", rows), Pose("B", rows)))
        start = self.start.with_composition(evolve(self.piece, poses=strip))
        nested, _ = nest(start, "piece", ["dot"], "New")
        inside, outside = nested.compositions[-1].poses, nested.composition("piece").poses
        self.assertEqual([rows[:1]] * 2, [pose.values for pose in inside.poses])
        self.assertEqual([rows[1:]] * 2, [pose.values for pose in outside.poses])

    def test_own_copies(self) -> None:
        self.assert_looks_kept(own_copy(self.start, "piece", "nest")[0], "nest")

    def test_grouping_and_parting(self) -> None:
        def held(layer_id: str) -> Project:
            return self.start.with_composition(grouped(self.start, self.piece, [layer_id], 6)[0])

        def parted(layer_id: str) -> Project:
            piece, group = grouped(self.start, self.piece, [layer_id], 6)
            return self.start.with_composition(ungrouped(self.start, piece, group, 6).piece)

        def carried(layer_id: str) -> Project:
            return self.start.with_composition(on_carrier(self.start, self.piece, [layer_id], 6, "Carrier")[0])

        self.each(held)
        self.each(parted)
        self.each(carried)

    def test_what_holds_layers_is_as_large_and_hangs_where_they_did(self) -> None:
        def square(layer_id: str, place: tuple[float, float], parent: str | None = None) -> Layer:
            made = Layer(layer_id.title(), "shape", 3, LENGTH, id=layer_id, parent=parent)
            return made.with_values(form="rectangle", size=(20.0, 10.0), position=place)

        cart, left = square("cart", (50.0, 50.0)), square("left", (-20.0, 5.0), "cart")
        right, bolt = square("right", (40.0, 5.0), "cart"), square("bolt", (10.0, 5.0), "right")
        other = square("other", (20.0, 90.0))
        piece = evolve(self.piece, layers=(cart, left, right, bolt, other))
        start = self.start.with_composition(piece)
        for hold in (grouped, on_carrier):
            grown, made = hold(start, piece, ["left", "right", "bolt"], 6, "Wheels")
            holder = grown.layer(made)
            self.assertEqual(("Wheels", "cart", 3), (holder.name, holder.parent, holder.first))
            self.assertEqual([made, made, "right"], [grown.layer(name).parent for name in ("left", "right", "bolt")])
            box = seen_box(Evaluated(start, grown, 6.0), holder)
            wheels = [seen_box(Evaluated(start, piece, 6.0), piece.layer(name)) for name in ("left", "right", "bolt")]
            np.testing.assert_allclose(box_around(wheels), box, atol=1e-6)
        self.assertEqual("", ties_given_up(piece, ["left", "right"]))
        self.assertEqual("", ties_given_up(piece, ["cart", "left", "other"]))
        self.assertEqual("“Left” hung on “Cart”, and no longer does.", ties_given_up(piece, ["left", "other"]))

    def test_outlines(self) -> None:
        self.each(self.edited(lambda y: as_outlines(Evaluated(self.start, self.piece, 0.0), y)), atol=6 / 255)

    def test_drawings(self) -> None:
        still = self.piece.layer("shape").with_track("fill", Track(BLUE))
        start = self.start.with_composition(self.piece.with_layer(still))
        at = Evaluated(start, start.composition("piece"), 0.0)
        changed = start.with_composition(self.piece.with_layer(as_drawing(at, still)))
        for a, b in zip(pictures(start), pictures(changed), strict=True):
            self.assertLess(float(np.abs(a - b).max()), 6 / 255)

    def test_x_and_y_apart_and_together(self) -> None:
        for layer in self.piece.layers:
            if layer.id == "dot":
                continue  # Its way is bent, which only a path can be.
            if layer.id == "shaky":
                with self.assertRaisesRegex(ModelError, "Position of “Shaky” is driven; bake it to keys first."):
                    position_switched(self.piece, [layer.id], True)
                continue
            apart, _ = position_switched(self.piece, [layer.id], True)
            self.assertTrue(apart.layer(layer.id).track("separate").value)
            together, _ = position_switched(apart, [layer.id], False)
            for made in (apart, together):
                self.assert_looks_kept(self.start.with_composition(made), layer.id)

    def test_what_follows_x_alone_keeps_its_look_and_is_named(self) -> None:
        leads = Layer("Leads", "shape", 0, LENGTH, id="leads").with_values(
            form="rectangle", size=(5.0, 5.0), separate=True)  # fmt: skip
        leads = leads.with_track("position_x", moving((0, 10.0), (13, 80.0)))
        leads = evolve(leads, properties={**leads.properties, "position_y": Track(50.0)})
        turns = Layer("Turns", "shape", 0, LENGTH, id="turns").with_values(
            form="rectangle", size=(30.0, 6.0), position=(48.0, 48.0))  # fmt: skip
        turns = turns.with_track("rotation", Track(0.0, driver=Follow("leads", "position_x", 1.0)))
        piece = evolve(self.piece, layers=(leads, turns, self.piece.layer("ground")))
        start = self.start.with_composition(piece)
        changed, said = position_switched(piece, ["leads"], False)
        self.assertIn("What followed x or y has keys now: Turns: Rotation.", said)
        for a, b in zip(pictures(start), pictures(start.with_composition(changed)), strict=True):
            self.assertLess(float(np.abs(a - b).max()), 3 / 255)
        wobbly = piece.with_layer(leads.with_track("position_y", Track(50.0, wobble=Wobble(5.0, 2.0))))
        with self.assertRaisesRegex(ModelError, "is driven"):
            position_switched(wobbly, ["leads"], False)
