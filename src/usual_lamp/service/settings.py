"""What this installation may use: settings that hold for all reviews."""

from __future__ import annotations

import json
import os
from dataclasses import asdict, dataclass

from sqlalchemy.dialects.mysql import insert

from usual_lamp.service.errors import Refused
from usual_lamp.store import Store, again_when_overtaken
from usual_lamp.store.tables import Setting

TRACING = "tracing"


@dataclass(frozen=True)
class Tracing:
    """How much of the machine tracing may take: cores, and memory of each tracing process in GB."""

    cores: int
    memory: float


def machine() -> Tracing:
    """All that there is."""
    memory = os.sysconf("SC_PAGE_SIZE") * os.sysconf("SC_PHYS_PAGES") / 2**30
    return Tracing(cores=os.cpu_count() or 1, memory=round(memory, 1))


def tracing(store: Store) -> Tracing:
    """As set, and never more than the machine has; at first all cores, and half the memory."""
    most = machine()
    with store.begin() as session:
        row = session.get(Setting, TRACING)
        kept = json.loads(row.value) if row else {}
    cores, memory = kept.get("cores", most.cores), kept.get("memory", most.memory / 2)
    return Tracing(cores=min(cores, most.cores), memory=min(memory, most.memory))


@again_when_overtaken
def set_tracing(store: Store, wanted: Tracing) -> None:
    """Raises Refused for more than the machine has, or for too little to trace with."""
    most = machine()
    if not 1 <= wanted.cores <= most.cores:
        raise Refused(f"Tracing can have 1 to {most.cores} cores here.")
    if not 1.0 <= wanted.memory <= most.memory:
        raise Refused(f"Tracing can have 1 to {most.memory:.0f} GB of memory here.")
    text = json.dumps(asdict(wanted))
    with store.begin() as session:
        session.execute(insert(Setting).values(name=TRACING, value=text).on_duplicate_key_update(value=text))
