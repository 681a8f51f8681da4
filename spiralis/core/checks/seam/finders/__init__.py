"""One file a sort of cause; each registers itself."""

from spiralis.core.registry import import_files

import_files(__name__)
