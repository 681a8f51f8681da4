"""What the menus do to the chosen layers and keys."""

from __future__ import annotations

from attrs import evolve

from spiralis.app.session import Session
from spiralis.app.sources.acting import SourceActions
from spiralis.app.widgets.preferences import new_pace
from spiralis.app.work.sameness import Sameness
from spiralis.core.editing.carrying import ties_given_up
from spiralis.core.editing.duplicating import duplicated
from spiralis.core.editing.edits import reordered, toggle_key, unused_name
from spiralis.core.editing.grouping import grouped, in_order, ungrouped
from spiralis.core.editing.keys import without_keys
from spiralis.core.editing.linking import set_seen_value, settable
from spiralis.core.editing.locking import locked_in
from spiralis.core.editing.removing import removed
from spiralis.core.model import Composition, Layer

#: What is said where grouping changed the picture.
_GATHERED = (
    "The picture is not quite as it was: what lay between these layers lies behind the group now, and what works "
    "beyond its own layer (a blend, an effect layer, a light) works within the group only. Undo brings it back."
)


class Commands:
    """Edits by command."""

    def __init__(self, session: Session) -> None:
        self.session = session
        self.sameness = Sameness(session)

    def delete(self) -> None:
        """Delete the chosen keys, or else the chosen layers."""
        session = self.session
        if session.keys:
            keys = session.keys
            session.select(session.selected)
            session.edit("Delete keys", lambda piece: without_keys(piece, keys))
            return
        locked = locked_in(session.composition)
        ids = [layer.id for layer in session.layers if layer.id not in locked]
        if not ids:
            return
        name = f"Delete {session.composition.layer(ids[0]).name}" if len(ids) == 1 else f"Delete {len(ids)} layers"
        notes: list[str] = []

        def change(piece: Composition) -> Composition:
            removal = removed(session.project, piece, ids, session.frame)
            notes.extend(removal.notes)
            return removal.piece

        if session.edit(name, change) and notes:
            session.said.emit(" ".join(notes[:4]))

    def duplicate(self) -> None:
        """Put a copy above each chosen layer and choose the copies."""
        made: list[str] = []

        def change(piece: Composition) -> Composition:
            changed, ids = duplicated(piece, self.session.selected)
            made.extend(ids)
            return changed

        if self.session.selected and self.session.edit("Duplicate", change):
            self.session.select(made)

    def group(self) -> None:
        """Hold the chosen layers together as a group, and choose it."""
        session, made = self.session, []
        locked = locked_in(session.composition)
        ids = [layer_id for layer_id in session.selected if layer_id not in locked]

        def change(piece: Composition) -> Composition:
            changed, group = grouped(session.project, piece, ids, session.frame)
            made.append(group)
            return changed

        left, before = ties_given_up(session.composition, ids), session.project
        if session.edit("Group", change):
            session.select(made)
            if left:
                session.said.emit(left)
            else:
                self.sameness.after(before, _GATHERED)

    def ungroup(self) -> None:
        """Part the chosen groups, and choose what was in them."""
        session = self.session
        groups = [layer for layer in session.layers if layer.gathers]
        inside = [layer.id for group in groups for layer in session.composition.members(group.id)]
        notes: list[str] = []

        def change(piece: Composition) -> Composition:
            for group in groups:
                removal = ungrouped(session.project, piece, group.id, session.frame)
                piece = removal.piece
                notes.extend(removal.notes)
            return piece

        if not groups:
            session.failed.emit("Choose the group that is to be parted.")
        elif session.edit("Ungroup", change):
            session.select(inside)
            if notes:
                session.said.emit(" ".join(notes[:4]))

    def select_all(self) -> None:
        """Choose every layer that is not locked."""
        self.session.select([layer.id for layer in self.session.composition.layers if not layer.locked])

    def new_composition(self) -> None:
        """Add an empty composition of the same format and show it."""
        session = self.session
        name = unused_name("Piece", {piece.name for piece in session.project.compositions})
        old = session.composition
        piece = Composition(name, old.width, old.height, old.rate, old.length, background=old.background)
        if session.edit_project(f"New composition {name}", session.project.with_composition(piece)):
            session.show_composition(piece.id)

    def go_in(self) -> None:
        """Show the composition that the chosen nested layer shows."""
        layers = self.session.layers
        if layers and layers[0].has("composition"):
            self.session.go_into(layers[0])

    def refresh_artwork(self, actions: SourceActions) -> None:
        """Read the layered file again that the composition was laid out from."""
        artwork = self.session.composition.artwork
        if artwork is None:
            self.session.failed.emit("This piece was not laid out from a layered file, so there is nothing to refresh.")
        else:
            actions.rereading.refresh([artwork.file])

    def switch_template(self) -> None:
        """Let the project open to be filled in, or to be edited as all others."""
        project = self.session.project
        name = "No template" if project.template else "A template"
        if self.session.edit_project(name, evolve(project, template=not project.template)):
            how = "edited" if project.template else "filled in: its slots are asked for, its layers are not shown"
            self.session.said.emit(f"The project opens to be {how}.")

    def span_edge(self, begins: bool) -> None:
        """Begin or end the play span at the playhead."""
        frame = self.session.frame

        def change(piece: Composition) -> Composition:
            first, last = piece.span
            first, last = (frame, max(last, frame + 1)) if begins else (min(first, frame), frame + 1)
            return evolve(piece, play_span=None if (first, last) == (0, piece.length) else (first, last))

        self.session.edit("Play span", change)

    def restack(self, by: int) -> None:
        """Move the chosen layers one place to the front (-1) or to the back (1)."""
        piece, ids = self.session.composition, self.session.selected
        places = [index for index, layer in enumerate(piece.layers) if layer.id in ids]
        if places:
            target = max(places[0] - 1, 0) if by < 0 else min(places[-1] + 2, len(piece.layers))
            name = "Bring forward" if by < 0 else "Send backward"
            self.session.edit(name, lambda p: in_order(reordered(p, ids, target)))

    def restack_fully(self, front: bool) -> None:
        """Move the chosen layers in front of all others, or behind them all."""
        piece, ids = self.session.composition, self.session.selected
        if ids:
            target = 0 if front else len(piece.layers)
            name = "Bring to front" if front else "Send to back"
            self.session.edit(name, lambda p: in_order(reordered(p, ids, target)))

    def toggle_shown(self) -> None:
        """Show or hide the chosen layers."""
        self._toggle_switch("visible")

    def toggle_blur(self) -> None:
        """Switch motion blur of the chosen layers."""
        self._toggle_switch("motion_blur")

    def _toggle_switch(self, name: str) -> None:
        if self.session.layers:
            value = self.session.evaluated().values(self.session.layers[0])[name]
            self.session.set_property(name, not value)

    def toggle_lock(self) -> None:
        """Lock or unlock the chosen layers."""
        layers, ids = self.session.layers, set(self.session.selected)
        if not layers:
            return
        locked = not layers[0].locked
        self.session.edit("Lock" if locked else "Unlock", lambda piece: _marked(piece, ids, locked=locked))

    def toggle_reference(self) -> None:
        """Let the chosen layers be seen while working but never written out, or be written out again."""
        layers, ids = self.session.layers, set(self.session.selected)
        if not layers:
            return
        reference = not layers[0].reference
        name = "Only a reference" if reference else "No reference any more"
        self.session.edit(name, lambda piece: _marked(piece, ids, reference=reference))

    def toggle_flag(self, field: str, name: str) -> None:
        """Turn a mark of the chosen layers (``solo``, ``folded``) on or off."""
        layers, ids = self.session.layers, set(self.session.selected)
        if layers:
            on = not getattr(layers[0], field)
            self.session.edit(name if on else f"{name}: off", lambda piece: _marked(piece, ids, **{field: on}))

    def tint(self, tint: str) -> None:
        """Give the chosen layers a colour mark; an empty one takes it off."""
        ids = set(self.session.selected)
        if ids:
            self.session.edit("Colour mark", lambda piece: _marked(piece, ids, tint=tint))

    def clear_guides(self) -> None:
        """Take all guides off the canvas."""
        self.session.edit("Remove guides", lambda piece: evolve(piece, guides=()) if piece.guides else piece)

    def centre(self) -> None:
        """Put the middle of each chosen layer's box into the middle of the frame."""
        at, piece, frame = self.session.evaluated(), self.session.composition, self.session.frame

        def change(layer: Layer) -> Layer:
            left, top, right, bottom = at.matrix(layer).box(at.box(layer))
            dx, dy = piece.width / 2 - (left + right) / 2, piece.height / 2 - (top + bottom) / 2
            inverse = at.parent_matrix(layer).inverse()
            if inverse is None:
                return layer
            old = at.values(layer)["position"]
            x, y = inverse.apply_direction(dx, dy)
            return set_seen_value(piece, layer, "position", (old[0] + x, old[1] + y), frame)

        movable = settable(piece, self.session.layers, "position")
        self.session.edit_layers("Centre in the frame", change, [layer.id for layer in movable])

    def trim(self, beginning: bool) -> None:
        """Let the chosen layers begin, or end, at the playhead."""
        frame = self.session.frame

        def change(layer: Layer) -> Layer:
            if beginning:
                return evolve(layer, first=frame) if frame < layer.last else layer
            return evolve(layer, last=frame + 1) if frame >= layer.first else layer

        self.session.edit_layers("Trim to the playhead", change)

    def key(self, name: str) -> None:
        """Set or remove a key of the chosen layers at the playhead."""
        frame = self.session.frame
        if self.session.layers:
            label = self.session.layers[0].parameter(name).label
            self.session.edit_layers(f"Key for {label}", lambda layer: toggle_key(layer, name, frame, new_pace()))


def _marked(piece: Composition, ids: set[str], **marks: object) -> Composition:
    """Return the composition with fields of some layers set, locked ones too."""
    layers = tuple(evolve(y, **marks) if y.id in ids else y for y in piece.layers)
    return evolve(piece, layers=layers)
