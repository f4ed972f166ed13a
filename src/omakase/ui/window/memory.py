"""What the program keeps of the machine's memory, and when it looks for what nobody needs any more."""

from __future__ import annotations

import ctypes
import gc
import sys

BETWEEN_LOOKS = 10_000  # new objects between two looks through the youngest for garbage; an edit makes some 1000
APART = 1 << 20  # bytes from which a block of memory is taken from the system, and given back, on its own
M_MMAP_THRESHOLD = -3  # of mallopt, in the C library's malloc.h


def settle_memory() -> None:
    """What is there once the program has started stays: looking through it for garbage would hold up everything for
    some 30 ms, again and again.  What comes after it is looked through, most of it when the window rests."""
    gc.freeze()
    gc.set_threshold(BETWEEN_LOOKS, *gc.get_threshold()[1:])
    gc.enable()


def keep_large_blocks_apart() -> None:
    """Else the C library keeps what a large plate was solved in, hundreds of MB, once it is free again."""
    library = _c_library()
    if library is not None:
        library.mallopt(M_MMAP_THRESHOLD, APART)


def give_back(everything: bool = False) -> None:
    """Looks for garbage, young or of any age, and gives memory that is free back to the system: 10 or some 40 ms, for
    when nobody waits."""
    gc.collect(2 if everything else 0)
    library = _c_library()
    if library is not None:
        library.malloc_trim(0)


def _c_library() -> ctypes.CDLL | None:
    """The C library where it is the one that has these calls."""
    if not sys.platform.startswith("linux"):
        return None
    library = ctypes.CDLL(None)
    return library if hasattr(library, "malloc_trim") and hasattr(library, "mallopt") else None
