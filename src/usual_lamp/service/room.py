"""Room on the disk: what would fill it is refused in words while there is still enough to go on with."""

from __future__ import annotations

import os
import shutil

from usual_lamp.store import NoRoom, Store

DEFAULT_RESERVE = 1024
"""MB that stay free: the database needs room of its own to take in what was begun."""


def reserve() -> int:
    """MB, from USUAL_LAMP_RESERVE."""
    text = os.environ.get("USUAL_LAMP_RESERVE", "")
    return int(text) if text.isdecimal() else DEFAULT_RESERVE


def require(store: Store, wanted: float = 0.0) -> None:
    """Raises NoRoom when the disk under the home has less free than the reserve, or would have with so many MB of it
    taken."""
    free = shutil.disk_usage(store.cache).free / 2**20
    if reserve() <= free < reserve() + wanted:
        raise NoRoom(
            f"There is too little room on the disk: {free:.0f} MB are free, of which {reserve()} MB are kept as a "
            f"reserve, and this takes up to {wanted:.0f} MB. Make room, or take a smaller still."
        )
    if free < reserve():
        raise NoRoom(
            f"The disk is nearly full: {free:.0f} MB are free, and {reserve()} MB are kept as a reserve. Make room, "
            "for example with ./lamp tidy, then try again."
        )
