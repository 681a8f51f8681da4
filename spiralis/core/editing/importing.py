"""Files into a project: layered files, pictures, footage, numbered sequences, captions and fonts in one go."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from pathlib import Path

from attrs import define, evolve, field, frozen

from spiralis.core.editing.artwork import Timing, as_composition
from spiralis.core.editing.artwork import unused as unused_name
from spiralis.core.editing.captioning import captions_layer, late_ones
from spiralis.core.editing.flattening import flat_source
from spiralis.core.editing.sources import artwork_place, flipbook_layer, picture_layer
from spiralis.core.errors import SpiralisError
from spiralis.core.media.captions import CAPTION_SUFFIXES, Caption, read_captions
from spiralis.core.media.footage.sequence import find_sequences
from spiralis.core.media.layered import LayeredFile
from spiralis.core.media.layered_files import LAYERED_SUFFIXES, VECTOR_SUFFIXES, read_layers
from spiralis.core.media.source_kinds.footage import sequence_source
from spiralis.core.media.sources import read_source, source_suffixes
from spiralis.core.media.svg.flat import flat_art
from spiralis.core.model import Composition, Layer, Project, Source, layer_kind


@define
class Gathered:
    """What was read from files: sources, layered files and captions by their paths, a sentence for each that failed,
    and how many pictures each of the numbered runs has that became footage."""

    sources: list[Source] = field(factory=list)
    layered: list[tuple[Path, LayeredFile]] = field(factory=list)
    problems: list[str] = field(factory=list)
    runs: list[int] = field(factory=list)
    captions: list[tuple[Path, tuple[Caption, ...]]] = field(factory=list)

    @property
    def names(self) -> list[str]:
        """The names of what was read."""
        return [*(source.name for source in self.sources), *(path.name for path, _ in (*self.layered, *self.captions))]


@frozen
class Imported:
    """A project with files in it, the layers that are new, and notes on what is not quite as it was."""

    project: Project
    layers: tuple[str, ...] = ()
    notes: tuple[str, ...] = ()


def import_suffixes() -> tuple[str, ...]:
    """Return the suffixes of all files that can be brought in."""
    return (*LAYERED_SUFFIXES, *source_suffixes(), *CAPTION_SUFFIXES)


def files_under(paths: Sequence[Path]) -> list[Path]:
    """Return the paths with folders replaced by the files in them that can be brought in, by name."""
    files: list[Path] = []
    suffixes = import_suffixes()
    for path in paths:
        if path.is_dir():
            inside = sorted(path.rglob("*"), key=lambda p: str(p).lower())
            files += [p for p in inside if p.suffix.lower() in suffixes and p.is_file()][:2000]
        else:
            files.append(path)
    return files


def gather(
    paths: Sequence[Path], fonts: Project, sequences: bool = True,
    progress: Callable[[int, int], None] = lambda done, total: None,
) -> Gathered:  # fmt: skip
    """Read files; what fails is named in a sentence each, the others are read all the same.

    Args:
        paths: files and folders.
        fonts: a project whose own fonts words in SVG files may use.
        sequences: whether pictures numbered without a gap become one piece of footage.
        progress: told how many of how many files are read.
    """
    gathered = Gathered()
    files = files_under(list(paths))
    runs, files = find_sequences(files) if sequences else ([], files)
    total = len(runs) + len(files)
    items: list[list[Path] | Path] = [*runs, *files]
    for done, item in enumerate(items):
        progress(done, total)
        try:
            if isinstance(item, list):
                gathered.sources.append(sequence_source(item))
                gathered.runs.append(len(item))
            elif item.suffix.lower() in LAYERED_SUFFIXES:
                gathered.layered.append((item, read_layers(item, fonts)))
            elif item.suffix.lower() in CAPTION_SUFFIXES:
                gathered.captions.append((item, read_captions(item)))
            else:
                gathered.sources.append(read_source(item))
        except SpiralisError as error:
            gathered.problems.append(str(error))
    return gathered


def brought_in(
    project: Project, composition_id: str, gathered: Gathered, at: tuple[float, float] | None = None,
    layering: str = "layers", nested: bool = True, as_flipbook: bool = False, index: int = 0,
) -> Imported:  # fmt: skip
    """Return the project with everything gathered as layers of a composition.

    Args:
        project: the version at hand.
        composition_id: where the layers go.
        gathered: what ``gather`` read.
        at: where their middle goes; the middle of the frame where it is None.
        layering: ``layers`` makes a layered file a nested composition, ``flat`` one picture.
        nested: whether groups of layered files are nested compositions in turn.
        as_flipbook: whether pictures become one flipbook in the order of their names.
        index: how many layers lie in front of the new ones.
    """
    piece = project.composition(composition_id)
    made: list[Layer] = []
    notes: list[str] = []
    pictures: list[Source] = []
    for source in gathered.sources:
        project, source = project.with_source(source)
        if not source.shows:
            notes.append(source.sort.brought.format(source.name))
        elif source.sort.still and as_flipbook:
            pictures.append(source)
        else:
            made.append(picture_layer(source, piece, at))
    if pictures:
        pictures.sort(key=lambda source: source.name.lower())
        made.append(flipbook_layer(pictures, piece, at))
    for path, layered in gathered.layered:
        notes += layered.notes
        project, layer = _layered_layer(project, piece, path, layered, at, layering, nested)
        made.append(layer)
    for path, captions in gathered.captions:
        made.append(captions_layer(captions, piece, path.stem))
        late = late_ones(captions, piece)
        if late:
            notes.append(f"{late} of {len(captions)} captions of “{path.name}” begin after the piece has ended.")
    taken = {layer.name for layer in piece.layers}
    named = []
    for layer in made:
        name = unused_name(layer.name, taken)
        taken.add(name)
        named.append(evolve(layer, name=name))
    piece = evolve(project.composition(composition_id), layers=(*piece.layers[:index], *named, *piece.layers[index:]))
    return Imported(project.with_composition(piece), tuple(layer.id for layer in named), tuple(notes))


def _layered_layer(
    project: Project, piece: Composition, path: Path, layered: LayeredFile, at: tuple[float, float] | None,
    layering: str, nested: bool,
) -> tuple[Project, Layer]:  # fmt: skip
    vectors = path.suffix.lower() in VECTOR_SUFFIXES
    place = artwork_place((layered.width, layered.height), piece, at, grows=vectors)
    if layering == "flat":
        project, values, kind = flat_values(project, layered)
        return project, Layer(path.stem, kind, 0, piece.length).with_values(**values, **place)
    project, inner = as_composition(project, layered, str(path), Timing(piece.rate, piece.length), nested)
    layer = Layer(inner.name, "nested", 0, piece.length).with_values(composition=inner.id, **place)
    return project, layer


def flat_values(project: Project, layered: LayeredFile) -> tuple[Project, dict[str, object], str]:
    """Return (project, content values, layer kind) of a layered file as one layer."""
    art = flat_art(layered)
    if art is not None:
        return project, {"art": art}, "shape"
    project, source = project.with_source(flat_source(layered))
    return project, {"source": source.id}, "picture"


def new_project(
    gathered: Gathered, name: str, timing: Timing = Timing(), nested: bool = True
) -> tuple[Project, tuple[str, ...]]:
    """Return a project made of artwork, and notes: a composition a layered file, and one for all other files.

    They come before what is nested in them, so that the project opens with the first of them.

    Raises:
        SpiralisError: nothing could be read.
    """
    project, notes, whole = Project(name), list[str](), set[str]()
    for path, layered in gathered.layered:
        project, made = as_composition(project, layered, str(path), timing, nested)
        notes += layered.notes
        whole.add(made.id)
    shown = [source for source in gathered.sources if source.shows and source.width]
    if gathered.sources or gathered.captions:
        size = (shown[0].width, shown[0].height) if shown else (1080, 1080)
        taken = {c.name for c in project.compositions}
        piece = Composition(unused_name(name, taken), *size, timing.rate, timing.length)
        whole.add(piece.id)
        imported = brought_in(project.with_composition(piece), piece.id, evolve(gathered, layered=[]))
        project, notes = imported.project, [*notes, *imported.notes]
        if len(shown) == 1:
            only = project.composition(piece.id)
            at_size = tuple(
                layer if layer_kind(layer.kind).unseen else layer.with_values(scale=(100.0, 100.0))
                for layer in only.layers
            )
            project = project.with_composition(evolve(only, layers=at_size))
    if not project.compositions and not project.sources:
        raise SpiralisError(" ".join(gathered.problems) or "There is nothing to bring in.")
    ordered = sorted(project.compositions, key=lambda composition: composition.id not in whole)
    return evolve(project, compositions=tuple(ordered)), tuple(notes)
