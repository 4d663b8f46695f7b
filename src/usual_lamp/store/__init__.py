"""MariaDB keeps everything: rows, scene documents and binaries."""

from usual_lamp.store.database import Store

__all__ = ["Store"]
