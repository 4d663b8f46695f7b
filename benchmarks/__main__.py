"""`./lamp measure [NAME …]`: run the benchmarks named, or all, on an otherwise quiet machine."""

from __future__ import annotations

import importlib
import sys

NAMES = (
    "intake", "big", "desk", "product", "lamp", "tracer", "flip", "grain", "samplers",
    "adaptive", "appearances", "arrangements", "checkpoints", "decals", "dragging", "forecast", "large", "lights",
    "levels", "memory", "placed", "answers", "stills", "rounding", "preflight", "fuzz", "kills", "load",
)  # fmt: skip


def main(asked: list[str]) -> int:
    unknown = [name for name in asked if name not in NAMES]
    if unknown:
        print(f"No benchmark is called {unknown[0]}. There are: {', '.join(NAMES)}", file=sys.stderr)
        return 2
    for name in asked or NAMES:
        importlib.import_module(f"benchmarks.{name}").main()
    return 0


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
