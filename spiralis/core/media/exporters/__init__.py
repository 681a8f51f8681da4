"""The exporters, one file each. Every module in this folder is imported; the exporters register themselves."""

from importlib import import_module
from pkgutil import iter_modules

from spiralis.core.media.exporters.base import (
    Exporter,
    ExportJob,
    ExportProgress,
    ExportResult,
    export,
    exporter,
    exporters,
    sequence_folder,
)

for _module in sorted(info.name for info in iter_modules(__path__)):
    import_module(f"{__name__}.{_module}")

__all__ = [
    "ExportJob",
    "ExportProgress",
    "ExportResult",
    "Exporter",
    "export",
    "exporter",
    "exporters",
    "sequence_folder",
]
