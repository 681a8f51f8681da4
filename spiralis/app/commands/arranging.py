"""What the Arrange menu does: nests, alignment, masks and mattes."""

from __future__ import annotations

from functools import partial

from attrs import evolve

from spiralis.app.canvas.handles import with_pivot
from spiralis.app.session import Session
from spiralis.app.widgets.asking import may_lose
from spiralis.app.work.sameness import Sameness
from spiralis.core.editing.along_paths import copies_along, going_along, path_among
from spiralis.core.editing.arranging import aligned, distributed, fitted, flipped
from spiralis.core.editing.combining import as_outlines, combined, gathered, simplified, would_lose
from spiralis.core.editing.content_nesting import nest_content
from spiralis.core.editing.copying import copies_of
from spiralis.core.editing.edits import set_value
from spiralis.core.editing.linking import baked_dependents
from spiralis.core.editing.matting import with_mask, with_matte
from spiralis.core.editing.nesting import duplicate_composition, nest, open_up, own_copy
from spiralis.core.editing.reformat import cropped_everywhere
from spiralis.core.editing.wording import along_layer, off_path
from spiralis.core.model import Composition, Layer, Project, layer_kind
from spiralis.core.model.kinds import is_common
from spiralis.core.render.extent import around_shown
from spiralis.core.render.layers import Evaluated

Chosen = str | tuple[str, ...] | None
#: What is said where gathering layers changed the picture.
_MIXED = (
    "The picture is not quite as it was: what works beyond its own layer (a blend, the glow of a halo, a camera, a "
    "light) works within the {} only. Undo brings it back."
)

#: What is said where letters as outlines are not seen as the words were.
_CLOSER = (
    "The picture is not quite as it was: outlines lie closer around the letters than the words did, and some effects "
    "go by that box. Undo brings it back."
)


class Arranging:
    """Edits of how layers lie to each other."""

    def __init__(self, session: Session) -> None:
        self.session = session
        self.sameness = Sameness(session)
        #: What layers are aligned with: ``auto``, ``frame`` or ``last`` (the layer chosen last).
        self.align_to = "auto"

    def nest(self, cropped: bool) -> None:
        """Move the chosen layers into a composition of their own."""
        session = self.session
        name = session.layers[0].name if len(session.layers) == 1 else "Nest"
        before = session.project
        if session.edit_whole("Nest", lambda p: nest(p, session.composition_id, session.selected, name, cropped)):
            self.sameness.after(before, _MIXED.format("nest"))

    def nest_content(self) -> None:
        """Put what the chosen layer shows into a composition of its own; its motion stays outside."""
        session = self.session
        if len(session.layers) != 1:
            session.failed.emit("Choose the one layer whose content is to be nested.")
            return
        layer = session.layers[0].id
        before = session.project
        if session.edit_whole("Nest the content", lambda p: nest_content(p, session.composition_id, layer)):
            self.sameness.after(before, _MIXED.format("nest"))

    def open_up(self) -> None:
        """Replace the chosen nested layer by what is in it."""
        session = self.session
        if session.layers and session.layers[0].has("composition"):
            layer = session.layers[0]
            self.session.edit_whole(f"Open up {layer.name}", lambda p: open_up(p, session.composition_id, layer.id))

    def own_copy(self, deep: bool) -> None:
        """Let the chosen nested layer show a copy of its own."""
        session = self.session
        if session.layers and session.layers[0].has("composition"):
            layer = session.layers[0]
            self.session.edit_whole(
                "Make own copy", lambda p: (own_copy(p, session.composition_id, layer.id, deep)[0], None)
            )

    def duplicate_composition(self) -> None:
        """Copy the composition on the canvas and show the copy."""
        session = self.session
        made: list[str] = []

        def change(project: Project) -> tuple[Project, None]:
            project, copied = duplicate_composition(project, session.composition_id)
            made.append(copied)
            return project, None

        if self.session.edit_whole(f"Duplicate {session.composition.name}", change):
            session.show_composition(made[-1])

    def align(self, edge: str) -> None:
        """Align the chosen layers with what ``align_to`` says: by itself one goes with the frame, several with the
        box around them; or all go with the layer that was chosen last."""
        session = self.session
        to = {"auto": "frame" if len(session.layers) == 1 else "choice", "frame": "frame"}.get(self.align_to)
        to = to or session.selected[-1] if session.selected else "frame"
        session.edit(f"Align {edge}", lambda p: aligned(session.project, p, session.selected, edge, session.frame, to))

    def set_align_to(self, to: str) -> None:
        """Say what layers are aligned with from now on."""
        self.align_to = to
        said = {"auto": "one layer with the frame, several with each other", "frame": "the frame",
                "last": "the layer that was chosen last"}  # fmt: skip
        self.session.said.emit(f"Layers are aligned with {said[to]}.")

    def distribute(self, axis: int) -> None:
        """Give the chosen layers equal gaps."""
        session = self.session
        session.edit("Distribute", lambda p: distributed(session.project, p, session.selected, axis, session.frame))

    def fit(self, how: str) -> None:
        """Scale the chosen layers to the frame."""
        session = self.session
        session.edit(f"Fit: {how}", lambda p: fitted(session.project, p, session.selected, how, session.frame))

    def crop_to_chosen(self) -> None:
        """Make the frame as large as the box around the chosen layers."""
        session = self.session
        box, piece = around_shown(session.evaluated(), session.layers), session.composition_id
        if box is None:
            session.failed.emit("Choose the layers that the frame is to hold.")
            return
        session.edit_whole(
            "Crop to the chosen layers", lambda p: (cropped_everywhere(p, piece, box), None), locked_too=True
        )

    def reset_place(self) -> None:
        """Give the chosen layers their natural size, no turn and no slant at the playhead."""
        frame = self.session.frame

        def change(layer: Layer) -> Layer:
            for name in ("scale", "rotation", "skew"):
                layer = set_value(layer, name, layer.parameter(name).default, frame)
            return layer

        self.session.edit_layers("Reset the place", change)

    def pivot(self, percent: tuple[float, float]) -> None:
        """Put the pivot of each chosen layer to a point of its box; nothing moves."""
        session = self.session
        session.edit_layers("Pivot", lambda layer: with_pivot(session, layer, percent))

    def toggle_depth(self) -> None:
        """Let the chosen layers stand in space, or lie flat again; their numbers in depth stay for the next time."""
        on = not all(layer.track("depth").value for layer in self.session.layers)
        name = "Stand in depth" if on else "Lie flat"
        self.session.edit_layers(name, lambda layer: layer.with_values(depth=on))

    def flip(self, axis: int) -> None:
        """Mirror the chosen layers."""
        self.session.edit_layers("Flip", lambda layer: flipped(layer, axis))

    def matte(self) -> None:
        """Let the layer in front of the chosen one decide where it shows."""
        session = self.session
        layers = list(session.composition.layers)
        if not session.layers:
            return
        layer = session.layers[0]
        index = layers.index(layer)
        if index == 0:
            session.failed.emit(f"“{layer.name}” lies in front of everything; bring the layer for its matte before it.")
            return
        source = layers[index - 1].id
        session.edit(f"Matte of {layer.name}", lambda p: with_matte(p, layer.id, source))

    def mask(self, form: str, apart: bool = False) -> None:
        """Mask the chosen layer with a form, and choose the mask."""
        session = self.session
        made: list[str] = []

        def change(_: Composition) -> Composition:
            piece, mask = with_mask(session.evaluated(), session.layers[0].id, form, apart)
            made.append(mask)
            return piece

        if session.layers and session.edit(f"Mask {session.layers[0].name}", change):
            session.select(made)

    def combine(self, how: str) -> None:
        """Put the chosen shapes together into one."""
        session = self.session
        frame, chosen = session.frame, [layer.id for layer in session.layers if layer.has("art")]
        lost = would_lose(session.composition, chosen)
        if lost and not may_lose("Putting these shapes together keeps what is seen on this frame", lost):
            return
        made: list[str] = []

        def change(piece: Composition) -> Composition:
            put = gathered if how == "gather" else partial(combined, how=how)
            changed, layer_id = put(session.project, piece, chosen, frame=frame)
            made.append(layer_id)
            return changed

        if session.edit(how.capitalize(), change):
            session.select(made)

    def outlines(self) -> None:
        """Turn the chosen words into shapes of their letters."""
        session = self.session
        words = [layer.id for layer in session.layers if layer.has("text")]

        def change(piece: Composition) -> Composition:
            for layer_id in words:
                own = {p.name for p in piece.layer(layer_id).parameters if not is_common(p.name)}
                piece = baked_dependents(piece, layer_id, own)
                at = Evaluated(session.project, piece, float(session.frame))
                piece = piece.with_layer(as_outlines(at, piece.layer(layer_id)))
            return piece

        names = {name for i in words for name in session.composition.layer(i).shown_tracks() if not is_common(name)}
        lost = would_lose(session.composition, words, names)
        before = session.project
        if not lost or may_lose("Outlines keep the letters as they are on this frame", lost):
            session.edit("Words to outlines", change)
            self.sameness.after(before, _CLOSER)

    def simplify(self) -> None:
        """Take crossings out of the chosen shapes' outlines."""
        at = self.session.evaluated()
        self.session.edit_layers("Simplify", lambda layer: simplified(layer, at))

    def copies(self) -> None:
        """Show the chosen layer (or the group on the chosen carrier) again and again, and choose the copies."""
        session = self.session
        if len(session.layers) != 1:
            session.failed.emit("Choose the one layer, or the carrier of a group, that is to be copied.")
            return
        source, piece = session.layers[0], session.composition
        made = copies_of(session.evaluated(), source)
        index = piece.layers.index(source)
        layers = (*piece.layers[:index], made, *piece.layers[index:])
        if session.edit(f"Copies of {source.name}", lambda old: evolve(old, layers=layers)):
            session.select([made.id])

    def copies_along(self) -> None:
        """Let the chosen copies stand along the chosen shape's outline."""
        session = self.session
        copies = [layer for layer in session.layers if layer_kind(layer.kind).placements is not None]
        shapes = [layer for layer in session.layers if layer.has("form")]
        if len(copies) != 1 or len(shapes) != 1:
            session.failed.emit("Choose the copies and the shape that they are to stand along.")
            return
        at = session.evaluated()
        made = f"{copies[0].name} along {shapes[0].name}"
        if session.edit(made, lambda piece: piece.with_layer(copies_along(at, copies[0], shapes[0]))):
            session.select([copies[0].id])

    def go_along(self) -> None:
        """Let the chosen layers go along the line among them."""
        session = self.session
        shape = path_among(session.layers, session.selected[-1] if session.selected else "")
        layers = [layer for layer in session.layers if shape is not None and layer.id != shape.id]
        if shape is None or not layers:
            session.failed.emit("Choose what is to go, and last the shape along whose outline it goes.")
            return
        at, held = session.evaluated(), [layer for layer in layers if layer.edge_pins]
        name = f"{layers[0].name} along {shape.name}" if len(layers) == 1 else f"{len(layers)} along {shape.name}"
        if session.edit(name, lambda piece: going_along(at, layers, shape)):
            session.select([layer.id for layer in layers])
            if held:
                names = ", ".join(f"“{layer.name}”" for layer in held)
                session.said.emit(f"{names} kept to other edges before; undo brings that back.")

    def words_along(self) -> None:
        """Let the chosen words run along the chosen shape's outline."""
        session = self.session
        words = [layer for layer in session.layers if layer.has("path")]
        shapes = [layer for layer in session.layers if layer.has("form")]
        if len(words) != 1 or len(shapes) != 1:
            session.failed.emit("Choose the words and the shape that they are to run along.")
            return
        at = session.evaluated()

        def change(piece: Composition) -> Composition:
            return piece.with_layer(along_layer(at, words[0], shapes[0]))

        if session.edit(f"{words[0].name} along {shapes[0].name}", change):
            session.select([words[0].id])

    def words_off(self) -> None:
        """Set the chosen words on straight lines again."""
        self.session.edit_layers("Words off their path", lambda y: off_path(y) if y.has("path") else y)
