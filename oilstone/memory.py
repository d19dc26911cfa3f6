"""How a process that holds many sized builds for long deals with its memory."""

import ctypes
import gc
import sys
from typing import Any

COLLECT_AFTER = (100_000, 50, 100)
"""Results are many small objects that live long. With Python's usual thresholds the collector looks
through all of them many times in one edit, which takes as long as the edit itself."""
M_ARENA_MAX, ARENAS = -8, 2
"""The C library gives each thread a heap of its own, and none gives back what lies between: with
one for each of ours, memory grows by a half (mallopt(3) of glibc; others have no such call)."""


def share_heaps() -> None:
    """Let all threads share few heaps; before there are threads."""
    if mallopt := _of_glibc("mallopt"):
        mallopt(M_ARENA_MAX, ARENAS)


def give_back() -> None:
    """Give the system what lies free between what is held (malloc_trim(3)): a millisecond where it
    is done after each piece of work."""
    if malloc_trim := _of_glibc("malloc_trim"):
        malloc_trim(0)


def _of_glibc(name: str) -> Any:
    return getattr(ctypes.CDLL(None), name, None) if sys.platform == "linux" else None


def collect_seldom() -> None:
    """Look for garbage seldom, and never in what is loaded now."""
    gc.freeze()
    gc.set_threshold(*COLLECT_AFTER)
