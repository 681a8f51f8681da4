"""Read a changed layered file again: say what matches before anything happens, then bring it up to date."""

from __future__ import annotations

from collections.abc import Iterator, Mapping

from attrs import evolve, field, frozen

from spiralis.core.editing.artwork import (
    GATHERING,
    Laying,
    Timing,
    expected_parts,
    group_area,
    named_apart,
    own_box,
    placed_again,
)
from spiralis.core.editing.edits import shifted
from spiralis.core.media.layered import LayeredFile, LayeredPart
from spiralis.core.model import Artwork, Composition, Layer, Project
from spiralis.core.model.references import What

STATES = ("same", "changed", "resized", "new", "missing")


@frozen
class Match:
    """One row of a report: a layer, the part of the file it shows from now on, or only one of the two.

    ``renamed`` tells that they were matched by name and kind, not by key.
    """

    composition: str
    state: str
    layer: Layer | None = None
    part: LayeredPart | None = None
    renamed: bool = False

    @property
    def name(self) -> str:
        """What the row is called."""
        return self.layer.name if self.layer is not None else self.part.name if self.part is not None else ""


@frozen
class RefreshReport:
    """What reading a file again would do. ``resized`` holds the file's new size where it changed."""

    file: str
    layered: LayeredFile = field(repr=False)
    matches: tuple[Match, ...]
    resized: tuple[int, int] | None = None

    def count(self, state: str) -> int:
        """Return how many rows are in a state."""
        return sum(match.state == state for match in self.matches)


def laid_out_from(project: Project, file: str) -> Iterator[Composition]:
    """Yield the compositions that were laid out from a file."""
    for composition in project.compositions:
        if composition.artwork is not None and composition.artwork.file == file:
            yield composition


def refresh_report(
    project: Project, layered: LayeredFile, file: str, by_hand: Mapping[str, str] | None = None
) -> RefreshReport:
    """Return what matches between the project and a file that was read again.

    Args:
        project: the version at hand; it is not changed.
        layered: the file as it is now.
        file: its path, as the compositions remember it.
        by_hand: part keys by the ids of layers that a person matched.
    """
    matches: list[Match] = []
    resized = None
    for composition in laid_out_from(project, file):
        parts = _parts_for(composition, layered)
        if parts is not None:
            matches += _matched(composition, parts, project, by_hand or {})
        if composition.artwork is not None and not composition.artwork.group:
            size = _size_after(composition, (layered.width, layered.height))
            resized = size if size != (composition.width, composition.height) else resized
    return RefreshReport(file, layered, tuple(matches), resized)


def _parts_for(composition: Composition, layered: LayeredFile) -> tuple[LayeredPart, ...] | None:
    """Return the parts that a composition shows as layers; None where its group is gone."""
    artwork = composition.artwork
    if artwork is None:
        return None
    if not artwork.group:
        return expected_parts(layered.parts, artwork.nested)
    group = next((part for part in layered.all_parts() if part.key == artwork.group), None)
    return expected_parts(group.parts, artwork.nested) if group is not None else None


def _matched(
    composition: Composition, parts: tuple[LayeredPart, ...], project: Project, by_hand: Mapping[str, str]
) -> list[Match]:
    layers = [layer for layer in composition.layers if layer.origin is not None]
    left = {part.key: part for part in parts}
    found: dict[str, tuple[LayeredPart, bool]] = {}
    for layer in layers:
        if by_hand.get(layer.id) in left:
            found[layer.id] = (left.pop(by_hand[layer.id]), True)
    for layer in layers:
        key = layer.origin.key if layer.origin is not None else ""
        if layer.id not in found and key in left and _kind(left[key]) == layer.kind:
            found[layer.id] = (left.pop(key), False)
    for layer in layers:
        alike = next((p for p in left.values() if p.name == layer.name and _kind(p) == layer.kind), None)
        if layer.id not in found and alike is not None:
            found[layer.id] = (left.pop(alike.key), True)
    matches = []
    for layer in layers:
        if layer.id in found:
            part, renamed = found[layer.id]
            matches.append(Match(composition.id, _state(layer, part, project), layer, part, renamed))
        else:
            matches.append(Match(composition.id, "missing", layer))
    return matches + [Match(composition.id, "new", None, part) for part in left.values()]


def _kind(part: LayeredPart) -> str:
    return {"group": "nested", GATHERING: "group"}.get(part.kind, part.kind)


def _state(layer: Layer, part: LayeredPart, project: Project) -> str:
    if part.kind == GATHERING:
        return "same"
    if part.kind == "group":
        inner = project.find(layer.track("composition").value)
        area = group_area(part)
        size = (area[2] - area[0], area[3] - area[1]) if area is not None else None
        return "resized" if inner is not None and size != (inner.width, inner.height) else "same"
    moved = layer.origin is not None and _moved(layer, part) != (0.0, 0.0)
    if part.kind == "shape":
        before, after = layer.track("art").value, part.art
        if before == after:
            return "changed" if moved else "same"
        old, new = own_box(evolve(part, art=before)), own_box(part)
    else:
        source = project.source(layer.track("source").value)
        if source is not None and source.data == part.data:
            return "changed" if moved else "same"
        old = (0.0, 0.0, float(source.width), float(source.height)) if source is not None else None
        new = own_box(part)
    if old is None or new is None:
        return "changed"
    differs = abs((old[2] - old[0]) - (new[2] - new[0])) > 0.5 or abs((old[3] - old[1]) - (new[3] - new[1])) > 0.5
    return "resized" if differs else "changed"


def _moved(layer: Layer, part: LayeredPart) -> tuple[float, float]:
    """Return how far a part's middle has moved in the document since it was last read."""
    box = own_box(part)
    if box is None or layer.origin is None:
        return 0.0, 0.0
    x, y = part.matrix.apply((box[0] + box[2]) / 2, (box[1] + box[3]) / 2)
    dx, dy = x - layer.origin.x, y - layer.origin.y
    return (dx if abs(dx) > 1e-6 else 0.0), (dy if abs(dy) > 1e-6 else 0.0)


def apply_refresh(project: Project, report: RefreshReport, add_new: bool = True, keep_missing: bool = True) -> Project:
    """Return the project with matched layers showing what the file holds now.

    Place, motion, parents, look and effects of matched layers stay; a layer whose part moved in the file moves by
    as much. New parts come in as layers where they lie in the file; missing ones stay as they are, or go.
    """
    for composition in list(laid_out_from(project, report.file)):
        project = _refreshed(project, composition.id, report, add_new, keep_missing)
    return project


def _refreshed(
    project: Project, composition_id: str, report: RefreshReport, add_new: bool, keep_missing: bool
) -> Project:
    composition = project.composition(composition_id)
    artwork = composition.artwork
    parts = _parts_for(composition, report.layered)
    if artwork is None or parts is None:
        return project
    timing = Timing(composition.rate, composition.length)
    laying = Laying(project, report.layered, report.file, timing, artwork.nested)
    rows = [match for match in report.matches if match.composition == composition_id]
    (corner, size), by = _frame_of(project, composition, report.layered), artwork.scale
    old_corner = _old_corner(project, composition)
    by_layer = {match.layer.id: match for match in rows if match.layer is not None}
    layers: list[Layer] = []
    for layer in composition.layers:
        match = by_layer.get(layer.id)
        if match is not None and match.state == "missing" and not keep_missing:
            continue
        if not layer.parent:
            layer = shifted(layer, by * (old_corner[0] - corner[0]), by * (old_corner[1] - corner[1]))
        share = by if not layer.parent else 1.0
        layers.append(_brought_up(laying, layer, match.part, share) if match is not None and match.part else layer)
    if add_new:
        fresh = [match.part for match in rows if match.state == "new" and match.part is not None]
        held = {m.part.key: i for i, m in by_layer.items() if m.part}
        layers = _with_new(laying, layers, parts, fresh, corner, held, artwork)
    width, height = _size_after(composition, size)
    changed = evolve(
        composition, width=width, height=height, layers=named_apart(layers),
        artwork=evolve(artwork, digest=report.layered.digest, size=size),
    )  # fmt: skip
    return laying.project.with_composition(changed)


def _frame_of(
    project: Project, composition: Composition, layered: LayeredFile
) -> tuple[tuple[float, float], tuple[int, int]]:
    """Return the new corner in the document and the new size of a composition."""
    artwork = composition.artwork
    if artwork is None or not artwork.group:
        return (0.0, 0.0), (layered.width, layered.height)
    group = next((part for part in layered.all_parts() if part.key == artwork.group), None)
    area = group_area(group) if group is not None else None
    if area is None:
        return _old_corner(project, composition), (composition.width, composition.height)
    return (float(area[0]), float(area[1])), (area[2] - area[0], area[3] - area[1])


def _size_after(composition: Composition, size: tuple[int, int]) -> tuple[int, int]:
    """Return the composition's size when its file has this one: it follows that until it has a format of its own."""
    own, artwork = (composition.width, composition.height), composition.artwork
    if artwork is None or not artwork.as_read:
        return own
    return size if own == artwork.size or (artwork.group and artwork.size == (0, 0)) else own


def _old_corner(project: Project, composition: Composition) -> tuple[float, float]:
    """Return where a group's composition began in the document when it was last read."""
    if composition.artwork is None or not composition.artwork.group:
        return 0.0, 0.0
    for outer in project.compositions:
        for layer in outer.layers:
            shows = any(t.what is What.COMPOSITION and t.target == composition.id for t in layer.ties)
            if shows and layer.origin is not None:
                size = composition.artwork.size
                width, height = size if min(size) > 0 else (composition.width, composition.height)
                return layer.origin.x - width / 2, layer.origin.y - height / 2
    return 0.0, 0.0


def _brought_up(laying: Laying, layer: Layer, part: LayeredPart, by: float) -> Layer:
    """Return a layer as its part is now; it moves ``by`` times as far as the part did in the file."""
    if layer.origin is None or part.kind == GATHERING:
        return layer
    if part.kind == "group":
        area = group_area(part)
        if area is None:
            return layer
        middle = ((area[0] + area[2]) / 2, (area[1] + area[3]) / 2)
        moved = shifted(layer, by * (middle[0] - layer.origin.x), by * (middle[1] - layer.origin.y))
        return evolve(moved, origin=evolve(layer.origin, key=part.key, x=middle[0], y=middle[1]))
    dx, dy = _moved(layer, part)
    fresh = laying.with_content(shifted(layer, by * dx, by * dy) if dx or dy else layer, part)
    return evolve(fresh, origin=evolve(layer.origin, key=part.key, x=layer.origin.x + dx, y=layer.origin.y + dy))


def _with_new(
    laying: Laying, layers: list[Layer], parts: tuple[LayeredPart, ...], fresh: list[LayeredPart],
    corner: tuple[float, float], layer_of: Mapping[str, str], artwork: Artwork,
) -> list[Layer]:  # fmt: skip
    """Put new parts behind the layer of the part that lies before them in the file."""
    order = [part.key for part in parts]
    placed = dict(layer_of)
    for part in fresh:
        ahead = [placed[key] for key in order[: order.index(part.key)] if key in placed]
        ids = [layer.id for layer in layers]
        index = ids.index(ahead[-1]) + 1 if ahead and ahead[-1] in ids else 0
        made = [placed_again(y, artwork.scale, artwork.corner) for y in laying.laid((part,), corner, placed)]
        layers[index:index] = made
        if made:
            placed[part.key] = made[-1].id
    return layers
