"""Box: six faces in depth, each a colour, a picture, or a composition."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from typing import Any

from attrs import frozen

from spiralis.core.geometry import Affine, Box
from spiralis.core.model import Layer, Track
from spiralis.core.model.adding import AddEntry
from spiralis.core.model.kinds import LayerKind, register_kind
from spiralis.core.model.parameter import Kind, Parameter, Value
from spiralis.core.raster.layer_image import LayerImage, Scene

_FILL = (0.96, 0.70, 0.24, 1.0)


@frozen
class _Face:
    """A face: where its middle lies in parts of the box's half sizes from its middle, its turns about x and y, and
    which sizes of the box (across, down, deep) its width and height are."""

    name: str
    place: tuple[float, float, float]
    turn: tuple[float, float]
    sides: tuple[int, int]


FACES = (
    _Face("front", (0, 0, -1), (0.0, 0.0), (0, 1)),
    _Face("back", (0, 0, 1), (0.0, 180.0), (0, 1)),
    _Face("left", (-1, 0, 0), (0.0, 90.0), (2, 1)),
    _Face("right", (1, 0, 0), (0.0, -90.0), (2, 1)),
    _Face("top", (0, -1, 0), (-90.0, 0.0), (0, 2)),
    _Face("bottom", (0, 1, 0), (90.0, 0.0), (0, 2)),
)


def _shown(prefix: str, label: str, needs: tuple[str, tuple[Value, ...]], group: str) -> tuple[Parameter, ...]:
    """Return what one face, or all of them, show."""
    return (
        Parameter(f"{prefix}fill", f"{label}Fill".capitalize(), Kind.COLOUR, _FILL, "The colour", needs=needs,
                  group=group),
        Parameter(f"{prefix}picture", f"{label}Picture".capitalize(), Kind.SOURCE, "", "A picture over the colour",
                  choices=("picture",), needs=needs, group=group, optional=True),
        Parameter(f"{prefix}shows", f"{label}Shows".capitalize(), Kind.COMPOSITION, "",
                  "A composition over the colour, in step with this one's time", needs=needs, group=group,
                  optional=True),
    )  # fmt: skip


PARAMETERS = (
    Parameter("size", "Size", Kind.PAIR, (300.0, 300.0), "Width and height", "px", 0, 20_000),
    Parameter("deep", "Deep", Kind.NUMBER, 300.0, "How far it reaches from front to back", "px", 0, 20_000,
              measures="depth"),
    Parameter("edge", "Edge", Kind.NUMBER, 0.0, "Width of a line around each face", "px", 0, 500),
    Parameter("edge_colour", "Edge colour", Kind.COLOUR, (0.16, 0.12, 0.2, 1.0), "Colour of that line"),
    Parameter("see_through", "See through", Kind.SWITCH, False,
              "Whether faces that are turned away show through clear parts of the others", steady=True),
    Parameter("each", "Faces apart", Kind.SWITCH, False, "Whether each face shows something of its own",
              steady=True),
    *_shown("", "", ("each", (False,)), "Content"),
    *(p for face in FACES for p in _shown(f"{face.name}_", f"{face.name} ", ("each", (True,)), "Faces")),
)  # fmt: skip


def _box(values: Mapping[str, Value], scene: Scene) -> Box:
    return 0.0, 0.0, values["size"][0], values["size"][1]


def _draw(values: Mapping[str, Value], scene: Scene, matrix: Affine, clip: Box) -> LayerImage | None:
    return None


def faces(layer: Layer, values: Mapping[str, Value], scene: Scene) -> Iterator[Layer]:
    """Yield what the faces show as layers in depth that hang on the box, the front's first.

    Of one face its colour comes before what lies over it.
    """
    sizes = (*values["size"], values["deep"])
    for face in FACES:
        own = f"{face.name}_" if values["each"] else ""
        across, down = (sizes[side] for side in face.sides)
        if across <= 0 or down <= 0:
            continue
        x, y, z = (at * size / 2 for at, size in zip(face.place, sizes, strict=True))
        place: dict[str, Any] = {
            "depth": values["depth"], "position": (sizes[0] / 2 + x, sizes[1] / 2 + y), "position_z": z,
            "turn_x": face.turn[0], "turn_y": face.turn[1], "lit": values["lit"], "casts": values["casts"],
        }  # fmt: skip
        yield from _contents(layer, face.name, (across, down), {n: values[own + n] for n in _CONTENTS}, values, place,
                             scene)  # fmt: skip


_CONTENTS = ("fill", "picture", "shows")


def _contents(
    layer: Layer, face: str, size: tuple[float, float], shown: Mapping[str, Value], values: Mapping[str, Value],
    place: Mapping[str, Any], scene: Scene,
) -> Iterator[Layer]:  # fmt: skip
    def made(kind: str, what: str, box: tuple[float, float], own: Mapping[str, Any]) -> Layer:
        stretched = tuple(100 * side / max(natural, 1e-6) for side, natural in zip(size, box, strict=True))
        tracks = {name: Track(value) for name, value in {**place, **own, "scale": stretched}.items()}
        return Layer(f"{layer.name}, {face}", kind, layer.first, layer.last, id=f"{layer.id}/{face}/{what}",
                     parent=layer.id, properties=tracks)  # fmt: skip

    line = min(values["edge"], *size)
    inner = (size[0] - line, size[1] - line)
    yield made("shape", "fill", size, {
        "form": "rectangle", "size": inner, "fill": shown["fill"], "stroke": line, "join": "miter",
        "stroke_colour": values["edge_colour"],
    })  # fmt: skip
    source, piece = scene.project.source(shown["picture"]), scene.project.find(shown["shows"])
    if source is not None and source.kind == "picture":
        yield made("picture", "picture", (source.width, source.height), {"source": source.id})
    if piece is not None:
        yield made("nested", "shows", (piece.width, piece.height),
                   {"composition": piece.id, "start": float(layer.first)})  # fmt: skip


def _added(width: int, height: int) -> Mapping[str, Any]:
    side = float(round(0.28 * min(width, height)))
    # Without light its faces differ in nothing but their edges.
    edge = float(max(round(side / 50), 1))
    return {"depth": True, "size": (side, side), "deep": side, "edge": edge, "turn_x": 24.0, "turn_y": 32.0}


register_kind(
    LayerKind("box", "Box", "Six faces in depth, each a colour, a picture or a composition", PARAMETERS, _box, _draw,
              planes=faces, resizes=lambda values: "size", adds=(AddEntry("Box", 302, values=_added),))
)  # fmt: skip
