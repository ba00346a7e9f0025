"""Generated requests: every route the API describes, with values from its own description, changed documents, and
nonsense.
"""

import json

import numpy as np

from .damaged import changed, strange_value
from .outcome import Outcome


def asked(client, documents: list[dict], room_ids: list[str], count: int, seed: int = 3) -> Outcome:
    """Send generated requests; none may fail or hang."""
    rng, outcome = np.random.default_rng(seed), Outcome()
    routes = [
        (path, method, about)
        for path, methods in client.get("/api/openapi.json").json()["paths"].items()
        for method, about in methods.items()
        if not path.endswith("/rig")  # makes sound for seconds; its arguments are tried in tests/api
    ]
    for number in range(count):
        path, method, about = routes[int(rng.integers(len(routes)))]
        address = _address(path, about, room_ids, rng)
        body = _body(path, documents, rng) if method in ("post", "put", "patch") else None
        with outcome.timed(f"{method} {address} {str(body)[:300]}"):
            answer = _send(client, method, address, body, rng)
        outcome.answered(answer.status_code, f"{method} {address} {str(body)[:400]} -> {answer.text[:200]}")
        if number % 50 == 0:
            outcome.weighed()
    outcome.weighed()
    return outcome


def _address(path: str, about: dict, room_ids: list[str], rng: np.random.Generator) -> str:
    ids = [*room_ids, "none", "%00", "0" * 36, "é", "..%2f..", "x" * 300]
    for part in ("room_id", "reading_id", "other_id", "job_id", "calibration_id"):
        path = path.replace(f"{{{part}}}", str(rng.choice(ids)))
    query = [
        f"{parameter['name']}={rng.choice(['1', '-1', 'x', '', '1e309', 'nan', '0.5', 'plan', 'svg', '%F0%9F%8E%B5'])}"
        for parameter in about.get("parameters", [])
        if parameter["in"] == "query" and rng.random() < 0.5
    ]
    return path + ("?" + "&".join(query) if query else "")


def _body(path: str, documents: list[dict], rng: np.random.Generator):
    document = documents[int(rng.integers(len(documents)))]
    for _ in range(int(rng.integers(0, 4))):
        document = changed(document, rng)
    whole = {
        "document": document,
        "arrangement_id": rng.choice(["as-is", "none", ""]) if rng.random() < 0.3 else None,
        "revision": int(rng.integers(0, 5)),
        "to_hz": float(rng.choice([40, 120, 300])),
        "plane": str(rng.choice(["plan", "section-x", "none"])),
        "kind": "own",
        "title": "t",
        "note": "n",
        "reading_ids": ["a", "b"],
        "name": "N",
        "length": str(rng.choice(["4", "0", "9 m", "x"])),
        "width": "3",
        "height": "2.4",
    }
    if path[-6:] == "/rooms" and rng.random() < 0.5:
        whole.pop("document")
    return whole if rng.random() < 0.8 else changed(whole, rng) if rng.random() < 0.8 else strange_value(rng)


def _send(client, method: str, address: str, body, rng: np.random.Generator):
    as_the_page = {"prefer": "respond-async"}  # a search that takes long is a job, and no hanging answer
    if body is None:
        return client.request(method, address, headers=as_the_page)
    text = json.dumps(body)
    if rng.random() < 0.03:
        text = text[: int(rng.integers(len(text) + 1))]
    return client.request(
        method,
        address,
        content=text.encode("utf-8", "surrogatepass"),
        headers=as_the_page | {"content-type": "application/json"},
    )
