"""Finds the compiler library, sets the Mitsuba variant, and proves that both work on this machine."""

from __future__ import annotations

import os
import subprocess
import sys
from dataclasses import fields, is_dataclass
from pathlib import Path
from typing import Any, TypeVar

VARIANT = "llvm_ad_rgb"
LIBRARIES = (
    "/usr/lib/x86_64-linux-gnu/libLLVM.so.19.1",
    "/usr/lib/aarch64-linux-gnu/libLLVM.so.19.1",
    "/usr/lib/llvm-19/lib/libLLVM.so.1",
)


class EngineMissing(RuntimeError):
    """The tracer cannot run here; the message says what to install."""


def find_llvm() -> str:
    """Path of LLVM 19. Older ones are refused (14) or abort while rendering (15, 16)."""
    asked = os.environ.get("DRJIT_LIBLLVM_PATH")
    for path in ([asked] if asked else []) + list(LIBRARIES):
        if path and Path(path).exists():
            return path
    raise EngineMissing("The tracer needs LLVM 19. Install Debian's package libllvm19 and start again.")


os.environ["DRJIT_LIBLLVM_PATH"] = find_llvm()

import drjit as dr  # noqa: E402
import mitsuba as mi  # noqa: E402
import numpy as np  # noqa: E402
from numpy.typing import NDArray  # noqa: E402

__all__ = [
    "ALIGNED",
    "EngineMissing",
    "aligned",
    "dr",
    "find_llvm",
    "in_this_scope",
    "mi",
    "prove",
    "settled",
    "unwritten",
]

mi.set_variant(VARIANT)
mi.set_log_level(mi.LogLevel.Error)
ALIGNED = 64
"""Bytes."""


Numbers = TypeVar("Numbers", bound=np.generic)


def aligned(values: NDArray[Numbers]) -> NDArray[Numbers]:
    """A copy that starts at a round address.

    Dr.Jit uses an array's own memory where it can, and compiles fast packet reads only for what starts so. Where numpy
    puts an array is chance: the same scene would be compiled anew now and then.
    """
    found = unwritten(values.shape, values.dtype)
    found[...] = values
    return found


def unwritten(shape: tuple[int, ...], dtype: np.dtype[Numbers]) -> NDArray[Numbers]:
    """An array that starts at a round address, with whatever stood there. Pages are taken as they are written."""
    size = int(np.prod(shape)) * dtype.itemsize
    room = np.empty(size + ALIGNED, np.uint8)
    start = -room.ctypes.data % ALIGNED
    return room[start : start + size].view(dtype).reshape(shape)


def settled(values: NDArray[np.floating]) -> mi.Float:
    """Numbers that kernels read and never hold as constants."""
    found = mi.Float(aligned(np.asarray(values, np.float32).ravel()))
    dr.make_opaque(found)
    return found


def in_this_scope(value: Any) -> Any:
    """What an `if_stmt` has returned, to be used outside of it: a dataclass, vector or array.

    Numbers that both branches agree on are handed out as they stand within one of them, and a kernel that uses them
    elsewhere does not compile (Dr.Jit 1.5). So they are made anew.
    """
    if is_dataclass(value):
        for field in fields(value):
            setattr(value, field.name, in_this_scope(getattr(value, field.name)))
    elif value is not None and dr.depth_v(value) > 1:
        for k in range(len(value)):
            value[k] = in_this_scope(value[k])
    elif value is not None and value.state == dr.VarState.Literal:
        return type(value)(value[0])
    return value


PROOF = """
from usual_lamp.core.trace import engine
import mitsuba as mi, numpy as np
image = np.array(mi.render(mi.load_dict(mi.cornell_box()), spp=1))
assert image.shape[2] == 3 and np.isfinite(image).all() and image.mean() > 0.01
"""


def prove(seconds: float = 120.0) -> None:
    """A small real render in a child process, since a bad compiler library aborts the process that uses it.

    Raises EngineMissing with what to do.
    """
    try:
        done = subprocess.run([sys.executable, "-c", PROOF], capture_output=True, timeout=seconds, check=False)
    except subprocess.TimeoutExpired as error:
        raise EngineMissing(f"The tracer's proof render did not finish in {seconds:.0f} s.") from error
    if done.returncode != 0:
        words = done.stderr.decode(errors="replace").strip().splitlines()
        reason = words[-1] if words else f"signal {-done.returncode}"
        raise EngineMissing(
            f"The tracer's proof render failed ({reason}). Install Debian's package libllvm19, or unset "
            "DRJIT_LIBLLVM_PATH if it points elsewhere."
        )
