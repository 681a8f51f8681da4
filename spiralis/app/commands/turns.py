"""What shows the chosen layers in turn: one after another, or at random."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import Any

from attrs import evolve
from PyQt6.QtWidgets import QWidget

from spiralis.app.commands.keys import ORDERING
from spiralis.app.session import Session
from spiralis.app.widgets.asking import Ask, LiveDialog, may_lose
from spiralis.core.animation.drivers import is_driven
from spiralis.core.editing.sequencing import FADES, in_random_turn, in_turn
from spiralis.core.editing.spreading import ORDERS, ordered


class TurnCommands:
    """Edits that give layers turns, by command."""

    def __init__(self, session: Session, window: QWidget) -> None:
        self.session, self.window = session, window

    def at_random(self) -> None:
        """Show the chosen layers one at a time in random order."""
        session, ids = self.session, self.session.selected
        if not self._may_begin("visible"):
            return

        def change(values: Mapping[str, Any], merge: str) -> None:
            numbers = (int(values["least"]), int(values["most"]), int(values["seed"]))
            session.edit("Random sequence", lambda piece: in_random_turn(piece, ids, *numbers), merge)
            session.select(ids)

        self._ask(
            "Random sequence", "The chosen layers show one at a time, in an order that the seed decides.",
            (Ask("least", "Stays at least", 4.0, "f", 1, 1000), Ask("most", "Stays at most", 12.0, "f", 1, 1000),
             Ask("seed", "Seed", 1.0, "", 0, 9999)),
            change,
        )  # fmt: skip

    def in_order(self) -> None:
        """Show the chosen layers one after another."""
        session, ids, at = self.session, self.session.selected, self.session.evaluated()
        if not self._may_begin("visible", "opacity"):
            return
        first, last = session.composition.span
        # Words that are typed one after another come to lie each before the last; files are listed as they are named.
        order = ORDERS[1] if all(layer.has("text") for layer in session.layers) else ORDERS[0]

        def change(values: Mapping[str, Any], merge: str) -> None:
            places = ordered(at, ids, values["order"], int(values["seed"]))
            numbers = values["stay"], values["fade"], values["how"]
            session.edit("Show in turn", lambda piece: in_turn(piece, places, *numbers), merge)
            session.select(ids)

        self._ask(
            "Show in turn",
            "The chosen layers show one after another, again and again until the end.",
            (Ask("stay", "Each stays", (last - first) / len(ids), "f", 1, last - first, 2),
             Ask("fade", "Fades for", 0.0, "f", 0, 1000), Ask("how", "What fades", FADES[0], choices=FADES),
             evolve(ORDERING[0], value=order), *ORDERING[1:]),
            change,
        )  # fmt: skip

    def _may_begin(self, *names: str) -> bool:
        """Whether several layers are chosen, and what changes some of their properties by now may go."""
        layers = self.session.layers
        if len(layers) < 2:
            self.session.failed.emit("Choose two or more layers that are to show in turn.")
            return False
        lost = [
            f"“{layer.name}”: {what} {layer.parameter(name).label}"
            for layer in layers if not layer.locked for name in names
            for what, goes in (("keys on", layer.track(name).keys), ("what drives", is_driven(layer, name))) if goes
        ]  # fmt: skip
        return not lost or may_lose("Turns are keys on Shown, or on Opacity where they fade", lost)

    def _ask(
        self, title: str, help: str, asks: tuple[Ask, ...], change: Callable[[Mapping[str, Any], str], object]
    ) -> None:
        LiveDialog(self.window, self.session, title, help, asks, change).exec()
