"""A parent that goes takes nothing along: whatever moves a layer, it moves on as before."""

from __future__ import annotations

import unittest
from collections.abc import Iterable
from fractions import Fraction

import numpy as np
from attrs import evolve
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from spiralis.core.editing.carrying import on_carrier
from spiralis.core.editing.grouping import grouped
from spiralis.core.editing.removing import removed
from spiralis.core.editing.reparenting import rehung, with_parent
from spiralis.core.model import Composition, Key, Layer, Project, Track
from spiralis.core.model.drivers import DialJoin, Wobble
from spiralis.core.render.layers import Evaluated

LENGTH = 12
#: What parents may be like, as their values; the last ones move.
PARENTS = {
    "nothing": {}, "shifted": {"position": (40.0, 25.0)}, "larger": {"scale": (150.0, 150.0)},
    "turned": {"rotation": 30.0}, "flipped": {"scale": (-100.0, 100.0)}, "stretched": {"scale": (150.0, 80.0)},
    "skewed": {"skew": (20.0, 0.0)}, "turned and larger": {"rotation": -50.0, "scale": (60.0, 60.0)},
    "turning": {"rotation": Track(0.0, (Key(0, 0.0), Key(9, 120.0)))},
    "sliding": {"position": Track((0.0, 0.0), (Key(2, (0.0, 0.0)), Key(8, (30.0, 10.0))))},
}  # fmt: skip
KEYED = Track((5.0, 8.0), (Key(1, (5.0, 8.0), handle_out=(6.0, -9.0)), Key(9, (30.0, 20.0), handle_in=(-4.0, -12.0))))
JOINED = DialJoin("dial", ((0.0, 0.0), (100.0, 90.0)))


def driven(layer: Layer, name: str, **parts: object) -> Layer:
    return layer.with_track(name, evolve(layer.track(name), **parts))


#: What may move the layer itself.
WAYS = {
    "keyed": lambda y: y.with_track("position", KEYED),
    "turning": lambda y: y.with_track("rotation", Track(0.0, (Key(0, 0.0), Key(9, 300.0)))),
    "growing": lambda y: y.with_track("scale", Track((50.0, 80.0), (Key(0, (50.0, 80.0)), Key(9, (100.0, 40.0))))),
    "off centre": lambda y: y.with_values(pivot=(10.0, 80.0)),
    "skewed": lambda y: y.with_values(skew=(15.0, 0.0)),
    "wobbly place": lambda y: driven(y, "position", wobble=Wobble(7.0, 2.0)),
    "wobbly turn": lambda y: driven(y, "rotation", wobble=Wobble(20.0, 2.0)),
    "joined turn": lambda y: driven(y, "rotation", driver=JOINED),
    "wobbly size": lambda y: driven(y, "scale", wobble=Wobble(20.0, 2.0)),
    "across": lambda y: y.with_track("position_x", Track(3.0, (Key(0, 3.0), Key(9, 40.0)))),
    "wobbly down": lambda y: driven(y, "position_y", wobble=Wobble(7.0, 2.0)),
}  # fmt: skip
#: Those that count only where x and y are apart.
BY_AXES = frozenset({"across", "wobbly down"})


def shape(layer_id: str) -> Layer:
    return Layer(layer_id, "shape", 0, LENGTH, id=layer_id).with_values(
        form="rectangle", size=(20.0, 10.0), position=(12.0, 9.0))  # fmt: skip


def put(layer: Layer, values: dict[str, object]) -> Layer:
    for name, value in values.items():
        layer = layer.with_track(name, value if isinstance(value, Track) else Track(value))
    return layer


def project(*layers: Layer) -> tuple[Project, Composition]:
    dial = put(Layer("dial", "dial", 0, LENGTH, id="dial"), {"value": Track(0.0, (Key(0, 0.0), Key(9, 100.0)))})
    piece = Composition("Piece", 100, 100, 25, LENGTH, id="piece", layers=(*layers, dial))
    return Project("P", (piece,)), piece


def places(made: Project, piece: Composition, layer_id: str) -> np.ndarray:
    """Return where a layer's corners are on every frame."""
    rows = []
    for frame in range(LENGTH):
        at = Evaluated(made.with_composition(piece), piece, float(frame))
        matrix, (left, top, right, bottom) = at.matrix(piece.layer(layer_id)), at.box(piece.layer(layer_id))
        rows.append([matrix.apply(x, y) for x, y in ((left, top), (right, top), (right, bottom), (left, bottom))])
    return np.array(rows)


def moving(ways: Iterable[str], along: bool = False) -> Layer:
    """Return a layer that all of these move."""
    layer = evolve(shape("layer"), parent="near").with_values(along_path=along, separate=not BY_AXES.isdisjoint(ways))
    for way in ways:
        layer = WAYS[way](layer)
    return layer


class OrderTest(unittest.TestCase):
    def test_a_group_of_a_carrier_lies_where_what_hangs_on_it_lay(self) -> None:
        front = Layer("Front", "shape", 0, LENGTH, id="front")
        hung = Layer("Hung", "shape", 0, LENGTH, id="hung", parent="deeper")
        deeper = Layer("Deeper", "carrier", 0, LENGTH, id="deeper", parent="carrier")
        ground = Layer("Ground", "backdrop", 0, LENGTH, id="ground")
        carrier = Layer("Carrier", "carrier", 0, LENGTH, id="carrier")
        piece = Composition(
            "piece", 64, 48, Fraction(25), LENGTH, layers=(front, hung, deeper, ground, carrier), id="piece"
        )
        project = Project(compositions=(piece,))
        for make in (grouped, on_carrier):
            made, new = make(project, piece, ["carrier"], 0, "New")
            order = [layer.id for layer in made.layers if layer.id != "carrier"]
            self.assertEqual(["front", new, "hung", "deeper", "ground"], order)


class RehangingTest(unittest.TestCase):
    def assert_moves_as_before(self, layer: Layer, near: str, far: str, frame: int) -> None:
        parents = (evolve(put(shape("near"), PARENTS[near]), parent="far"), put(shape("far"), PARENTS[far]))
        made, piece = project(layer, *parents)
        wanted = places(made, piece, "layer")
        for gone in (["near"], ["far"], ["near", "far"]):
            left = removed(made, piece, gone, frame).piece
            self.assertEqual(left.layer("layer").parent, next((p for p in ("near", "far") if p not in gone), None))
            # A key a frame holds places and angles to six digits.
            np.testing.assert_allclose(places(made, left, "layer"), wanted, atol=2e-4, err_msg=f"{near} {far} {gone}")

    def test_each_way_under_each_parent(self) -> None:
        for way in WAYS:
            for near in PARENTS:
                with self.subTest(way=way, near=near):
                    self.assert_moves_as_before(moving([way]), near, "nothing", 3)
        for near in PARENTS:
            self.assert_moves_as_before(moving(["keyed"], along=True), near, "nothing", 3)

    @settings(max_examples=60, deadline=None, suppress_health_check=[HealthCheck.too_slow])
    @given(
        st.lists(st.sampled_from(sorted(WAYS)), min_size=2, max_size=4, unique=True), st.booleans(),
        st.sampled_from(sorted(PARENTS)), st.sampled_from(sorted(PARENTS)), st.integers(0, LENGTH - 1),
    )  # fmt: skip
    def test_several_at_once(self, ways: list[str], along: bool, near: str, far: str, frame: int) -> None:
        self.assert_moves_as_before(moving(ways, along and BY_AXES.isdisjoint(ways)), near, far, frame)

    def test_keys_stay_keys_where_nothing_between_moves(self) -> None:
        for parent in ("shifted", "turned", "larger", "turned and larger", "sliding"):
            made, piece = project(moving(["keyed"]), put(shape("near"), PARENTS[parent]))
            changed, written = rehung(made, piece, piece.layer("layer"), None, 3)
            self.assertEqual(parent == "sliding", written)
            if not written:
                self.assertEqual([1, 9], [key.frame for key in changed.track("position").keys])

    def test_wobbles_and_dials_go_along_where_they_can(self) -> None:
        for parent in ("turned and larger", "larger", "shifted"):
            for way in ("wobbly place", "wobbly turn", "wobbly size", "joined turn"):
                made, piece = project(moving([way]), put(shape("near"), PARENTS[parent]))
                _, written = rehung(made, piece, piece.layer("layer"), None, 3)
                # A wobble wanders along the axes, which a turn would turn as well.
                self.assertEqual((way, parent) == ("wobbly place", "turned and larger"), written, (way, parent))
                self.assert_moves_as_before(moving([way]), parent, "nothing", 3)

    def test_a_wobble_is_not_taken_for_the_place(self) -> None:
        """Where a place has to be set anew, what wobbles about it does so as before."""
        layer = moving(["wobbly place"])
        made, piece = project(layer, put(shape("near"), PARENTS["turned and larger"]))
        freed = with_parent(Evaluated(made, piece, 3.0), piece.layer("layer"), None)
        plain = piece.with_layer(layer.with_track("position", evolve(layer.track("position"), wobble=None)))
        there = evolve(plain.layer("layer"), parent="near")
        rests = Evaluated(made, plain.with_layer(there), 3.0)
        at = rests.parent_matrix(there).apply(*there.track("position").value)
        np.testing.assert_allclose(freed.track("position").value, at, atol=1e-6)
        self.assertEqual(layer.track("position").wobble, freed.track("position").wobble)
