"""Mock-up slot: a design set in perspective into a board on a wall, leaf shade from footage at 60 frames a second over
it; the design is a slot, and the play span alone is written."""

from __future__ import annotations

from fractions import Fraction

from attrs import evolve

from spiralis.core.colour import parse_hex
from spiralis.core.model import Composition
from spiralis.core.model.slots import Slot
from spiralis.demo.building import backdrop, keys, layer, rounded, stops
from spiralis.demo.pieces.screen_insert import pinned

N, SPAN = 240, 180
_SIZE = (800, 1000)
#: The corners of the board's face: top left, top right, bottom right, bottom left.
_CORNERS = ((262.0, 232.0), (842.0, 292.0), (824.0, 1058.0), (250.0, 1104.0))


def _design() -> Composition:
    """What stands on the board: a picture that is a slot, and a line that is another."""
    width, height = _SIZE
    picture = layer("picture", "Design", N, source="flyer", scale=(112.0, 112.0), position=(width / 2, height / 2))
    picture = evolve(picture, slots=(
        Slot("Design", "source", "Your design, upright, 4 : 5", ratio=0.8, fit="cover", room=(806.4, 1008.0)),
    ))  # fmt: skip
    words = layer("text", "Line", N, text="Tolvane Kites", font="Lobster Two", weight=700.0, size=96.0,
                  fill=parse_hex("#281408"), position=(width / 2, 890.0))  # fmt: skip
    words = evolve(words, slots=(Slot("Line", "text", "A name or a date", 24, fit="shrink", room=(620.0, 110.0),
                                      base=96.0),))  # fmt: skip
    return Composition("Board", width, height, Fraction(60), N, id="board", background=parse_hex("#fcf4e4"),
                       layers=(words, picture))  # fmt: skip


def compositions() -> tuple[Composition, ...]:
    """Return the design and the piece."""
    design = _design()
    piece = Composition("Mock-up slot", 1080, 1350, Fraction(60), N, id="mockup-slot", play_span=(0, SPAN))
    face = layer("nested", "Board", N, composition=design.id, position=(540.0, 660.0))
    rim = tuple((x + dx, y + dy) for (x, y), (dx, dy) in
                zip(_CORNERS, ((-16.0, -16.0), (15.0, -17.0), (16.0, 17.0), (-16.0, 16.0)), strict=True))  # fmt: skip
    side = tuple((x + 18.0, y + 12.0) for x, y in rim)
    frame = rounded("Frame", N, (620.0, 900.0), 4.0, "#5a3a28", position=(545.0, 670.0))
    edge = rounded("Edge", N, (620.0, 900.0), 4.0, "#3a2418", position=(545.0, 670.0))
    shade = layer("footage", "Leaf shade", N, source="leaf-shade", position=(540.0, 675.0), scale=(402.0, 402.0),
                  blend="multiply", opacity=72.0)  # fmt: skip
    # Its pivot makes what hangs on it keep the places of the frame.
    sway = layer("carrier", "Easel", N, position=(540.0, 675.0), pivot=(540.0, 675.0),
                 rotation=keys((0, -0.35), (SPAN // 2, 0.35), (SPAN, -0.35)))  # fmt: skip
    boards = (pinned(piece, face, _CORNERS, design), pinned(piece, frame, rim), pinned(piece, edge, side))
    legs = (
        rounded("Left leg", N, (26.0, 420.0), 6.0, "#4a2e20", position=(372.0, 1240.0), rotation=7.0),
        rounded("Right leg", N, (26.0, 420.0), 6.0, "#4a2e20", position=(742.0, 1210.0), rotation=-7.0),
    )
    floor = rounded("Floor", N, (1080.0, 240.0), 0.0, "#b98f6c", position=(540.0, 1300.0))
    wall = backdrop(piece, "Wall", style="linear", angle=78.0, stops=stops((0.0, "#efe2cf"), (1.0, "#d3bfa4")))
    hung = (evolve(one, parent="easel") for one in boards)
    return design, evolve(piece, layers=(shade, sway, *hung, *legs, floor, wall))
