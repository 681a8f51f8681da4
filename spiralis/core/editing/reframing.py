"""The same motion in another format: layers are held to edges, corners or the middle, and changes go along.

A format is an ordinary composition that follows another one. What is changed in it by hand is its own from then on.
"""

from __future__ import annotations

from functools import cache

from attrs import evolve

from spiralis.core.editing.edits import unused_name
from spiralis.core.editing.placed_by import Pair, even, with_lengths, with_measures, with_place, with_rolls, with_size
from spiralis.core.editing.posing import poses_mapped
from spiralis.core.errors import ModelError
from spiralis.core.model import Composition, Layer, Project, layer_kind, new_id
from spiralis.core.model.reframing import ACROSS, DOWN, GONE, WHOLE, Hold, Reframing
from spiralis.core.model.slots import Slot
from spiralis.core.render.layers import Evaluated, layer_values, parents_of

#: A layer that fills so much of the frame covers it; one so near to an edge, and much nearer than to the other, is
#: held there.
_COVERS, _NEAR, _NEARER = 0.95, 0.14, 0.5
#: What a format takes from the piece it follows, beside its layers.
_SHARED = ("rate", "length", "background", "play_span", "loop", "shutter_angle", "shutter_phase", "blur_samples",
           "blur_of", "light", "markers", "poses")  # fmt: skip
#: How a layer is worked with, which is each format's own business.
_MARKS = ("locked", "solo", "folded", "tint", "reference")


def guessed_hold(project: Project, piece: Composition, layer: Layer) -> Hold:
    """Return how a layer is best held, from where it stands in the middle of its time."""
    if layer_kind(layer.kind).fills_frame:
        return Hold(layer.id, size="cover")
    first, last = max(layer.first, piece.span[0]), min(layer.last, piece.span[1])
    at = Evaluated(project, piece, (first + max(last, first + 1)) // 2)
    left, top, right, bottom = at.matrix(layer).box(at.box(layer))
    across, down = right - left, bottom - top
    if across >= _COVERS * piece.width and down >= _COVERS * piece.height:
        return Hold(layer.id, size="cover")
    return Hold(
        layer.id, _held_to(left, piece.width - right, piece.width, ACROSS),
        _held_to(top, piece.height - bottom, piece.height, DOWN),
    )  # fmt: skip


def _held_to(before: float, after: float, whole: int, names: tuple[str, ...]) -> str:
    low, high = max(before, 0.0) / whole, max(after, 0.0) / whole
    if low < _NEAR and low < _NEARER * high:
        return names[0]
    if high < _NEAR and high < _NEARER * low:
        return names[2]
    return names[1]


def hold_of(project: Project, origin: Composition, follows: Reframing, layer: Layer) -> Hold:
    """Return how a layer is held in a format: as it was set by hand, else as it is guessed."""
    return follows.hold(layer.id) or guessed_hold(project, origin, layer)


def held(project: Project, layer: Layer, hold: Hold, old: Pair, new: Pair) -> Layer:
    """Return a layer of a frame of size ``old`` as it is held in one of size ``new``; one that hangs on another as is.

    Places and their ways scale about what they are held to, in proportion to the layer's size.
    """
    if layer.parent:
        return layer
    shares = _shares(hold, old, new)
    if hold.size == "stretch":
        stretched = with_place(with_measures(layer, shares, (0.0, 0.0)), shares, (0.0, 0.0))
        return _grown(project, stretched, shares, stretch=True)
    one = shares[0]
    edges = (ACROSS.index(hold.across) / 2, DOWN.index(hold.down) / 2)
    shift = (edges[0] * (new[0] - one * old[0]), edges[1] * (new[1] - one * old[1]))
    placed = with_place(with_measures(layer, (one, one), shift), (one, one), shift)
    return _grown(project, placed, (one, one))


def _shares(hold: Hold, old: Pair, new: Pair) -> Pair:
    """Return how much larger a layer comes to be, across and down."""
    shares = (new[0] / old[0], new[1] / old[1])
    if hold.size == "stretch":
        return shares
    one = {"keep": 1.0, "fit": min(shares), "cover": max(shares)}[hold.size]
    return one, one


def _grown(project: Project, layer: Layer, by: Pair, stretch: bool = False) -> Layer:
    kind = layer_kind(layer.kind)
    if by == (1.0, 1.0):
        return layer
    if kind.fills_frame:
        return with_lengths(layer, by)
    # What has a size of its own is stretched by that, so that letters and corners keep their shape.
    own = kind.resizes(layer_values(layer, layer.first)) if stretch and kind.resizes is not None else ""
    layer = with_size(layer, own or "scale", by)
    # Of a layer that is scaled a slot finds out by itself how much room it has since.

    def grown(slot: Slot) -> Slot:
        found_out = not own and slot.scale != (0.0, 0.0)
        return slot if found_out else evolve(slot, room=(slot.room[0] * by[0], slot.room[1] * by[1]))

    return evolve(layer, slots=tuple(map(grown, layer.slots)))


def add_format(project: Project, piece_id: str, width: int, height: int, name: str = "") -> tuple[Project, str]:
    """Return the project with another format of a piece, and the id of the new composition.

    Raises:
        ModelError: the piece follows another one itself, or the size is outside the limits.
    """
    origin = project.composition(piece_id)
    if origin.follows is not None:
        first = project.find(origin.follows.origin)
        raise ModelError(
            f"“{origin.name}” is a format of “{first.name if first is not None else '?'}” itself; add formats there."
        )
    # Guessed once: a layer that is moved later does not jump from one edge to the other.
    holds = tuple(guessed_hold(project, origin, layer) for layer in origin.layers if not layer.parent)
    taken = {piece.name for piece in project.compositions}
    called = unused_name(name or f"{origin.name} {width} × {height}", taken)
    made = Composition(
        called, width, height, origin.rate, origin.length, id=new_id(), follows=Reframing(origin.id, holds),
        safe_area=origin.safe_area, folder=origin.folder,
    )  # fmt: skip
    return project.with_composition(derived(project, origin, made)), made.id


def formats_of(project: Project, piece: Composition) -> tuple[Composition, ...]:
    """Return the formats that follow a piece."""
    return tuple(c for c in project.compositions if c.follows is not None and c.follows.origin == piece.id)


def derived(
    project: Project, origin: Composition, made: Composition, since: tuple[Composition, Composition] | None = None
) -> Composition:
    """Return a format as the piece that it follows is now, with what is its own.

    ``since`` gives the piece and the format when they last agreed: what changed in neither is not worked out again.
    """
    follows = made.follows
    assert follows is not None
    same = _unchanged(origin, made, since)
    own: dict[str, set[str]] = {}
    for layer_id, name in follows.own:
        own.setdefault(layer_id, set()).add(name)
    old, new = (float(origin.width), float(origin.height)), (float(made.width), float(made.height))
    layers: list[Layer] = []

    @cache
    def longer(layer_id: str) -> float:
        mover = origin.find(layer_id)
        if mover is None or mover.parent:
            return 1.0
        return even(_shares(hold_of(project, origin, follows, mover), old, new))

    def placed(layer: Layer) -> Layer:
        fresh = with_rolls(held(project, layer, hold_of(project, origin, follows, layer), old, new), longer)
        if not layer.parent:
            return fresh
        # No scale of what it hangs on changes how deep it lies.
        by = longer(parents_of(origin, layer)[-1].id)
        return with_measures(fresh, (by, by), (0.0, 0.0))

    for layer in origin.layers:
        names, mine = own.get(layer.id, set()), made.find(layer.id)
        if GONE in names:
            continue
        if mine is not None and (WHOLE in names or layer.id in same):
            layers.append(mine)
            continue
        fresh = _with_own(placed(layer), mine, names)
        # What is the same stays the same object, by which pictures that are kept are found again.
        layers.append(mine if mine is not None and mine == fresh else fresh)
    layers = _with_added(layers, origin, made)
    shared = {name: getattr(origin, name) for name in _SHARED}
    return evolve(made, layers=tuple(layers), **{**shared, "poses": poses_mapped(origin, placed)})


def _unchanged(
    origin: Composition, made: Composition, since: tuple[Composition, Composition] | None
) -> frozenset[str]:
    """Return the ids of layers that are as they were in both, and held as they were."""
    follows, look = made.follows, ("width", "height", "follows")
    if since is None or follows is None:
        return frozenset()
    origin_was, was = since
    if any(getattr(made, name) != getattr(was, name) or getattr(origin, name) != getattr(origin_was, name)
           for name in look):  # fmt: skip
        return frozenset()
    return frozenset(
        layer.id for layer in origin.layers
        if origin_was.find(layer.id) is layer and made.find(layer.id) is was.find(layer.id)
        # How others are held is guessed, from where they stand.
        and (layer.parent or follows.hold(layer.id) is not None)
    )  # fmt: skip


def _with_own(layer: Layer, mine: Layer | None, names: set[str]) -> Layer:
    """Return a layer with those threads that the format has of its own, and the marks it is worked with there."""
    if mine is None:
        return layer
    layer = evolve(layer, **{name: getattr(mine, name) for name in _MARKS})
    for name in names:
        if layer.has(name) and mine.has(name):
            layer = layer.with_track(name, mine.track(name))
    return layer


def _with_added(layers: list[Layer], origin: Composition, made: Composition) -> list[Layer]:
    """Put in the layers that only the format has, before the one that they stood before."""
    added = [layer for layer in made.layers if layer.id not in origin.by_id and _is_added(made, layer.id)]
    for layer in reversed(added):
        places = {y.id: place for place, y in enumerate(layers)}
        behind = made.layers[made.place_of[layer.id] + 1 :]
        layers.insert(next((places[y.id] for y in behind if y.id in places), len(layers)), layer)
    return layers


def _is_added(made: Composition, layer_id: str) -> bool:
    return made.follows is not None and (layer_id, WHOLE) in made.follows.own


def settled(before: Project, after: Project) -> Project:
    """Return a project after an edit in which every format follows its piece again.

    What the edit changed in a format itself is its own from now on. A format whose piece is gone stands by itself.
    """
    if not any(piece.follows is not None for piece in after.compositions):
        return after
    for made in after.compositions:
        if made.follows is None:
            continue
        origin = after.find(made.follows.origin)
        if origin is None or origin.follows is not None:
            after = after.with_composition(evolve(made, follows=None))
            continue
        was, origin_was = before.find(made.id), before.find(origin.id)
        if was is made and origin_was is origin:
            continue
        if was is not None and was is not made and was.follows is not None:
            made = evolve(made, follows=_with_changes(made.follows, was, made, origin))
        since = (origin_was, was) if origin_was is not None and was is not None else None
        fresh = derived(after, origin, made, since)
        if fresh != after.find(made.id):
            after = after.with_composition(fresh)
    return after


def _with_changes(follows: Reframing, was: Composition, now: Composition, origin: Composition) -> Reframing:
    """Return what is a format's own after somebody worked in it."""
    own = dict.fromkeys(follows.own)
    for layer in now.layers:
        old = was.find(layer.id)
        if old is layer:
            continue
        if old is None:
            own[layer.id, WHOLE] = None
            own.pop((layer.id, GONE), None)
            continue
        if _besides(old) != _besides(layer):
            own[layer.id, WHOLE] = None
        for name in {*old.properties, *layer.properties}:
            if layer.has(name) and (not old.has(name) or old.track(name) != layer.track(name)):
                own[layer.id, name] = None
    for old in was.layers:
        if now.find(old.id) is None and old.id in origin.by_id:
            own[old.id, GONE] = None
    alive = {*now.by_id, *(layer for layer, name in own if name == GONE)}
    return evolve(follows, own=tuple(pair for pair in own if pair[0] in alive))


def _besides(layer: Layer) -> Layer:
    """Return what a layer is beside its properties and the marks that say how it is worked with."""
    bare = evolve(layer, properties={}, reference=False, solo=False, locked=False)
    return evolve(bare, folded=False, tint="")


def own_in(made: Composition) -> tuple[tuple[str, ...], ...]:
    """Return for each layer of a format that departs from its piece its id and the names of what is its own."""
    found: dict[str, list[str]] = {}
    for layer_id, name in made.follows.own if made.follows is not None else ():
        found.setdefault(layer_id, []).append(name)
    return tuple((layer_id, *names) for layer_id, names in found.items())


def without_own(project: Project, made_id: str, layer_id: str) -> Project:
    """Return the project where a layer of a format follows its piece again in everything."""
    made = project.composition(made_id)
    if made.follows is None:
        return project
    kept = tuple(pair for pair in made.follows.own if pair[0] != layer_id)
    origin = project.composition(made.follows.origin)
    return project.with_composition(derived(project, origin, evolve(made, follows=evolve(made.follows, own=kept))))


def with_hold(project: Project, made_id: str, hold: Hold) -> Project:
    """Return the project where a layer of a format is held otherwise."""
    made = project.composition(made_id)
    if made.follows is None:
        raise ModelError(f"“{made.name}” follows no other piece, so nothing in it is held to that.")
    rest = tuple(old for old in made.follows.holds if old.layer != hold.layer)
    origin = project.composition(made.follows.origin)
    follows = evolve(made.follows, holds=(*rest, hold))
    return project.with_composition(derived(project, origin, evolve(made, follows=follows)))


def on_its_own(project: Project, made_id: str) -> Project:
    """Return the project where a format follows its piece no more, and stays as it is."""
    return project.with_composition(evolve(project.composition(made_id), follows=None))
