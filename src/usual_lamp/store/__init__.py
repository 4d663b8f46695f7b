"""MariaDB keeps everything: rows, scene documents and binaries."""

from usual_lamp.store.database import DatabaseAway, NoRoom, Store, again_after_deadlock

__all__ = ["DatabaseAway", "NoRoom", "Store", "again_after_deadlock"]
