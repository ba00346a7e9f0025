import pytest
from fastapi.testclient import TestClient

from keenquiet.api.app import make_app
from keenquiet.demo.scenario import bakery_room

from ..conftest import HERE


@pytest.fixture
def client(tmp_path):
    with TestClient(make_app(tmp_path / "data"), base_url=HERE) as opened:
        yield opened


@pytest.fixture
def room_id(client) -> str:
    return client.post("/api/rooms", json={"document": bakery_room()}).json()["id"]
