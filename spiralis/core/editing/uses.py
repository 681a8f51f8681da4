"""What layers show and use: sources and compositions, with how often."""

from __future__ import annotations

from spiralis.core.model import Layer, Project
from spiralis.core.model.references import What
from spiralis.core.raster.fonts import face_of, families_of


def sources_of(layer: Layer) -> set[str]:
    """Return the ids of the sources a layer shows."""
    return {tie.target for tie in layer.ties if tie.what is What.SOURCE}


def missing_source(project: Project, layer: Layer) -> str | None:
    """Return the name of a file that a layer shows and that is missing, or None."""
    for source_id in sorted(sources_of(layer)):
        source = project.source(source_id)
        if source is None or source.missing:
            return source.name if source is not None else "A file"
    return None


def use_counts(project: Project) -> dict[str, int]:
    """Return how many layers show or use each source or composition, by id; a font's are those with words in it."""
    counts: dict[str, int] = {}
    fonts = [(source.id, face.family) for source in project.fonts if (face := face_of(source)) is not None]
    for composition in project.compositions:
        for layer in composition.layers:
            for source in sources_of(layer):
                counts[source] = counts.get(source, 0) + 1
            for inner in {tie.target for tie in layer.ties if tie.what is What.COMPOSITION}:
                counts[inner] = counts.get(inner, 0) + 1
            wanted = families_of(layer) if fonts else ()
            for font, family in fonts:
                if family in wanted:
                    counts[font] = counts.get(font, 0) + 1
    return counts
