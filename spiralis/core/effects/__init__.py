"""Effects and finishes, one file each; importing this package registers all of them."""

from spiralis.core.registry import import_files

import_files(__name__)
