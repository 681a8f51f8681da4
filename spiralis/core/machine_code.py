"""Numba, loaded so that machine code comes from its cache without all that only compiling needs.

Before it looks into the cache Numba gets everything ready for compiling, and with what it finds there it loads the
modules whose functions were compiled along: as much again as loading Numba itself. Whatever is compiled after all
makes it follow by itself. The versions of Numba that this is for are pinned.
"""

from __future__ import annotations

import sys
from importlib import import_module
from typing import Any


def load_compiler() -> None:
    """Load Numba; afterwards modules of kernels can be imported."""
    caching: Any = import_module("numba.core.caching")
    environment: Any = import_module("numba.core.environment")
    runtime = import_module("numba.core.runtime").rtsys

    def load_overload(cache: Any, signature: Any, target: Any) -> Any:
        # What machine code itself calls has to be there.
        runtime.initialize(target)
        return cache._load_overload(signature, target)

    def rebuild_env(module_name: str, constants: list[Any], name: str) -> Any:
        # Machine code uses the constants alone.
        found = environment.lookup_environment(name)
        if found is None:
            module = sys.modules.get(module_name)
            found = environment.Environment(vars(module) if module else {"__name__": module_name})
            found.consts[:] = constants
            found.env_name = name
            environment.Environment._memo[name] = found
        return found

    caching.Cache.load_overload = load_overload
    environment._rebuild_env = rebuild_env
