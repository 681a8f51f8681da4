"""The exporters, one file each. Every module in this folder is imported; the exporters register themselves."""

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
from spiralis.core.registry import import_files

import_files(__name__)

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
