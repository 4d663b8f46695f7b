"""A tracer in this process, and a still that waits for it."""

import pytest
from distributed import Client, LocalCluster

from farm.finished import SIZE, next_still
from usual_lamp.core.scene.resolution import DEFAULT_SHOT
from usual_lamp.farm.workshop import workshop
from usual_lamp.service import stills
from usual_lamp.store.tables import Still


@pytest.fixture(scope="module")
def client():
    with (
        LocalCluster(
            n_workers=1, threads_per_worker=1, processes=False, dashboard_address=None, resources={"trace": 1}
        ) as cluster,
        Client(cluster) as made,
    ):
        yield made


@pytest.fixture
def still(store, review, monkeypatch) -> Still:
    monkeypatch.setattr(workshop, "_store", store)
    workshop.worlds.clear()
    stills.take(store, review, DEFAULT_SHOT, "coarse", SIZE)
    return next_still(store)
