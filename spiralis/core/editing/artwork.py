"""Layered files into compositions: as layers, flat as one picture, or in place of a composition's content."""

from __future__ import annotations

from collections.abc import Mapping
from fractions import Fraction

from attrs import evolve, frozen

from spiralis.core.editing.placed_by import with_place, with_size
from spiralis.core.editing.reparenting import decomposed
from spiralis.core.errors import ModelError
from spiralis.core.geometry import Affine, Box, box_around, rounded_out
from spiralis.core.media.layered import LayeredFile, LayeredPart
from spiralis.core.media.pictures import source_of_bytes
from spiralis.core.model import Artwork, Composition, Layer, Origin, Project
from spiralis.core.model.art import EMPTY_ART
from spiralis.core.model.project import LARGEST_SIZE
from spiralis.core.raster.vectors import art_box

#: What a group becomes that does nothing to all of its parts together: a layer that they hang on.
GATHERING = "gathering"


@frozen
class Timing:
    """What a layered file does not say: the rate and the length of the composition it becomes."""

    rate: Fraction = Fraction(25)
    length: int = 100


def part_box(part: LayeredPart) -> Box | None:
    """Return the box of a part in document units; None where it shows nothing."""
    if part.kind in ("group", GATHERING):
        boxes = [box for inner in part.parts if (box := part_box(inner)) is not None]
        if not boxes:
            return None
        return box_around(boxes)
    own = own_box(part)
    return part.matrix.box(own) if own is not None else None


def own_box(part: LayeredPart) -> Box | None:
    """Return the box of a shape or a picture in its own units."""
    if part.kind == "picture":
        return 0.0, 0.0, float(part.width), float(part.height)
    return art_box(part.art) if part.art is not None else None


def as_composition(
    project: Project, layered: LayeredFile, file: str, timing: Timing = Timing(), nested: bool = True
) -> tuple[Project, Composition]:
    """Return the project with a new composition of the file's size and layers, and that composition.

    Args:
        project: where it comes in.
        layered: what was read.
        file: where it was read from, so that it can be read again.
        timing: rate and length.
        nested: whether groups become nested compositions; else what is in them becomes layers at once.
    """
    return Laying(project, layered, file, timing, nested).whole()


class Laying:
    """Lays the parts of one file out; gathers sources and nested compositions on the way."""

    def __init__(self, project: Project, layered: LayeredFile, file: str, timing: Timing, nested: bool) -> None:
        self.project = project
        self.layered = layered
        self.file = file
        self.timing = timing
        self.nested = nested

    def whole(self) -> tuple[Project, Composition]:
        """Return the project with everything in it, and the outermost composition."""
        layered = self.layered
        layers = self.layers(layered.parts, (0.0, 0.0))
        name = unused(layered.name.rsplit(".", 1)[0], {c.name for c in self.project.compositions})
        piece = self._composition(name, layered.width, layered.height, layers, "")
        return self.project.with_composition(piece), piece

    def _composition(self, name: str, width: int, height: int, layers: tuple[Layer, ...], group: str) -> Composition:
        artwork = Artwork(self.file, self.layered.digest, group, self.nested, (width, height))
        return Composition(name, width, height, self.timing.rate, self.timing.length, artwork=artwork, layers=layers)

    def layers(self, parts: tuple[LayeredPart, ...], corner: tuple[float, float]) -> tuple[Layer, ...]:
        """Return the layers of parts, front to back, in a composition whose corner lies there in the document."""
        return self.laid(expected_parts(parts, self.nested), corner)

    def laid(
        self, parts: tuple[LayeredPart, ...], corner: tuple[float, float], held: Mapping[str, str] | None = None
    ) -> tuple[Layer, ...]:
        """Return the layers of parts that were flattened by ``expected_parts``; ``held`` are groups that are there."""
        made: list[Layer] = []
        groups = dict(held or {})
        for part in parts:
            if part.kind == GATHERING:
                layer = self.gathering(part, corner)
                groups[part.key] = layer.id
            else:
                layer = self.group(part, corner) if part.kind == "group" else self.layer(part, corner)
            made.append(evolve(layer, parent=groups.get(part.within)))
        return named_apart(made)

    def gathering(self, part: LayeredPart, corner: tuple[float, float]) -> Layer:
        """Return the layer of a group whose layers mix with what lies beneath it, or that is empty."""
        left, top, right, bottom = group_area(part) or (0, 0, 100, 100)
        middle = ((left + right) / 2, (top + bottom) / 2)
        layer = self._look(part, "group").with_values(
            corner=(left - corner[0], top - corner[1]), size=(float(right - left), float(bottom - top)),
            position=(middle[0] - corner[0], middle[1] - corner[1]),
        )  # fmt: skip
        return evolve(layer, origin=Origin(part.key, *middle))

    def layer(self, part: LayeredPart, corner: tuple[float, float]) -> Layer:
        """Return the layer of a shape or a picture."""
        box = own_box(part) or (0.0, 0.0, 1.0, 1.0)
        placed = Affine.shift(-corner[0], -corner[1]) @ part.matrix
        layer = self._look(part, part.kind).with_values(**placed_by(placed, box))
        layer = self.with_content(layer, part)
        x, y = layer.track("position").value
        return evolve(layer, origin=Origin(part.key, x + corner[0], y + corner[1]))

    def with_content(self, layer: Layer, part: LayeredPart) -> Layer:
        """Return the layer showing what the part holds now."""
        if part.kind == "shape":
            return layer.with_values(art=part.art or EMPTY_ART)
        source = source_of_bytes(part.data or b"", part.name, (part.width, part.height))
        self.project, source = self.project.with_source(source)
        return layer.with_values(source=source.id)

    def _look(self, part: LayeredPart, kind: str) -> Layer:
        layer = Layer(part.name, kind, 0, self.timing.length, locked=part.locked)
        values = {"opacity": part.opacity * 100, "blend": part.blend, "visible": part.visible}
        return layer.with_values(**{name: v for name, v in values.items() if v != layer.parameter(name).default})

    def group(self, part: LayeredPart, corner: tuple[float, float]) -> Layer:
        """Return the nested layer of a group, whose composition is cut to what it holds."""
        area = group_area(part)
        assert area is not None  # An empty group is expected as a gathering.
        left, top, right, bottom = area
        layers = self.layers(part.parts, (left, top))
        name = unused(part.name or "Group", {c.name for c in self.project.compositions})
        piece = self._composition(name, right - left, bottom - top, layers, part.key)
        self.project = self.project.with_composition(piece)
        middle = ((left + right) / 2, (top + bottom) / 2)
        layer = self._look(part, "nested").with_values(
            composition=piece.id, position=(middle[0] - corner[0], middle[1] - corner[1])
        )
        return evolve(layer, origin=Origin(part.key, *middle))


def group_area(part: LayeredPart) -> tuple[int, int, int, int] | None:
    """Return the whole-numbered box of a group in document units, with a margin for smooth edges."""
    box = part_box(part)
    if box is None:
        return None
    left, top, right, bottom = rounded_out(box, 1.0)
    return left, top, min(right, left + LARGEST_SIZE), min(bottom, top + LARGEST_SIZE)


def expected_parts(parts: tuple[LayeredPart, ...], nested: bool, within: str = "") -> tuple[LayeredPart, ...]:
    """Return the parts that become layers of one composition, front to back; those after a gathering are ``within`` it.

    Where groups are not to be ``nested``, what is in them comes in their place, unless a group does something to
    all of it together.
    """
    result: list[LayeredPart] = []
    for part in parts:
        empty = part.kind == "group" and part_box(part) is None
        if part.kind == "group" and nested and (part.passes or empty):
            result.append(evolve(part, kind=GATHERING, within=within))
            result += expected_parts(part.parts, nested, part.key)
        elif part.kind != "group" or (not empty and (nested or part.opacity < 1 or part.blend != "normal")):
            result.append(evolve(part, within=within))
        else:
            inner = expected_parts(part.parts, nested)
            result += [evolve(p, visible=p.visible and part.visible) for p in inner]
    return tuple(result)


def placed_by(matrix: Affine, box: Box) -> dict[str, object]:
    """Return position, scale, rotation and skew that place a layer with this box by ``matrix``, pivot in the middle.

    Raises:
        ModelError: the map flattens the plane.
    """
    scale, turn, skew = decomposed(matrix)
    if abs(matrix.determinant) < 1e-15:
        raise ModelError("A part without width or height cannot be placed.")
    middle = ((box[0] + box[2]) / 2, (box[1] + box[3]) / 2)
    values: dict[str, object] = {"position": matrix.apply(*middle), "scale": scale}
    if turn:
        values["rotation"] = turn
    if skew[0]:
        values["skew"] = skew
    return values


def unused(name: str, taken: set[str]) -> str:
    """Return the name, with a number behind it where it is taken."""
    if name not in taken:
        return name
    number = 2
    while f"{name} {number}" in taken:
        number += 1
    return f"{name} {number}"


def named_apart(layers: list[Layer]) -> tuple[Layer, ...]:
    """Return the layers with names that differ."""
    taken: set[str] = set()
    result = []
    for layer in layers:
        name = unused(layer.name, taken) if layer.name else ""
        taken.add(name)
        result.append(layer if name == layer.name else evolve(layer, name=name))
    return tuple(result)


def replace_content(
    project: Project, composition: Composition, layered: LayeredFile, file: str, nested: bool = True
) -> Project:
    """Return the project with a composition's layers replaced by those of a file; size, rate and length stay.

    The file is scaled as a whole so that it fits into the frame, in its middle.
    """
    timing = Timing(composition.rate, composition.length)
    laying = Laying(project, layered, file, timing, nested)
    layers = laying.layers(layered.parts, (0.0, 0.0))
    share = min(composition.width / layered.width, composition.height / layered.height)
    fit = Affine.shift(
        (composition.width - share * layered.width) / 2, (composition.height - share * layered.height) / 2
    ) @ Affine.scaling(share, share)
    fitted = tuple(placed_again(layer, share, (fit.e, fit.f)) for layer in layers)
    artwork = Artwork(file, layered.digest, "", nested, (layered.width, layered.height)).moved(share, (fit.e, fit.f))
    return laying.project.with_composition(evolve(composition, layers=fitted, artwork=artwork))


def placed_again(layer: Layer, share: float, corner: tuple[float, float]) -> Layer:
    """Return a layer as it was laid out in a file's own size, scaled and moved; what hangs on another goes along."""
    if layer.parent:
        return layer
    by = (share, share)
    return with_size(with_place(layer, by, corner), "scale", by)
