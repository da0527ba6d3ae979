"""How the played outage is compiled: once, kept on disk, and without counting references.

Nothing in it makes an array but its outermost function, so that the counting
which numba does for arrays handed from function to function is left out: it
took nine tenths of the time.
"""

from __future__ import annotations

import hashlib
import shutil
from collections.abc import Callable
from pathlib import Path
from typing import Any, TypeVar

import numba

njit: Any = numba.njit  # its types know nothing of counting left out
F = TypeVar("F", bound=Callable[..., Any])
HERE = Path(__file__).parent
KERNEL = ("layout.py", "wishing.py", "switching.py", "acting_back.py", "feedback.py")
"""The files of the kernel."""
HOW: dict[str, Any] = {"cache": True, "nogil": True, "error_model": "numpy"}


def _keep_by_all_sources() -> None:
    """Keep what is compiled under the digest of all files: numba sees when a function's own file changed, not when one that it calls did."""
    digest = hashlib.sha256(b"".join((HERE / name).read_bytes() for name in KERNEL)).hexdigest()[:16]
    kept = HERE / "__pycache__" / f"kernel-{digest}"
    try:
        kept.mkdir(parents=True, exist_ok=True)
        for other in kept.parent.glob("kernel-*"):
            if other != kept:
                shutil.rmtree(other, ignore_errors=True)
    except OSError:
        return  # a folder that cannot be written: numba keeps it in the user's own, by the time of each file
    numba.config.CACHE_DIR = str(kept)  # type: ignore[attr-defined]


_keep_by_all_sources()


def compiled(function: F) -> F:
    """A function of the kernel that makes no array."""
    result: F = njit(_nrt=False, **HOW)(function)
    return result


def inlined(function: F) -> F:
    """The same, put where it is called: what is called at nearly every change, or from one place alone."""
    result: F = njit(_nrt=False, forceinline=True, **HOW)(function)
    return result


def outermost(function: F) -> F:
    """The one that makes the arrays."""
    result: F = njit(**HOW)(function)
    return result
