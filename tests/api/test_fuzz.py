"""Whatever is sent, the answer is a result or a refusal with a cure: never a crash."""

import copy
import io
import json
import random

import numpy as np
import pytest
import soundfile
from fastapi.testclient import TestClient
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from keenquiet.api.app import make_app
from keenquiet.demo.scenario import bakery_room

from ..conftest import HERE

NASTY = st.one_of(
    st.none(),
    st.booleans(),
    st.integers(-(10**9), 10**9),
    st.floats(-1e9, 1e9),
    st.just(1e308),
    st.text(max_size=12),
    st.lists(st.floats(-5, 5), max_size=5),
    st.dictionaries(st.text(max_size=5), st.integers(), max_size=3),
)


def _paths(value, at=()):
    """Every place in a document that can be spoiled."""
    yield at
    if isinstance(value, dict):
        for key, item in value.items():
            yield from _paths(item, (*at, key))
    elif isinstance(value, list):
        for i, item in enumerate(value):
            yield from _paths(item, (*at, i))


PLACES = [path for path in _paths(bakery_room()) if path]


@pytest.fixture(scope="module")
def shared(tmp_path_factory):
    with TestClient(make_app(tmp_path_factory.mktemp("fuzz")), base_url=HERE, raise_server_exceptions=False) as opened:
        yield opened


@settings(
    max_examples=250, deadline=None, derandomize=True, suppress_health_check=[HealthCheck.function_scoped_fixture]
)
@given(st.sampled_from(PLACES), NASTY)
def test_a_spoiled_document_is_computed_or_refused_with_a_cure(shared, path, value):
    document = copy.deepcopy(bakery_room())
    at = document
    for key in path[:-1]:
        at = at[key]
    at[path[-1]] = value
    answer = shared.post("/api/forecast", json={"document": document})
    assert answer.status_code in (200, 422), f"{path} = {value!r}: {answer.text[:200]}"
    if answer.status_code == 422:
        error = answer.json()["error"]
        assert error["field"]
        assert error["cure"]


@settings(max_examples=60, deadline=None, derandomize=True)
@given(st.sampled_from(PLACES))
def test_a_missing_field_has_a_default_or_is_named(shared, path):
    document = copy.deepcopy(bakery_room())
    at = document
    for key in path[:-1]:
        at = at[key]
    del at[path[-1]]
    answer = shared.post("/api/rooms", json={"document": document})
    assert answer.status_code in (201, 422), f"{path}: {answer.text[:200]}"


@pytest.mark.parametrize("seed", range(10))
def test_damaged_recordings_are_read_or_refused(shared, seed):
    rng = random.Random(seed)
    buffer = io.BytesIO()
    form = rng.choice(["WAV", "FLAC", "AIFF"])
    soundfile.write(buffer, 0.1 * np.random.default_rng(seed).standard_normal((30_000, 2)), 48_000, format=form)
    content = bytearray(buffer.getvalue())
    for _ in range(rng.randint(1, 20)):
        content[rng.randrange(min(len(content), 120))] = rng.randrange(256)
    content = content[: rng.randint(10, len(content))]
    room_id = shared.post("/api/rooms", json={"document": bakery_room()}).json()["id"]
    kind = rng.choice(["tone", "ir", "sweep", "take"])
    answer = shared.post(
        f"/api/rooms/{room_id}/readings", files={"file": ("x.wav", bytes(content))}, data={"kind": kind}
    )
    assert answer.status_code in (201, 422), answer.text[:300]
    if answer.status_code == 201:
        assert answer.json()["verdict"]["word"] in ("good", "usable", "not usable")


@settings(max_examples=60, deadline=None, derandomize=True)
@given(st.binary(max_size=400))
def test_bytes_that_are_no_bundle_are_refused(shared, content):
    assert shared.post("/api/bundles", files={"file": ("a.kq.zip", content)}).status_code == 422


def test_a_number_that_json_cannot_say_is_refused(shared):
    body = json.dumps({"document": bakery_room()}).replace("2.41", "NaN", 1)
    answer = shared.post("/api/forecast", content=body, headers={"content-type": "application/json"})
    assert answer.status_code == 422
