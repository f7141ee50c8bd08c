"""What the parent of all child processes loads once, so that each child starts at once.

All modules of the core and all its compiled kernels: a child then reads no file but its own, and
may be somebody to whom the program's folders are closed.
"""

import ctypes
import encodings
import gc
import multiprocessing.popen_fork
import multiprocessing.synchronize
import pkgutil
import sys
from collections.abc import Iterator
from contextlib import suppress
from importlib import import_module
from types import ModuleType
from typing import Any

import caulkcore
import caulkjob
from numba.core.registry import CPUDispatcher
from numba.np.ufunc import parallel

assert multiprocessing.popen_fork, "imported for children, which may not reach the file any more"
assert multiprocessing.synchronize

_NOT_FOR_CHILDREN = ("cli", "commands", "warm")


def _modules(package: ModuleType) -> Iterator[ModuleType]:
    """All modules of a package that can be imported here."""
    for found in pkgutil.walk_packages(package.__path__, f"{package.__name__}."):
        if found.name.rpartition(".")[2] not in _NOT_FOR_CHILDREN:
            with suppress(ImportError):  # encodings of other systems
                yield import_module(found.name)


def _kernels() -> list[Any]:
    """All compiled functions of the modules that are loaded by now."""
    every = {
        id(value): value
        for module in list(sys.modules.values())
        for value in list(vars(module).values())
        if isinstance(value, CPUDispatcher)
    }
    return list(every.values())


@ctypes.CFUNCTYPE(None, ctypes.c_int)
def _no_threads(_number: int) -> None:
    """Stand in for what starts threads."""


def _layers() -> Iterator[Any]:
    """The thread pools that numba may choose from here."""
    for name in ("tbbpool", "omppool", "workqueue"):
        with suppress(ImportError):
            yield import_module(f"numba.np.ufunc.{name}")


def load_kernels() -> None:
    """Load the machine code of all kernels that were compiled ahead.

    No threads are started for those that run on several: threads do not survive a fork. Each child
    starts its own, by `numba.np.ufunc.parallel._launch_threads`.
    """
    starts = {layer: layer.launch_threads for layer in _layers()}
    for layer in starts:
        layer.launch_threads = ctypes.cast(_no_threads, ctypes.c_void_p).value
    try:
        for kernel in _kernels():
            kept = getattr(kernel._cache, "_cache_file", None)
            for key in kept._load_index() if kept else ():
                kernel.compile(key[0])
    finally:
        for layer, start in starts.items():
            layer.launch_threads = start
        parallel._is_initialized = False


for _package in (caulkcore, caulkjob, encodings):
    list(_modules(_package))
load_kernels()
gc.freeze()
