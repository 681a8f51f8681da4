"""What the Keys menu does to the chosen keys, or to all keys of the chosen layers."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from typing import Any

from attrs import evolve
from PyQt6.QtWidgets import QWidget

from spiralis.app.pace.segment import chosen_starts
from spiralis.app.session import Session, say_fewer_keys
from spiralis.app.widgets.asking import Ask, LiveDialog
from spiralis.core.animation.easing import LINEAR, Easing
from spiralis.core.animation.placing import is_separate
from spiralis.core.editing.fewer_keys import with_fewer_keys
from spiralis.core.editing.freezing import frozen_at
from spiralis.core.editing.keys import (
    KeyRef,
    by_track,
    gap_closed,
    keys_aligned,
    keys_mirrored,
    keys_moved,
    keys_reversed,
)
from spiralis.core.editing.looping import loop_closed, trimmed_to_loop
from spiralis.core.editing.shaping import keys_shaped
from spiralis.core.editing.spans import split
from spiralis.core.editing.spreading import (
    AS_GIVEN,
    ORDERS,
    PLACE_ORDERS,
    Variation,
    ordered_by_place,
    settled,
    staggered,
    varied,
)
from spiralis.core.model import Composition

Found = tuple[Composition, set[KeyRef]]
_NONE = "Choose keys, or layers that have some."
#: What is asked for where layers come one after another.
ORDERING = (
    Ask("order", "Order", ORDERS[0], choices=(*ORDERS, *PLACE_ORDERS)), Ask("seed", "Seed for random", 1.0, "", 0, 9999)
)


class KeyCommands:
    """Edits of keys by command."""

    def __init__(self, session: Session, window: QWidget) -> None:
        self.session, self.window = session, window
        self.dialog: LiveDialog | None = None

    def shape(self, smooth: bool) -> None:
        """Give the chosen keys one speed on both sides, or none."""
        refs = self.session.keys
        if refs:
            name = "Smooth through keys" if smooth else "Flatten keys"
            self.session.edit(name, lambda piece: keys_shaped(piece, refs, smooth))

    def refs(self) -> frozenset[KeyRef]:
        """Return the chosen keys, or all keys of the chosen layers."""
        if self.session.keys:
            return self.session.keys
        return frozenset(
            KeyRef(layer.id, name, key.frame)
            for layer in self.session.layers
            for name in layer.animated()
            for key in layer.track(name).keys
        )

    def _apply(
        self, name: str, change: Callable[[Composition, frozenset[KeyRef]], Found], merge: str | None = None
    ) -> None:
        session, refs = self.session, self.refs()
        if not refs:
            session.failed.emit(_NONE)
            return
        made: set[KeyRef] = set()

        def whole(piece: Composition) -> Composition:
            changed, chosen = change(piece, refs)
            made.update(chosen)
            return changed

        layers, before = session.selected, session.composition
        if session.edit(name, whole, merge):
            session.select(layers, made)
            say_fewer_keys(session, before, refs, made)

    def reverse(self) -> None:
        """Play the keys backwards."""
        self._apply("Reverse keys", keys_reversed)

    def mirror(self) -> None:
        """Let the keys be followed by their mirror: there and back again."""
        self._apply("Mirror keys", keys_mirrored)

    def align(self, last: bool) -> None:
        """Put the first (or last) key of every thread on one frame."""
        self._apply("Align last keys" if last else "Align first keys", lambda p, refs: keys_aligned(p, refs, last))

    def to_playhead(self) -> None:
        """Move all keys so that the first lies at the playhead."""
        frame = self.session.frame
        self._apply(
            "Keys to the playhead", lambda p, refs: keys_moved(p, refs, frame - min(r.frame for r in refs), False)
        )

    def to_frame(self) -> None:
        """Ask for the frame on which the first of the keys is to lie, and move all of them there."""
        session, refs = self.session, self.refs()
        if not refs:
            session.failed.emit(_NONE)
            return
        first, layers = min(ref.frame for ref in refs), session.selected

        def change(values: Mapping[str, Any], merge: str) -> None:
            by = int(values["frame"]) - first
            self._spread("Keys to a frame", layers, lambda piece: keys_moved(piece, refs, by, False), merge)

        before = session.composition
        self._ask(
            "Keys to a frame", "The first of them lies on it; the others keep their distance.",
            (Ask("frame", "Frame", first, "f", -100_000, 100_000),), change,
        )  # fmt: skip
        say_fewer_keys(session, before)

    def freeze(self) -> None:
        """Let the chosen layers rest here for some frames; what comes after comes that much later."""
        session, ids, frame = self.session, self.session.selected, self.session.frame
        if not any(y.track(name).keys[-1].frame > frame for y in session.layers for name in y.animated()):
            session.failed.emit("Nothing of what is chosen moves after this frame, so there is nothing to let rest.")
            return

        def change(values: Mapping[str, Any], merge: str) -> None:
            hold = int(values["frames"])
            self._spread("Freeze here", ids, lambda piece: frozen_at(piece, ids, frame, hold), merge)

        self._ask(
            "Freeze here", "The layers rest as they are at the playhead, then go on. Their bars keep their length.",
            (Ask("frames", "For", max(1, round(session.composition.rate / 2)), "f", 1, 10_000),), change,
        )  # fmt: skip

    def close_gap(self) -> None:
        """Delete the keys and let later ones move up."""
        session, refs = self.session, self.session.keys
        if not refs:
            session.failed.emit("Choose the keys that are to go.")
            return
        session.select(session.selected)
        session.edit("Delete keys and close the gap", lambda piece: gap_closed(piece, refs))

    def choose_same(self) -> None:
        """Choose the keys of the same properties on all chosen layers, or on all layers where one is chosen."""
        session = self.session
        names = {ref.name for ref in session.keys}
        layers = session.layers if len(session.layers) > 1 else list(session.composition.layers)
        keys = {KeyRef(y.id, n, k.frame) for y in layers for n in y.animated() if n in names for k in y.track(n).keys}
        session.select([y.id for y in layers if any(ref.layer == y.id for ref in keys)], keys)

    def split(self) -> None:
        """Cut the chosen layers in two at the playhead."""
        session = self.session
        changed, later = split(session.evaluated(), session.selected, session.frame)
        if later:
            session.edit("Split at the playhead", lambda _: changed)
            session.select(later)
        elif session.selected:
            session.said.emit(
                "Nothing was split: what is chosen shows on one side of the playhead only, is locked, or lends its "
                "picture to a layer that stays whole."
            )

    # -- pace --------------------------------------------------------------------------------------------

    def _ease(self, name: str, change: Callable[[Easing], Easing]) -> None:
        session, starts = self.session, chosen_starts(self.session)

        def whole(piece: Composition) -> Composition:
            for (layer_id, prop), frames in by_track(starts).items():
                layer = piece.layer(layer_id)
                if layer.locked:
                    continue
                track = layer.track(prop)
                keys = tuple(evolve(k, easing=change(k.easing)) if k.frame in frames else k for k in track.keys)
                piece = piece.with_layer(layer.with_track(prop, evolve(track, keys=keys)))
            return piece

        if starts:
            session.edit(name, whole)

    def straighten(self) -> None:
        """Give the chosen segments one even speed."""
        self._ease("Straighten", lambda _: LINEAR)

    def swap(self) -> None:
        """Let the chosen segments start as they stopped, and stop as they started."""
        self._ease("Swap in and out", lambda easing: easing.reversed_in_time())

    # -- with numbers ------------------------------------------------------------------------------------

    def _ask(
        self, title: str, help: str, asks: tuple[Ask, ...], change: Callable[[Mapping[str, Any], str], object]
    ) -> bool:
        """Let values be set while what they do is seen; True where they are taken."""
        self.dialog = LiveDialog(self.window, self.session, title, help, asks, change)
        return bool(self.dialog.exec())

    def stagger(self) -> None:
        """Let the chosen layers come one after another."""
        session, keys = self.session, self.session.keys
        if len(session.selected) < 2:
            session.failed.emit("Choose two or more layers to stagger; with keys chosen, only those keys move.")
            return
        ids, at = session.selected, session.evaluated()

        def change(values: Mapping[str, Any], merge: str) -> None:
            step, order, seed = values["step"], values["order"], int(values["seed"])
            places = ordered_by_place(at, ids, order) if order in PLACE_ORDERS else ids
            order = AS_GIVEN if order in PLACE_ORDERS else order
            self._spread("Stagger", ids, lambda piece: staggered(piece, places, step, order, seed, keys), merge)

        self._ask(
            "Stagger", "Each layer comes some frames after the one before it.",
            (Ask("step", "Frames apart", 3.0, "f", -500, 500, 1),
             *ORDERING),
            change,
        )  # fmt: skip

    def _spread(
        self, name: str, ids: Sequence[str], change: Callable[[Composition], Found], merge: str
    ) -> None:
        """Make an edit that moves keys, and choose them where they have landed."""
        found: set[KeyRef] = set()

        def whole(piece: Composition) -> Composition:
            made, landed = change(piece)
            found.update(landed)
            return made

        self.session.edit(name, whole, merge)
        self.session.select(ids, found)

    def vary(self) -> None:
        """Give the keys small differences, so that repeats are not alike."""
        session, refs = self.session, self.refs()
        if not refs:
            session.failed.emit(_NONE)
            return
        ids = session.selected

        def change(values: Mapping[str, Any], merge: str) -> None:
            by = Variation(values["frames"], values["value"], values["softness"], int(values["seed"]))
            self._spread("Vary", ids, lambda piece: varied(piece, refs, by), merge)

        self._ask(
            "Vary", "Small seeded differences in time, value and softness. Ends of the loop stay as they are.",
            (Ask("frames", "Time", 2.0, "f", 0, 100), Ask("value", "Value", 8.0, "%", 0, 100),
             Ask("softness", "Softness", 12.0, "%", 0, 100), Ask("seed", "Seed", 1.0, "", 0, 9999)),
            change,
        )  # fmt: skip

    def settle(self) -> None:
        """Let the value at each chosen key be overshot and settled on."""
        session, refs = self.session, self.session.keys
        if not refs:
            session.failed.emit("Choose the key whose value is to be settled on.")
            return
        ids = session.selected

        def change(values: Mapping[str, Any], merge: str) -> None:
            def whole(piece: Composition) -> Composition:
                for (layer_id, name), frames in by_track(refs).items():
                    layer = piece.layer(layer_id)
                    track, parameter = layer.track(name), layer.parameter(name)
                    for frame in sorted(frames) if not layer.locked else ():
                        track = settled(
                            track, parameter, frame, values["amount"], int(values["count"]), int(values["time"])
                        )
                    piece = piece.with_layer(layer.with_track(name, track))
                return piece

            session.edit("Settle", whole, merge)
            session.select(ids, refs)

        self._ask(
            "Settle", "The value goes too far and swings until it rests.",
            (Ask("amount", "Amount", 12.0, "%", 0, 200), Ask("count", "Swings", 3.0, "", 1, 12),
             Ask("time", "Time", 16.0, "f", 2, 500)),
            change,
        )  # fmt: skip

    def fewer(self) -> None:
        """Keep as few keys as hold the motion near to what it is, and say how many stay."""
        session, refs = self.session, self.refs()
        if not refs:
            session.failed.emit(_NONE)
            return
        ids, left = session.selected, set[KeyRef]()

        def change(values: Mapping[str, Any], merge: str) -> None:
            def whole(piece: Composition) -> Composition:
                changed, found = with_fewer_keys(piece, refs, values["off"])
                left.clear()
                left.update(found)
                return changed

            session.edit("Fewer keys", whole, merge)
            session.select(ids, left)

        told = "As few keys as keep the motion this near to what it is now, each in its own unit: px, °, %."
        if self._ask("Fewer keys", told, (Ask("off", "Off by at most", 1.0, "", 0.01, 1000, 2),), change):
            stay = f"{len(left)} of {len(refs)} keys stay; undo brings back the others."
            none = "No key can go without more being off; all of them stay."
            session.said.emit(stay if len(left) < len(refs) else none)

    # -- loops and turns ---------------------------------------------------------------------------------

    def close_loop(self, smooth: bool) -> None:
        """Let the chosen threads, or all of them, end as they begin; ``smooth`` also matches their speed."""
        session, piece = self.session, self.session.composition
        threads = {(ref.layer, ref.name) for ref in session.keys}
        if not threads:
            layers = session.layers or piece.layers
            threads = {(layer.id, name) for layer in layers for name in layer.animated()}
        session.edit("Close the loop", lambda old: loop_closed(old, sorted(threads), smooth))

    def trim_to_loop(self) -> None:
        """Make the composition as long as its latest key."""
        self.session.edit("Trim to the loop", trimmed_to_loop)

    # -- position ----------------------------------------------------------------------------------------

    def switch_position(self) -> None:
        """Part the chosen layers' x and y, or make one path of them where those of the first are apart."""
        chosen = self.session.layers
        if chosen:
            self.session.set_property("separate", not is_separate(chosen[0]))
