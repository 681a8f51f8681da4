"""The kinds of sources, one file each. Every module in this folder is imported and registers itself."""

from importlib import import_module
from pkgutil import iter_modules

for _module in sorted(info.name for info in iter_modules(__path__)):
    import_module(f"{__name__}.{_module}")
