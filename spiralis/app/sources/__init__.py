"""The Sources drawer: everything a project is made of."""

from spiralis.app.sources.drawer import SourcesDrawer

__all__ = ["SourcesDrawer"]
