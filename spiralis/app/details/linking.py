"""The menu of a Details row: follow, roll, dial, wobble, bake, reset."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from attrs import evolve
from PyQt6.QtWidgets import QMenu, QToolButton, QWidget

from spiralis.app.commands.passing_on import copy_value, paste_pace, paste_value, value_held
from spiralis.app.commands.tying import driver_text, followable, said_of_ties, set_follow
from spiralis.app.fillin.slot_dialog import SlotDialog, no_slot
from spiralis.app.session import Session
from spiralis.app.style import MARIGOLD, MARK, MINT, icon
from spiralis.app.widgets.asking import Ask, LiveDialog
from spiralis.core.editing.edits import set_value
from spiralis.core.editing.linking import add_dial, baked, with_driver, with_stop, with_wobble
from spiralis.core.model import Composition, Parameter
from spiralis.core.model.drivers import DialJoin, Follow, Roll, Wobble
from spiralis.core.model.parameter import LARGEST, Kind
from spiralis.core.model.slots import may_be_slot

#: Words for how a followed value is limited, and which of its numbers is taken.
_FREE, _LIMITED = "none", "between these"
_NUMBERS = ("both", "x", "y")


class LinkButton(QToolButton):
    """The small menu at the end of a row; lit where something drives the property."""

    def __init__(self, session: Session, parameter: Parameter, window: QWidget) -> None:
        super().__init__()
        self.session, self.parameter, self.window_ = session, parameter, window
        self.setObjectName("Flat")
        self.setFixedSize(24, 24)
        self.setAccessibleName(f"More for {parameter.label}")
        self.setPopupMode(QToolButton.ToolButtonPopupMode.InstantPopup)
        self.setProperty("part", "more")
        menu = QMenu(self)
        menu.aboutToShow.connect(lambda: fill_menu(menu, self.session, self.parameter, self.window_))
        self.setMenu(menu)

    def refresh(self) -> None:
        """Show whether something drives the first chosen layer's property."""
        layers = self.session.layers
        text = driver_text(self.session, layers[0], self.parameter.name) if layers else ""
        slot = layers[0].slot(self.parameter.name) if layers else None
        self.setIcon(icon("chain" if text else "more", MARIGOLD if text else MINT if slot is not None else MARK))
        tip = f"{self.parameter.label} {text}" if text else f"Follow, dial, wobble, reset {self.parameter.label}"
        self.setToolTip(f"Slot “{slot.name}”. {tip}" if slot is not None else tip)


def fill_menu(menu: QMenu, session: Session, parameter: Parameter, window: QWidget) -> None:
    """Fill a row's menu for the layers as they are chosen now."""
    menu.clear()
    layers = session.layers
    if not layers:
        return
    name, track = parameter.name, layers[0].track(parameter.name)
    if parameter.plotted:
        follow = menu.addMenu("Follow")
        for other in session.composition.layers:
            if other.id in session.selected:
                continue
            names = followable(other, parameter)
            if names:
                entry = follow.addMenu(other.name)
                for source in names:
                    label = other.parameter(source).full_label
                    entry.addAction(label, lambda o=other.id, s=source: set_follow(session, name, Follow(o, s)))
        follow.setEnabled(not follow.isEmpty())
        if isinstance(track.driver, Follow):
            menu.addAction("Gain, offset, delay…", lambda: ask_follow(session, name, window))
        if name == "rotation":
            menu.addAction("Roll with the way…", lambda: ask_roll(session, window))
        dials = menu.addMenu("Value here at the dial's place")
        for dial in session.composition.layers:
            if dial.control and dial.id not in session.selected:
                dials.addAction(dial.name, lambda d=dial.id: join_dial(session, name, d))
        dials.addSeparator()
        dials.addAction("New dial", lambda: join_dial(session, name, None))
        menu.addAction("Wobble…", lambda: ask_wobble(session, name, window))
        menu.addSeparator()
    if track.driver is not None or track.wobble is not None:
        menu.addAction("Bake to keys", lambda: bake(session, name))
        if track.driver is not None:
            menu.addAction("Drive it no more", lambda: _each(session, f"Free {parameter.label}",
                           lambda y: with_driver(y, name, None)))  # fmt: skip
        if track.wobble is not None:
            menu.addAction("No wobble", lambda: _each(session, "No wobble", lambda y: with_wobble(y, name, None)))
        menu.addSeparator()
    _fill_passing_on(menu, session, parameter)
    _fill_slot(menu, session, parameter, window)
    menu.addAction("Reset", lambda: _each(session, f"Reset {parameter.label}",
                   lambda y: set_value(y, name, parameter.default, session.frame)))  # fmt: skip


def _fill_passing_on(menu: QMenu, session: Session, parameter: Parameter) -> None:
    """Offer to copy what the property holds, and to put in what was copied from one of its kind."""
    menu.addAction("Copy", lambda: copy_value(session, parameter))
    held = value_held(parameter)
    if held is not None:
        keys = len(held.track(next(iter(held.properties))).keys)
        menu.addAction(f"Paste {keys} keys" if keys > 1 else "Paste", lambda: paste_value(session, parameter, held))
        if keys > 1:
            menu.addAction("Paste the pace alone", lambda: paste_pace(session, parameter, held))
    menu.addSeparator()


def _fill_slot(menu: QMenu, session: Session, parameter: Parameter, window: QWidget) -> None:
    """Offer to make the property of one layer a slot, to change it, or to have none."""
    layers = session.layers
    if len(layers) != 1 or not may_be_slot(parameter) or layers[0].track(parameter.name).moving:
        return
    layer, slot = layers[0], layers[0].slot(parameter.name)
    ask = lambda: SlotDialog(window.window(), session, layer, parameter).open()  # noqa: E731
    if slot is None:
        menu.addAction("Make it a slot…", ask)
    else:
        menu.addAction(f"Slot “{slot.name}”…", ask)
        menu.addAction("No slot", lambda: no_slot(session, layer.id, parameter.name))
    menu.addSeparator()


def _each(session: Session, name: str, change: Any, merge: str | None = None) -> None:
    session.edit_layers(name, change, merge=merge)


def ask_follow(session: Session, name: str, window: QWidget) -> LiveDialog | None:
    """Ask for gain, offset and delay of what the first chosen layer's property follows."""
    layer = session.layers[0]
    parameter = layer.parameter(name)
    driver, unit = layer.track(name).driver, parameter.unit
    low, high = parameter.minimum > -LARGEST, parameter.maximum < LARGEST
    if not isinstance(driver, Follow):
        return None

    def change(values: Mapping[str, Any], merge: str) -> None:
        limited = values["limits"] == _LIMITED
        made = evolve(
            driver, gain=values["gain"] / 100, offset=values["offset"], delay=values["delay"],
            low=min(values["low"], values["high"]) if limited else None,
            high=max(values["low"], values["high"]) if limited else None,
            component=_NUMBERS.index(values["of"]) - 1 if "of" in values else driver.component,
        )  # fmt: skip
        _each(session, "Follow", lambda y: with_driver(y, name, made), merge)

    asks: tuple[Ask, ...] = (
        Ask("gain", "Gain", driver.gain * 100, "%", -10_000, 10_000, 1),
        Ask("offset", "Offset", driver.offset, unit, -1e6, 1e6, 2),
        Ask("delay", "Delay", driver.delay, "f", -10_000, 10_000, 1),
        Ask("limits", "Limits", _LIMITED if driver.low is not None or driver.high is not None else _FREE,
            choices=(_FREE, _LIMITED)),
        Ask("low", "At least", driver.low if driver.low is not None else parameter.minimum if low else -1000.0, unit,
            -1e7, 1e7, 2),
        Ask("high", "At most", driver.high if driver.high is not None else parameter.maximum if high else 1000.0, unit,
            -1e7, 1e7, 2),
    )  # fmt: skip
    source = session.composition.find(driver.layer)
    if source is not None and source.parameter(driver.name).kind is Kind.PAIR and parameter.kind is not Kind.PAIR:
        asks = (Ask("of", "Takes", _NUMBERS[driver.component + 1], choices=_NUMBERS[1:]), *asks)
    dialog = LiveDialog(window, session, "Follow", "How the followed value is taken over.", asks, change)
    dialog.exec()
    return dialog


def ask_roll(session: Session, window: QWidget) -> None:
    """Ask for the radius on which the chosen layers roll with the way of what carries them, or their own."""
    layer = session.layers[0]
    at = session.evaluated()
    box = at.box(layer)
    driver = layer.track("rotation").driver
    radius = driver.radius if isinstance(driver, Roll) else (box[2] - box[0]) / 2 * at.values(layer)["scale"][0] / 100
    mover = layer.parent or ""

    def change(values: Mapping[str, Any], merge: str) -> None:
        if values["radius"]:
            roll = Roll(values["radius"], mover)
            _each(session, "Roll", lambda y: with_driver(y, "rotation", roll), merge)

    gone = said_of_ties(session, "rotation", lambda old: isinstance(old, Roll))
    help = "The turn matches the distance travelled; a layer that hangs on another rolls with that one's way."
    asks = (Ask("radius", "Radius", radius, "px", -20_000, 20_000, 1),)
    if LiveDialog(window, session, "Roll", help, asks, change).exec() and gone:
        session.said.emit(gone)


def join_dial(session: Session, name: str, dial_id: str | None) -> None:
    """Keep the property's present value for the place where the dial stands; ``None`` makes a new dial."""
    at, ids = session.evaluated(), list(session.selected)

    def change(piece: Composition) -> Composition:
        wanted = dial_id
        if wanted is None:
            piece, wanted = add_dial(piece)
        dial = piece.layer(wanted)
        place = float(at.values(dial)["value"]) if dial_id is not None else float(dial.track("minimum").value)
        for layer_id in ids:
            layer = piece.layer(layer_id)
            if not layer.locked:
                piece = piece.with_layer(with_stop(layer, dial, name, place, at.values(layer)[name]))
        return piece

    gone = said_of_ties(session, name, lambda old: isinstance(old, DialJoin) and old.dial == dial_id)
    if session.edit("Join a dial", change) and gone:
        session.said.emit(gone)


def ask_wobble(session: Session, name: str, window: QWidget) -> None:
    """Ask for a wobble, seen while one changes it."""
    layer = session.layers[0]
    parameter = layer.parameter(name)
    old = layer.track(name).wobble or Wobble({"px": 12.0, "%": 6.0, "°": 5.0}.get(parameter.unit, 1.0), 1.0, 1, 1)

    def change(values: Mapping[str, Any], merge: str) -> None:
        wobble = Wobble(values["amount"], max(values["rate"], 0.01), int(values["seed"]), int(values["detail"]))
        _each(session, f"Wobble of {parameter.label}", lambda y: with_wobble(y, name, wobble), merge)

    asks = (
        Ask("amount", "Amount", old.amount, parameter.unit, -1e5, 1e5, 2),
        Ask("rate", "Times a second", old.per_second, "", 0.05, 60, 2),
        Ask("seed", "Seed", float(old.seed), "", 0, 9999), Ask("detail", "Detail", float(old.detail), "", 1, 6),
    )  # fmt: skip
    help = "A smooth wander that is back at its start when the play span is over. Each layer wanders by itself."
    LiveDialog(window, session, "Wobble", help, asks, change).exec()


def bake(session: Session, name: str) -> None:
    """Turn what drives a property of the chosen layers into keys."""
    ids = [layer.id for layer in session.layers if not layer.locked]

    def change(piece: Composition) -> Composition:
        for layer_id in ids:
            piece = baked(piece, layer_id, name)
        return piece

    session.edit("Bake to keys", change)
