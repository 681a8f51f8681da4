"""The Details sections of effects and of finishes: add, switch, reorder, copy, delete; each block's numbers as rows."""

from __future__ import annotations

import json
from collections.abc import Callable, Iterator

from attrs import evolve
from PyQt6.QtCore import QMimeData
from PyQt6.QtGui import QGuiApplication
from PyQt6.QtWidgets import QInputDialog, QMenu, QToolButton, QWidget

from spiralis.app.commands.outliving import clipboard_mime
from spiralis.app.details.section import Section
from spiralis.app.session import Session
from spiralis.core.editing.effecting import (
    moved_block,
    only_blocks,
    renamed_block,
    reset_block,
    with_blocks_of,
    with_effect,
    without_blocks_of,
)
from spiralis.core.errors import SpiralisError
from spiralis.core.model import Layer, Parameter, Project
from spiralis.core.model.blocks import EFFECT, FINISH, PURPOSES, Block, block_parameters, effect_kinds
from spiralis.core.storage.conversion import from_json, to_json

#: What the clipboard carries: blocks of a layer, as a project of one carrier.
BLOCKS = "application/x-spiralis-blocks"
TITLES = {FINISH: "Finishes", EFFECT: "Effects"}


def copy_blocks(session: Session, layer: Layer, ids: list[str]) -> None:
    """Put blocks of a layer on the clipboard."""
    held = evolve(session.composition, layers=(only_blocks(layer, ids),), poses=type(session.composition.poses)())
    mime = QMimeData()
    mime.setData(BLOCKS, json.dumps(to_json(Project("clipboard", (held,)))).encode())
    mime.setText(", ".join(block.label for block in layer.blocks if block.id in ids))
    QGuiApplication.clipboard().setMimeData(mime)


def blocks_held() -> Layer | None:
    """Return the carrier of the blocks on the clipboard, or None."""
    mime = clipboard_mime()
    if mime is None or not mime.hasFormat(BLOCKS):
        return None
    try:
        return from_json(json.loads(mime.data(BLOCKS).data().decode()), "the clipboard").compositions[0].layers[0]
    except (SpiralisError, ValueError, IndexError):
        return None


def paste_blocks(session: Session) -> bool:
    """Add the blocks on the clipboard to the chosen layers; False where there are none."""
    held = blocks_held()
    if held is None or not session.layers:
        return False
    known = set(session.composition.by_id)
    session.edit_layers("Paste effects", lambda layer: with_blocks_of(layer, held, known - {layer.id}))
    return True


class EffectsSections:
    """Makes the sections of the chosen layers for Details; ``add_row`` adds a parameter's row to a section."""

    def __init__(
        self, session: Session, window: QWidget, add_row: Callable[[Section, Parameter], None]
    ) -> None:
        self.session, self.window, self.add_row = session, window, add_row
        #: The sections by the ids of their blocks.
        self.sections: dict[str, Section] = {}

    def parts(self, layers: list[Layer], role: str) -> Iterator[QWidget]:
        """Yield the section of a role, then one a block that all chosen layers have, as one layer and its copies do."""
        section = Section(TITLES[role])
        if any(layer.blocks_of(role) for layer in layers):
            before = section.add_tool("eye", f"Before: without {TITLES[role].lower()} while it is held")
            before.pressed.connect(lambda: self._peek(role))
            before.released.connect(self.session.peek.end)
        adder = section.add_tool("plus", f"Add to {TITLES[role].lower()}")
        adder.setPopupMode(QToolButton.ToolButtonPopupMode.InstantPopup)
        adder.setMenu(self._add_menu(section, role))
        yield section
        for block in layers[0].blocks_of(role):
            if all(any((b.id, b.kind) == (block.id, block.kind) for b in layer.blocks) for layer in layers[1:]):
                yield self._block(block)

    def _peek(self, role: str) -> None:
        """Show the chosen layers without their effects, or finishes."""
        chosen = self.session.selected
        session = self.session
        session.peek.show(session.project, session.composition, lambda c: without_blocks_of(c, chosen, role))

    def _add_menu(self, parent: QWidget, role: str) -> QMenu:
        menu = QMenu(parent)
        menu.addAction("Choose by pictures…", lambda: self.session.effectAsked.emit(role))
        menu.addSeparator()
        for purpose in PURPOSES:
            kinds = [kind for kind in effect_kinds() if kind.role == role and kind.purpose == purpose]
            part = menu.addMenu(purpose) if role == EFFECT and kinds else menu
            part.setToolTipsVisible(True)
            for kind in kinds:
                action = part.addAction(kind.label, lambda name=kind.name, label=kind.label: self.add(name, label))
                action.setToolTip(kind.help)
        menu.addSeparator()
        paste = menu.addAction("Paste effects", lambda: paste_blocks(self.session))
        menu.aboutToShow.connect(lambda: paste.setEnabled(blocks_held() is not None))
        return menu

    def add(self, kind: str, label: str) -> None:
        """Give every chosen layer one more effect or finish."""
        self.session.edit_layers(f"Add {label}", lambda layer: with_effect(layer, kind))

    def _chosen(self) -> Layer:
        """Return the layer that is chosen now: rows serve every layer that has such blocks."""
        return self.session.layers[0]

    def _block(self, block: Block) -> Section:
        section = self.sections[block.id] = Section(block.label, f"block {block.kind}", small=True)
        parameters = block_parameters(block)
        for picture, text, by in (("up", "Earlier", -1), ("later", "Later", 1)):
            button = section.add_tool(picture, f"{text}: {block.label}")
            button.clicked.connect(lambda _=False, by=by: self._edit(
                block, f"Move {block.label}", lambda y: moved_block(y, block.id, by)))  # fmt: skip
        more = section.add_tool("more", f"More for {block.label}")
        more.setPopupMode(QToolButton.ToolButtonPopupMode.InstantPopup)
        menu = QMenu(more)
        menu.addAction("Copy", lambda: copy_blocks(self.session, self._chosen(), [block.id]))
        menu.addAction("Copy all of the layer", lambda: self._copy_all())
        menu.addAction("Duplicate", lambda: self._edit(
            block, f"Duplicate {block.label}",
            lambda y: with_blocks_of(y, only_blocks(y, [block.id]), set(self.session.composition.by_id))))  # fmt: skip
        menu.addAction("Rename…", lambda: self._rename(block))
        menu.addAction("Reset all numbers", lambda: self._edit(
            block, f"Reset {block.label}", lambda y: reset_block(y, block.id)))  # fmt: skip
        menu.addSeparator()
        name = f"Delete {block.label}"
        menu.addAction("Delete", lambda: self._edit(block, name, lambda y: y.without_block(block.id)))
        more.setMenu(menu)
        for parameter in parameters:
            self.add_row(section, parameter)
        return section

    def _copy_all(self) -> None:
        layer = self._chosen()
        copy_blocks(self.session, layer, [block.id for block in layer.blocks])

    def _rename(self, block: Block) -> None:
        name, sure = QInputDialog.getText(self.window, "Rename", "Name", text=block.name or block.label)
        if sure:
            self._edit(block, f"Rename {block.label}", lambda y: renamed_block(y, block.id, name))

    def _edit(self, block: Block, name: str, change: Callable[[Layer], Layer]) -> None:
        having = [y.id for y in self.session.layers if any(other.id == block.id for other in y.blocks)]
        self.session.edit_layers(name, change, having)
