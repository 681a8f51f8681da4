"""Numba, loaded so that machine code comes from its cache without all that only compiling needs.

Before it looks into the cache Numba gets everything ready for compiling, and with what it finds there it loads the
modules whose functions were compiled along, and the code in LLVM's own form that others would be compiled with: more
than loading the machine code itself. Whatever is compiled after all makes it follow by itself. The versions of Numba
that this is for are pinned.
"""

from __future__ import annotations

import os
import sys
from collections.abc import Iterator
from contextlib import contextmanager
from hashlib import sha256
from importlib import import_module
from types import ModuleType
from typing import Any


def load_compiler() -> None:
    """Load Numba; afterwards modules of kernels can be imported."""
    with _spared():
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
    _keep_apart(caching.IndexDataCacheFile)
    environment._rebuild_env = rebuild_env
    _leave_bitcode(import_module("numba.core.codegen"))


@contextmanager
def _spared() -> Iterator[None]:
    """Keep Numba from loading what reads settings that nobody has made, what looks for extensions of it among all
    packages there are, SciPy for nothing but its version, and, until something is compiled, compiled classes."""
    extensions: Any = ModuleType("numba.core.entrypoints")
    extensions.init_all = lambda: None
    stand_ins: dict[str, Any] = {"yaml": None, "scipy": None, "numba.experimental": ModuleType("numba.experimental")}
    stand_ins = {name: module for name, module in stand_ins.items() if name not in sys.modules}
    sys.modules.update(stand_ins)
    sys.modules.setdefault(extensions.__name__, extensions)
    try:
        yield
        vars(sys.modules["numba.core"]).setdefault("entrypoints", extensions)
    finally:
        for name in stand_ins:
            del sys.modules[name]


def _keep_apart(file: Any) -> None:
    """Have several processes compile side by side: none finds another's code under the name of its own, or loses it.

    Numba counts its files up, and names them before they are written.
    """

    def save(made: Any, key: Any, data: Any) -> None:
        told = sha256(repr((key, made._source_stamp)).encode()).hexdigest()
        name = made._data_name(int(told[:15], 16))
        made._save_data(name, data)
        with _alone(made._cache_path):
            overloads = made._load_index()
            overloads[key] = name
            made._save_index(overloads)

    file.save = save


@contextmanager
def _alone(folder: str) -> Iterator[None]:
    """Hold the lock of a folder, where it can be locked."""
    import fcntl

    with open(os.path.join(folder, "writing.lock"), "a") as file:
        try:
            fcntl.flock(file, fcntl.LOCK_EX)
        except OSError:
            # Some network disks know no locks: two processes may then both compile what one of them could keep.
            pass
        yield


def _leave_bitcode(codegen: Any) -> None:
    """Have machine code loaded without reading the bitcode beside it, until something is compiled that calls it."""
    library: Any = codegen.JITCodeLibrary
    whole, pointer, for_linking = library._unserialize, library.get_pointer_to_function, library._get_module_for_linking

    def unserialize(cls: Any, generator: Any, state: tuple[Any, ...]) -> Any:
        name, kind, data = state
        if kind != "object":
            return whole.__func__(cls, generator, state)
        made = generator.create_library(name)
        code, made.bitcode = data
        made.enable_object_caching()
        made._set_compiled_object(code)
        made._finalize_final_module()
        return made

    def pointer_to(made: Any, name: str) -> int:
        if hasattr(made, "bitcode"):
            # What is asked of it first, and by Numba alone, is the function that it was kept for.
            made._codegen._engine._defined_symbols.add(name)
        return int(pointer(made, name))

    def module_for_linking(made: Any) -> Any:
        if made._shared_module is None and hasattr(made, "bitcode"):
            made._shared_module = codegen.ll.parse_bitcode(made.bitcode)
            made._codegen._engine._load_defined_symbols(made._shared_module)
        return for_linking(made)

    library._unserialize = classmethod(unserialize)
    library.get_pointer_to_function, library._get_module_for_linking = pointer_to, module_for_linking
