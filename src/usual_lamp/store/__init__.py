"""MariaDB keeps everything: rows, scene documents and binaries."""

from usual_lamp.store.database import Store, again_after_deadlock

__all__ = ["Store", "again_after_deadlock"]
