"""What gunicorn serves: `usual_lamp.web.server:app`, loaded once and forked."""

from __future__ import annotations

import gc
import sys

from usual_lamp.store import Store
from usual_lamp.web.app import create_app
from usual_lamp.web.bridge import Bridge
from usual_lamp.web.guard import Guard

SWITCH_SECONDS = 0.0005
"""After which a thread that computes lets the event loop have its turn; at Python's 5 ms, thirty streams wait long."""


def make() -> Bridge:
    """The application over the store that the environment names."""
    store = Store.from_environment()
    flask = create_app(store)
    hub, lamp = flask.extensions["hub"], flask.extensions["lamp"]

    def started() -> None:
        sys.setswitchinterval(SWITCH_SECONDS)
        # Nothing of the parent's is shared: no connection to the database, no thread.
        store.engine.dispose(close=False)
        hub.start()

    def stopping() -> None:
        hub.close()
        lamp.close()

    return Bridge(flask, Guard.from_environment(), store.cache, started, stopping)


app = make()
gc.freeze()
