"""The project file: save, load, migrations, recovery after a crash."""

from spiralis.core.storage.project_file import load, save

__all__ = ["load", "save"]
