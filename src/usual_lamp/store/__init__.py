"""MariaDB keeps everything: rows, scene documents and binaries."""

from usual_lamp.store.database import DatabaseAway, NoRoom, Store, again_when_overtaken

__all__ = ["DatabaseAway", "NoRoom", "Store", "again_when_overtaken"]
