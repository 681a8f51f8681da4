"""The marks beside a layer's name in the timeline, and what each of them says when one points at it."""

from __future__ import annotations

from spiralis.app.session import Session
from spiralis.app.timeline.layout import LABELS, Row
from spiralis.app.widgets.value_text import value_text
from spiralis.app.work.cached import Cached
from spiralis.core.editing.uses import use_counts
from spiralis.core.model import Composition, Key, Layer, layer_kind

#: Where the eye and the lock of a layer's row are, and how far apart the marks before them.
EYE_X, LOCK_X, MARK_STEP = LABELS - 44, LABELS - 23, 18


def marks_of(session: Session, layer: Layer) -> tuple[str, ...]:
    """Return the marks beside a layer's name, by their icons, from the right."""
    piece = session.composition
    marks = {
        "group": layer.gathers,
        "parent": not layer.gathers and layer.parent is not None and piece.group_of.get(layer.id) != layer.parent,
        "blur": layer.track("motion_blur").value,
        "nested": layer.has("composition"),
        "matte": layer.mattes,
        "lent": layer.id in piece.kept_from_sight,
        "slot": layer.slots,
        "own": is_own(piece, layer.id),
        "reference": layer.reference,
        "solo": layer.solo,
        "right": layer.folded and not layer.gathers,
    }
    return tuple(mark for mark, shown in marks.items() if shown)


def _said_of_mark(session: Session, layer: Layer, mark: str) -> str:
    """Return a sentence that says what a mark stands for."""
    piece = session.composition
    match mark:
        case "group":
            count = len(piece.descendants(layer.id))
            return f"A group of {count} layer{'' if count == 1 else 's'}; a click on its triangle folds it"
        case "parent":
            return f"Hangs on {_name(piece, layer.parent or '')} and moves along with it"
        case "nested":
            return _shows(session, layer)
        case "matte":
            return f"Shows through its matte: {', '.join(_name(piece, matte.layer) for matte in layer.mattes)}"
        case "lent":
            return _lent(piece, layer)
        case "slot":
            return f"A slot that is filled in: {', '.join(slot.name for slot in layer.slots)}"
    return _PLAIN[mark]


_PLAIN = {
    "blur": "Its movement is blurred", "own": "This format has something of its own here",
    "reference": "Only a reference: it is never written out", "solo": "Shown alone",
    "right": "Its threads are folded away",
}  # fmt: skip


def _shows(session: Session, layer: Layer) -> str:
    inner, count = session.project.find(layer.track("composition").value), shared_count(session, layer)
    if inner is None:
        return "Shows no composition"
    others = {0: "", 1: "", 2: ", as another layer does"}.get(count, f", as {count - 1} other layers do")
    return f"Shows the composition {inner.name}{others}"


def _lent(piece: Composition, layer: Layer) -> str:
    """Say for whom a layer is kept from sight: what it is the matte of, or what shows it as copies."""
    masked = [other.name for other in piece.layers if any(matte.layer == layer.id for matte in other.mattes)]
    if masked:
        return f"Not seen itself: it is the matte of {', '.join(masked)}"
    shown = [
        other.name for other in piece.layers for tie in other.ties
        if tie.whole and (tie.target == layer.id or layer in piece.descendants(tie.target))
    ]  # fmt: skip
    return f"Not seen itself: {', '.join(shown) or 'another layer'} shows it in its place"


def _name(piece: Composition, layer_id: str) -> str:
    found = piece.find(layer_id)
    return found.name if found is not None else "a layer that is gone"


def shared_count(session: Session, layer: Layer) -> int:
    """Return how many layers of the project show the composition that a nested layer shows; 0 for other layers."""
    if not layer.has("composition"):
        return 0
    counts = _counts.of(session.project, "uses", lambda: use_counts(session.project))
    return counts.get(layer.track("composition").value, 0)


_counts: Cached[dict[str, int]] = Cached(4)


def is_own(piece: Composition, layer: str, name: str = "") -> bool:
    """Whether a thread of a layer, or any of them, is a format's own and follows its piece no more."""
    if piece.follows is None:
        return False
    return any(other == layer and name in ("", thread) for other, thread in piece.follows.own)


def said_at(session: Session, row: Row, x: float) -> str:
    """Return what is said of the place in a row's label that one points at; empty where there is nothing to say."""
    layer = row.layer
    if x >= LABELS:
        return ""
    if row.name is not None:
        return layer.parameter(row.name).full_label
    if x >= LOCK_X - 2:
        return "Locked: no edit changes it; a click unlocks it" if layer.locked else "A click locks it"
    if x >= EYE_X - 2:
        shown = layer.track("visible").value or layer.track("visible").animated
        return "A click hides it" if shown else "Hidden, as a matte too; a click shows it"
    marks = marks_of(session, layer)
    place = int((EYE_X - 1 - x) // MARK_STEP)
    if 0 <= place < len(marks):
        return _said_of_mark(session, layer, marks[place])
    return f"{layer.name} · {layer_kind(layer.kind).label}"


def said_of_key(layer: Layer, name: str, key: Key) -> str:
    """Return what is said of a key that one points at: the property, its value, the frame."""
    parameter = layer.parameter(name)
    value = value_text(parameter, key.value)
    return f"{parameter.full_label}{value and ': '}{value} at frame {key.frame}"
