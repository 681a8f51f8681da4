"""The kinds of sources, one file each. Every module in this folder is imported and registers itself."""

from spiralis.core.registry import import_files

import_files(__name__)
