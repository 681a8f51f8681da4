"""Compositions laid out from the demo's own layered files, footage and drawings."""

from __future__ import annotations

import hashlib
from fractions import Fraction
from functools import cache
from pathlib import Path

from attrs import evolve

from spiralis.core.colour import parse_hex
from spiralis.core.editing.artwork import Timing, as_composition
from spiralis.core.editing.moving import with_move
from spiralis.core.media.layered_files import layers_of
from spiralis.core.media.pictures import picture_source
from spiralis.core.media.source_kinds.footage import footage_source
from spiralis.core.media.source_kinds.sound import sound_source
from spiralis.core.model import Composition, Key, Layer, Matte, MoveUse, Project, Rule, Source, Track
from spiralis.core.model.track import Extend
from spiralis.demo.badge import badge_svg
from spiralis.demo.building import backdrop, effect, keys, layer
from spiralis.demo.clips import flicker_clip, ink_clip, ribbon_clip, shade_clip
from spiralis.demo.cloth import png
from spiralis.demo.effect_values import dusk_table
from spiralis.demo.flyer import flyer_sources
from spiralis.demo.mascot import POSES, mascot
from spiralis.demo.pieces import all_compositions, square_spot
from spiralis.demo.pieces_deep import swaying
from spiralis.demo.places import artwork_folder
from spiralis.demo.poster import poster_ora
from spiralis.demo.tune import tune_file

CREAM = parse_hex("#fcf4e4")
_MASCOTS = {f"mascot-{index + 1}-{pose}": pose for index, pose in enumerate(POSES)}


@cache
def artwork() -> dict[str, bytes]:
    """Return the demo's artwork by file name, drawn once."""
    return {
        "tolvane-badge.svg": badge_svg(), "wind-readout.ora": poster_ora(), "ribbon.webm": ribbon_clip(),
        "flicker.mp4": flicker_clip(), "ink.mp4": ink_clip(),
        "leaf-shade.mp4": shade_clip(), "reel-tune.opus": tune_file(float(square_spot.SECONDS)),
        **{f"{name}.png": png(mascot(pose)) for name, pose in _MASCOTS.items()},
    }  # fmt: skip


def write_artwork(folder: Path) -> None:
    """Write the artwork into a folder; files that are there stay as somebody may have changed them."""
    folder.mkdir(parents=True, exist_ok=True)
    for name, data in artwork().items():
        if not (folder / name).exists():
            (folder / name).write_bytes(data)


@cache
def sources() -> dict[str, Source]:
    """Return footage, drawings and a table of colours as sources, by file name."""
    found = {"Dusk.cube": dusk_table()}
    for name, data in artwork().items():
        suffix = Path(name).suffix
        if suffix in (".webm", ".mp4"):
            source = footage_source(data, name, suffix)
        elif suffix == ".opus":
            source = sound_source(data, name, suffix)
        elif suffix == ".png":
            source = picture_source(data, name)
        else:
            continue
        found[name] = evolve(source, id=Path(name).stem)
    return found


def with_studies(project: Project) -> Project:
    """Return the project with the studies that come from files."""
    project = evolve(project, sources=(*project.sources, *sources().values(), *flyer_sources().values()))
    for piece in (flipbook_blink(), *ribbon_title(), *split_headline(), *all_compositions()):
        project = project.with_composition(piece)
    return _readout_poster(_badge_loops(project))


def flipbook_blink() -> Composition:
    """Four drawings with unequal exposures: a long look, a short blink; square, exact loop."""
    look, half, shut, aside = _MASCOTS
    order = ((look, 18), (half, 1), (shut, 2), (half, 1), (aside, 12), (half, 1), (shut, 1), (look, 12))
    frames = sum(stay for _, stay in order)
    piece = Composition("Flipbook blink", 1080, 1080, Fraction(24), 2 * frames, id="flipbook-blink")
    n = piece.length
    layers = (
        layer("flipbook", "Mascot", n, drawings=order, position=(540.0, 540.0), scale=(120.0, 120.0)),
        backdrop(piece, "Wall", style="radial", centre=(50.0, 46.0), reach=90.0,
                 stops=((0.0, *parse_hex("#8fd8cc")), (1.0, *parse_hex("#2f7f86")))),
    )  # fmt: skip
    return evolve(piece, layers=layers)


def ribbon_title() -> tuple[Composition, ...]:
    """Footage fitted to the whole length reveals a title by its brightness; both hang on a carrier that shrinks slowly.

    A second card is an own copy with other words; the two cross-fade in an outer composition.
    """
    piece = Composition("Ribbon card", 1080, 1350, Fraction(25), 125, id="ribbon-card")
    n = piece.length
    hung = (
        layer("text", "Title", n, text="New\nribbons", font="Lobster Two", weight=700.0, size=230.0, leading=88.0,
              fill=CREAM, position=(50.0, -25.0)),
        layer("footage", "Ink", n, source="ink", position=(50.0, -25.0), scale=(300.0, 210.0), fit=True),
        layer("footage", "Ribbon", n, source="ribbon", position=(50.0, 305.0), scale=(150.0, 150.0), fit=True,
              opacity=keys((4, 0.0), (22, 100.0), (n - 22, 100.0), (n - 4, 0.0))),
    )  # fmt: skip
    title, ink, ribbon = (evolve(made, parent="carrier") for made in hung)
    layers = (
        evolve(title, mattes=(Matte("ink", "brightness"),)), ink, ribbon,
        layer("carrier", "Carrier", n, position=(540.0, 675.0),
              scale=keys((0, (108.0, 108.0), "linear"), (n, (96.0, 96.0)))),
        layer("footage", "Flicker", n, source="flicker", position=(540.0, 675.0), scale=(562.5, 562.5),
              blend="soft-light", opacity=34.0),
        backdrop(piece, "Ground", style="linear", angle=90.0,
                 stops=((0.0, *parse_hex("#3a2058")), (1.0, *parse_hex("#151026")))),
    )  # fmt: skip
    first = evolve(piece, layers=layers)
    other = layers[0].with_values(text="Old\nwinds")
    second = evolve(first, id="wind-card", name="Wind card", layers=(other, *layers[1:]))
    whole, fade = 2 * n, 12
    outer = Composition("Ribbon title", 1080, 1350, Fraction(25), whole, id="ribbon-title",
                        background=parse_hex("#151026"))  # fmt: skip
    over = keys((n - fade, 0.0), (n + fade, 100.0), (whole - fade, 100.0), (whole, 0.0))
    cards = (
        layer("nested", "Wind card", whole, composition=second.id, position=(540.0, 675.0), opacity=over),
        layer("nested", "Ribbon card", whole, composition=first.id, position=(540.0, 675.0)),
    )
    return first, second, evolve(outer, layers=cards)


def split_headline() -> tuple[Composition, ...]:
    """The two halves of one word come out of a centre line, up and down, and go back; a smaller line follows."""
    upper = Composition("Upper half", 1080, 300, Fraction(25), 100, id="upper-half")
    n = upper.length
    words = {"text": "SEWN", "font": "League Spartan", "weight": 900.0, "size": 360.0, "motion_blur": True,
             "tracking": -10.0, "fill": CREAM}  # fmt: skip
    # The nest's own edge is the line they come out of, and cuts the word through its middle.
    rising = keys((4, (540.0, 480.0), "snap"), (17, (540.0, 300.0), "hold"), (80, (540.0, 300.0), "soft-start"),
                  (92, (540.0, 480.0)))  # fmt: skip
    upper = evolve(upper, layers=(layer("text", "Words", n, position=rising, **words),))
    dropping = keys((8, (540.0, -180.0), "snap"), (21, (540.0, 0.0), "hold"), (76, (540.0, 0.0), "soft-start"),
                    (88, (540.0, -180.0)))  # fmt: skip
    below = layer("text", "Words", n, position=dropping, **words)
    lower = evolve(upper, id="lower-half", name="Lower half", layers=(below,))
    piece = Composition("Split headline", 1080, 1080, Fraction(25), n, id="split-headline")
    wide = keys((0, 0.0, "soft-both"), (6, 100.0, "hold"), (90, 100.0, "soft-both"), (97, 0.0))
    layers = (
        layer("text", "Smaller line", n, text="every kite, every seam, since the first one", font="Karla", weight=600.0,
              size=46.0, fill=CREAM, position=keys((22, (540.0, 900.0), "soft-stop"), (34, (540.0, 872.0))),
              opacity=keys((22, 0.0), (34, 100.0, "hold"), (72, 100.0), (80, 0.0))),
        layer("shape", "Centre line", n, form="line", size=(860.0, 0.0), stroke=8.0, position=(540.0, 540.0),
              stroke_colour=parse_hex("#ee604c"), drawn_to=wide),
        layer("nested", "Upper half", n, composition=upper.id, position=(540.0, 390.0)),
        layer("nested", "Lower half", n, composition=lower.id, position=(540.0, 690.0)),
        layer("pattern", "Stitches", n, pattern="stripes", spacing=(54.0, 54.0), share=6.0, angle=45.0,
              fill=parse_hex("#fcf4e414"), position=(540.0, 540.0)),
        layer("field", "Dusk", n, position=(540.0, 540.0), points=3.0, colour_1=parse_hex("#3a2058"),
              colour_2=parse_hex("#14303c"), colour_3=parse_hex("#241f4e"), softness=70.0,
              place_1=keys((0, (20.0, 20.0)), (50, (60.0, 34.0)), (100, (20.0, 20.0)))),
    )  # fmt: skip
    return upper, lower, evolve(piece, layers=layers)


def _laid_out(project: Project, file: str, name: str, timing: Timing) -> tuple[Project, Composition]:
    """Return the project with a layered file as compositions whose ids are the same every time."""
    before = {piece.id for piece in project.compositions}
    path = str(artwork_folder() / file)
    grown, piece = as_composition(project, layers_of(artwork()[file], file), path, timing)
    fresh = [c for c in grown.compositions if c.id not in before]
    ids = {
        c.id: hashlib.sha256(f"{file}/{c.artwork.group if c.artwork else ''}".encode()).hexdigest()[:12] for c in fresh
    }
    own = {source.id for source in project.sources}
    for source in grown.sources:
        if source.id not in own:
            ids[source.id] = source.digest[:12]
    settled = tuple(_settled(c, ids) if c.id in ids else c for c in grown.compositions)
    renamed = tuple(evolve(c, name=name) if c.id == ids[piece.id] else c for c in settled)
    kept = tuple(evolve(source, id=ids.get(source.id, source.id)) for source in grown.sources)
    project = Project(grown.name, renamed, kept)
    return project, project.composition(ids[piece.id])


def _identity(*parts: str) -> str:
    return hashlib.sha256("/".join(parts).encode()).hexdigest()[:12]


def _settled(piece: Composition, ids: dict[str, str]) -> Composition:
    layers = []
    for made in piece.layers:
        key = made.origin.key if made.origin is not None else made.name
        values = {
            name: evolve(track, value=ids.get(track.value, track.value))
            for name, track in made.properties.items()
            if name in ("composition", "source")
        }
        identity = _identity(ids[piece.id], key)
        layers.append(evolve(made, id=identity, properties={**made.properties, **values}))
    return evolve(piece, id=ids[piece.id], layers=tuple(layers))


def _named(piece: Composition, name: str) -> Layer:
    return next(made for made in piece.layers if made.name == name)


def _inside(project: Project, piece: Composition, name: str) -> Composition:
    return project.composition(_named(piece, name).track("composition").value)


def _badge_loops(project: Project) -> Project:
    """Lay the badge out; its rim spins, its kite sways, its stars blink in turn, its ribbon comes and goes: a move
    each."""
    project, piece = _laid_out(project, "tolvane-badge.svg", "Badge loops", Timing(Fraction(25), 200))
    for name, use in (("Rim", MoveUse("spin", 0, 200)), ("Kite", MoveUse("sway", 0, 200, strength=56.0, times=2)),
                      ("Ribbon", MoveUse("spring-in", 6, 30)), ("Ribbon", MoveUse("hop-away", 172, 22))):
        piece = piece.with_layer(with_move(project, piece, _named(piece, name), use))
    piece = evolve(piece, layers=(*piece.layers, backdrop(piece, "Paper", style="flat", colour=CREAM)))
    project = project.with_composition(piece)
    stars = _inside(project, piece, "Stars")
    for index in range(4):
        blink = MoveUse("blink", 44 * index + 8, 24, strength=88.0)
        stars = stars.with_layer(with_move(project, stars, _named(stars, f"Star {index + 1}"), blink))
    return project.with_composition(stars)


def _readout_poster(project: Project) -> Project:
    """Lay the poster out; its ring turns, its words blink in alternation, its bars wipe open, a softened copy of them
    glows, a flicker in footage shakes all of it, and its layers, one behind the other, sway by a few degrees."""
    project, piece = _laid_out(project, "wind-readout.ora", "Readout poster", Timing(Fraction(25), 200))
    ring = _named(piece, "Ring").with_track("rotation", keys((0, 0.0, "linear"), (200, 360.0), after=Rule.ACCUMULATE))
    needle = _named(piece, "Needle").with_values(pivot=(50.0, 433.333))
    needle = needle.with_values(position=(540.0, 560.0)).with_track(
        "rotation", keys((0, -20.0), (50, 34.0, "overshoot"), (110, 12.0), (200, -20.0))
    )
    piece = piece.with_layer(ring).with_layer(needle)
    parts = tuple(y.name for y in piece.layers if y.kind not in ("backdrop", "footage", "effect") and y.name != "Paper")
    piece = swaying(project, _glowing_and_shaken(piece), parts[:-1])
    project = project.with_composition(piece)
    words, bars = _inside(project, piece, "Words"), _inside(project, piece, "Bars")
    # The same keys on both, half a turn apart.
    words = words.with_layer(_named(words, "Ready").with_track("visible", _on_and_off(10)))
    words = words.with_layer(_named(words, "Lift").with_track("visible", _on_and_off(10, at_first=False)))
    project = project.with_composition(words)
    for index in range(4):
        opened = keys((0, 100.0, "soft-both"), (14, 0.0, "hold"), (20 + 6 * index, 0.0, "soft-stop"),
                      (64 + 6 * index, 100.0, "hold"))  # fmt: skip
        bars = bars.with_layer(effect(_named(bars, f"Bar {index + 1}"), "wipe", shown=opened, softness=2.0))
    return project.with_composition(bars)


def _glowing_and_shaken(piece: Composition) -> Composition:
    """Return the poster with a softened copy of its lines as their glow, and an effect layer that displaces all of it
    by how bright a clip is that nobody sees."""
    n, made = piece.length, []
    for shown in piece.layers:
        made.append(shown)
        if shown.name in ("Words", "Bars"):
            copy = evolve(shown, id=_identity(piece.id, shown.name, "glow"), name=f"{shown.name} glow")
            made.append(effect(copy, "gaussian-blur", across=18.0, down=18.0).with_values(blend="plus-lighter"))
    flicker = layer("footage", "Flicker", n, source="flicker", position=(540.0, 675.0), scale=(562.5, 562.5),
                    visible=False)  # fmt: skip
    shaken = effect(layer("effect", "Shake", n, position=(540.0, 675.0)), "displace", map=flicker.id, across=26.0,
                    down=0.0)  # fmt: skip
    return evolve(piece, layers=(shaken, flicker, *made))


def _on_and_off(every: int, at_first: bool = True) -> Track:
    """Return a switch that turns over every so many frames, never at the seam of the loop."""
    first = every // 2
    marks = (Key(first, at_first), Key(first + every, not at_first), Key(first + 2 * every, at_first))
    return Track(at_first, marks, before=Extend(Rule.REPEAT), after=Extend(Rule.REPEAT))
