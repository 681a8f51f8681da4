"""What the window works on: the project's history, what is chosen, where the playhead stands."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence
from pathlib import Path

from attrs import evolve
from PyQt6.QtCore import QObject, pyqtSignal

from spiralis.app.widgets.view_options import ViewOptions
from spiralis.app.work.cached import Cached, forget_all
from spiralis.app.work.gesture import Gesture
from spiralis.app.work.peek import Peek
from spiralis.app.work.viewpoint import Viewpoint
from spiralis.core.editing.keys import KeyRef, fewer_keys_note
from spiralis.core.editing.linking import set_seen_value, settable
from spiralis.core.editing.locking import locked_in, with_locked_kept
from spiralis.core.editing.reframing import settled
from spiralis.core.editing.switching import switched, takes_along
from spiralis.core.errors import SpiralisError
from spiralis.core.model import Composition, History, Layer, Project, Value
from spiralis.core.raster.layer_image import Inner
from spiralis.core.render.layers import Evaluated
from spiralis.core.render.plan import wrapped


class Session(QObject):
    """The one object that panels share. They change the project through it and listen to its signals.

    ``trail`` holds the compositions that one came through, ``trail_layers`` the nested layer one went into in each.
    """

    projectChanged = pyqtSignal()
    compositionChanged = pyqtSignal()
    #: Another composition is about to be shown; what is under way on this one ends now.
    leaving = pyqtSignal()
    selectionChanged = pyqtSignal()
    keysChanged = pyqtSignal()
    frameChanged = pyqtSignal(int)
    failed = pyqtSignal(str)
    said = pyqtSignal(str)
    #: An effect or finish is to be chosen; those of this role come first.
    effectAsked = pyqtSignal(str)
    #: A file is wanted that is not in the project yet, for this property of the chosen layers.
    fileAsked = pyqtSignal(str)
    #: A ready-made move is to be chosen: the index of the one to adjust, -1 for another.
    moveAsked = pyqtSignal(int)

    def __init__(self, project: Project, path: Path | None = None) -> None:
        super().__init__()
        self.path = path
        self.history = History(project)
        self.composition_id = project.compositions[0].id if project.compositions else ""
        self.selected: tuple[str, ...] = ()
        self.keys: frozenset[KeyRef] = frozenset()
        self.frame = 0
        self.trail: tuple[str, ...] = ()
        self.trail_layers: tuple[str, ...] = ()
        #: The group that one works inside of on the canvas: a click means what is directly in it.
        self.inside: str | None = None
        #: The pivot that several chosen layers share, where it was moved: which they are, and where in the composition.
        self.shared_pivot: tuple[frozenset[str], tuple[float, float]] | None = None
        self.view = ViewOptions()
        self.peek = Peek()
        self.viewpoint = Viewpoint()
        for signal in (self.projectChanged, self.compositionChanged):
            signal.connect(self.peek.end)
        self.gesture = Gesture(self)
        self._evaluated: Cached[Evaluated] = Cached(16)
        #: What was chosen when each version was left, by its serial number; undo and redo bring it back.
        self._chosen: dict[int, tuple[str, ...]] = {}

    def share_pivot(self, place: tuple[float, float]) -> None:
        """Let the chosen layers share a pivot at a point of the composition, until others are chosen."""
        self.shared_pivot = (frozenset(self.selected), place)

    @property
    def project(self) -> Project:
        """The project as it is now."""
        return self.history.current.project

    @property
    def version(self) -> int:
        """The serial number of the version shown, a key for caches."""
        return self.history.current.serial

    @property
    def pictured(self) -> tuple[Project, int]:
        """What pictures show: the project and the serial number of its version, or what is peeked at instead."""
        if self.peek.shown is not None:
            return self.peek.shown
        return self.viewpoint.shown(self.project, self.composition_id, self.version)

    @property
    def composition(self) -> Composition:
        """The composition on the canvas."""
        return self.project.composition(self.composition_id)

    @property
    def layers(self) -> list[Layer]:
        """The chosen layers, front to back."""
        piece = self.composition
        places = sorted(piece.place_of[i] for i in set(self.selected) if i in piece.place_of)
        return [piece.layers[place] for place in places]

    def replace_project(self, project: Project, path: Path | None, place: tuple[str, int] | None = None) -> None:
        """Start over with another project, at a frame of one of its pieces (``place``) or at its beginning."""
        self.leaving.emit()
        self.history = History(project)
        forget_all()
        self.path = path
        piece = project.find(place[0]) if place is not None else None
        self.composition_id = (piece or project.compositions[0]).id
        self.trail = self.trail_layers = ()
        self.selected, self.keys, self.inside = (), frozenset(), None
        self.frame = min(max(place[1], 0), piece.length - 1) if place is not None and piece is not None else 0
        self.projectChanged.emit()
        self.compositionChanged.emit()
        self.selectionChanged.emit()
        self.frameChanged.emit(self.frame)

    def go_into(self, layer: Layer) -> None:
        """Show the composition of a nested layer, at the moment that shows in it; ``go_up`` leads back."""
        inner = self.project.find(self.evaluated().values(layer)["composition"])
        if inner is None:
            self.failed.emit(f"“{layer.name}” shows no composition; choose one in Details.")
            return
        drawing = self.evaluated().drawing(layer, self.evaluated().matrix(layer), (0.0, 0.0, 1.0, 1.0))
        moment = wrapped(inner, drawing.frame) if isinstance(drawing, Inner) else 0
        trail, layers = (*self.trail, self.composition_id), (*self.trail_layers, layer.id)
        self.show_composition(inner.id)
        self.trail, self.trail_layers = trail, layers
        self.go_to(int(moment))
        self.compositionChanged.emit()

    def go_up(self) -> None:
        """Return to the composition that one came from."""
        way = [
            step for step in zip(self.trail, self.trail_layers, strict=True) if self.project.find(step[0]) is not None
        ]
        if way:
            self.show_composition(way[-1][0])
            self.trail, self.trail_layers = tuple(s[0] for s in way[:-1]), tuple(s[1] for s in way[:-1])
            if self.composition.find(way[-1][1]) is not None:
                self.select([way[-1][1]])
            self.compositionChanged.emit()

    def show_composition(self, composition_id: str) -> None:
        """Put another composition on the canvas, or say that there is none any more: lists are shown a moment later."""
        if self.project.find(composition_id) is None:
            self.failed.emit("That composition is not in the project any more.")
            return
        if self.project.find(self.composition_id) is not None:
            self.leaving.emit()
        self.trail = self.trail_layers = ()
        self.composition_id = composition_id
        self.inside = None
        self.selected, self.keys = (), frozenset()
        self.frame = min(self.frame, self.composition.length - 1)
        self.compositionChanged.emit()
        self.selectionChanged.emit()
        self.frameChanged.emit(self.frame)

    def edit_project(
        self, name: str, project: Project, merge: str | None = None, locked_too: bool = False
    ) -> bool:
        """Commit a step to the history.

        Locked layers stay as they are; where that cannot be, nothing happens but a sentence, and the answer is False.
        Edits of whole pieces (another format, a file read again) change them too, where ``locked_too``.
        """
        if project is self.project:
            return True
        if not locked_too:
            try:
                project = with_locked_kept(self.project, project)
            except SpiralisError as error:
                self.failed.emit(str(error))
                return False
        project = settled(self.project, project)
        self._chosen[self.version] = self.selected
        self.history.commit(name, project, merge)
        self._settle()
        return True

    def edit(
        self, name: str, change: Callable[[Composition], Composition], merge: str | None = None,
        locked_too: bool = False,
    ) -> bool:  # fmt: skip
        """Change the composition; an error of the model is shown as a sentence and changes nothing."""
        try:
            composition = change(self.composition)
            project = self.project.with_composition(composition) if composition is not self.composition else None
        except SpiralisError as error:
            self.failed.emit(str(error))
            return False
        return project is None or self.edit_project(name, project, merge, locked_too)

    def edit_whole(
        self, name: str, change: Callable[[Project], tuple[Project, Iterable[str] | str | None]],
        locked_too: bool = False,
    ) -> bool:  # fmt: skip
        """Change the project in one step and choose the layers that ``change`` names; False where that failed."""
        try:
            project, chosen = change(self.project)
        except SpiralisError as error:
            self.failed.emit(str(error))
            return False
        if not self.edit_project(name, project, locked_too=locked_too):
            return False
        if chosen is not None:
            self.select([chosen] if isinstance(chosen, str) else chosen)
        return True

    def edit_layers(
        self, name: str, change: Callable[[Layer], Layer], ids: Iterable[str] | None = None, merge: str | None = None
    ) -> bool:
        """Change some layers (the chosen ones by default); locked ones stay as they are."""
        wanted = set(self.selected if ids is None else ids)

        def whole(composition: Composition) -> Composition:
            locked = locked_in(composition)
            layers = tuple(
                change(layer) if layer.id in wanted and layer.id not in locked else layer
                for layer in composition.layers
            )
            return evolve(composition, layers=layers)

        return self.edit(name, whole, merge)

    def set_property(self, name: str, value: Value, ids: Iterable[str] | None = None, merge: str | None = None) -> None:
        """Set a property of layers at the playhead, with a key where it has keys, and what goes along with it."""
        chosen = list(self.selected if ids is None else ids)
        layers = [layer for layer in self.composition.layers if layer.id in chosen]
        if not layers:
            return
        layers = settable(self.composition, layers, name)
        label = layers[0].parameter(name).full_label
        target = layers[0].name if len(layers) == 1 else f"{len(layers)} layers"
        if takes_along(layers, name):
            _switch(self, f"{label} of {target}", layers, name, value, merge)
            return
        piece, frame = self.composition, self.frame

        def change(layer: Layer) -> Layer:
            return set_seen_value(piece, layer, name, value, frame)

        self.edit_layers(f"{label} of {target}", change, [layer.id for layer in layers], merge)

    def close_step(self) -> None:
        """End a drag: what comes next is an undo step of its own."""
        self.history.close_step()

    def undo(self) -> None:
        """Take back the last step, and choose what was chosen before it."""
        self._step(self.history.undo, f"“{self.history.undo_name}” was undone")

    def redo(self) -> None:
        """Bring back the step that was undone last, and choose what was chosen after it."""
        self._step(self.history.redo, f"“{self.history.redo_name}” was done again")

    def _step(self, step: Callable[[], object], what: str) -> None:
        """Go to another version and choose what was chosen there; where nothing of it is on the canvas, say ``what``
        happened in which composition."""
        before, piece_id = self.project, self.composition_id
        self._chosen[self.version] = self.selected
        step()
        self._settle(self._chosen.get(self.version))
        if self.project.find(piece_id) is before.find(piece_id):
            elsewhere = next((p for p in self.project.compositions if before.find(p.id) is not p), None)
            if elsewhere is not None:
                self.said.emit(f"{what} in “{elsewhere.name}”.")

    def select(self, ids: Iterable[str], keys: Iterable[KeyRef] = ()) -> None:
        """Choose layers, and keys among their threads."""
        selected, chosen = tuple(ids), frozenset(keys)
        if selected != self.selected:
            self.selected = selected
            self.selectionChanged.emit()
        if chosen != self.keys:
            self.keys = chosen
            self.keysChanged.emit()

    def go_to(self, frame: int) -> None:
        """Move the playhead; in a looping composition past either end it comes in at the other."""
        length = self.composition.length
        frame = frame % length if self.composition.loop else min(max(frame, 0), length - 1)
        if frame != self.frame:
            self.frame = frame
            self.frameChanged.emit(frame)

    def evaluated(self, frame: float | None = None) -> Evaluated:
        """Return the composition's values and matrices at the playhead or another frame."""
        at = self.frame if frame is None else frame
        # Every panel asks for the same moment after a change; the values are worked out once.
        key = (self.composition_id, at)
        return self._evaluated.of(self.project, key, lambda: Evaluated(self.project, self.composition, at))

    def looked_at(self) -> Evaluated:
        """Return the same as the canvas shows it: from the viewpoint that it looks from."""
        project, serial = self.viewpoint.shown(self.project, self.composition_id, self.version)
        if project is self.project:
            return self.evaluated()
        piece = project.composition(self.composition_id)
        return self._evaluated.of(project, (serial, self.frame), lambda: Evaluated(project, piece, self.frame))

    def _settle(self, chosen: tuple[str, ...] | None = None) -> None:
        """Drop choices that point at nothing any more, or make another, then tell everybody."""
        if not any(c.id == self.composition_id for c in self.project.compositions):
            self.show_composition(self.project.compositions[0].id)
        ids = {layer.id for layer in self.composition.layers}
        selected = tuple(i for i in (self.selected if chosen is None else chosen) if i in ids)
        self.frame = min(self.frame, self.composition.length - 1)
        keys = frozenset(ref for ref in self.keys if _has_key(self.composition, ref))
        changed = selected != self.selected
        self.selected, self.keys = selected, keys
        self.projectChanged.emit()
        if changed:
            self.selectionChanged.emit()


def _has_key(piece: Composition, ref: KeyRef) -> bool:
    layer = piece.find(ref.layer)
    return layer is not None and layer.track(ref.name).index_at(ref.frame) is not None


def say_fewer_keys(
    session: Session, before: Composition, chosen: Iterable[KeyRef] = (), landed: Iterable[KeyRef] = ()
) -> None:
    """Say how many keys went since, because those that were ``chosen`` came to lie on their frames (``landed``)."""
    note = fewer_keys_note(before, session.composition, chosen, landed)
    if note:
        session.said.emit(f"{note}; undo brings back what went.")


def _switch(
    session: Session, step: str, layers: Sequence[Layer], name: str, value: Value, merge: str | None
) -> None:
    """Set a switch with what goes along with it, and say what that was."""
    locked, at, said = locked_in(session.composition), session.evaluated(), ""
    ids = [layer.id for layer in layers if layer.id not in locked]

    def change(_: Composition) -> Composition:
        nonlocal said
        made, said = switched(at, ids, name, value)
        return made

    if session.edit(step, change, merge) and said:
        session.said.emit(said)
