"""`python -m usual_lamp.core.trace.jobs.warm`: prove the tracer on this machine and fill its kernel cache."""

from __future__ import annotations

import sys

import numpy as np


def main() -> int:
    """Trace a small picture, which fills the kernel cache; the exit code is 1 where the tracer cannot run."""
    try:
        from usual_lamp.core.trace import engine

        engine.prove()
    except RuntimeError as error:
        print(error, file=sys.stderr)
        return 1
    from usual_lamp.core.appearance import SHELF
    from usual_lamp.core.trace.jobs.plates import trace_plate

    # One appearance with clear walls and one without, floor in both: the two kernels that stills use.
    for name in ("polycarbonate-clear", "abs-graphite"):
        pixels = trace_plate(SHELF[name], size=16, samples=1)
        if not np.isfinite(pixels).all() or pixels.mean() < 5:
            print(
                "The tracer's proof render came out black. Install Debian's package libllvm19.",
                file=sys.stderr,
            )
            return 1
    return 0


if __name__ == "__main__":
    sys.exit(main())
