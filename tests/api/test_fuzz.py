"""Whatever is sent, the service answers in words: every operation of its OpenAPI document, every field, with nasty values."""

import json
import os
import random
from urllib.parse import quote

import pytest
from fastapi.testclient import TestClient

from jostle.api.app import create_app
from jostle.formats.shipped import demo_plan
from jostle.records.store import Store

REQUESTS = int(os.environ.get("JOSTLE_FUZZ", "600"))
NASTY = [
    None, True, -1, 0, 2**63, 10**400, 1e308, -1e308, "NaN", "", "a" * 300, "\ud800", "\0", "٣", "${x}", "0001-01-01T00:00",
    "9999-12-31T23:59:59+14:00", [], {}, [[]], {"a": {"b": [1]}}, [{"kind": "x"}], "../../etc/passwd", "9" * 5000, 0.1, "1e400",
    {"kind": ["x"]}, {"kind": {}}, {"by": 1e300, "longer": -1e300}, "FREQ=DAILY;INTERVAL=0",
]  # fmt: skip
RAW = ["NaN", "Infinity", "-Infinity", "1e999", "[" * 500, '"\\ud800"']
BODIES = [
    b"", b"\xff\xfe", b"{", b"[]", b"a: &a [*a]", b"x: !!int abc", b"9" * 5000, b"\0", b"{" * 3000, b"a: " * 400,
    b"BEGIN:VCALENDAR\nEND:VCALENDAR", b"time,requests\n1,2\n3,nan",
    b"BEGIN:VCALENDAR\nBEGIN:VEVENT\nSUMMARY:at least 3\nDTSTART;TZID=Mars/Base:20250707T000000\nEND:VEVENT\nEND:VCALENDAR",
]  # fmt: skip
PATHS = [
    "policies.add-on-cpu.threshold", "maximum", "calendar", "policies", "hands", "calendar.release-day.from", "demand",
    "calendar.release-day.repeat", "template", "work.kind", "policies.add-on-cpu.metric", "launch.tags", "promises", "hands.0",
    "policies.add-on-cpu.bands", "layers", "layers.0", "layers.3.at", "incidents", "nothing", "work", ".", "policies..",
]  # fmt: skip
KNOWN = {"plan_id": "1", "group": "booking-web", "number": "1", "demand": "summer-week", "template": "web-front"}


@pytest.fixture(scope="module")
def client(tmp_path_factory):
    store = Store(tmp_path_factory.mktemp("fuzz") / "jostle.sqlite")
    store.add_plan(demo_plan().model_copy(update={"days": 0.2}))
    app, anything = create_app(store), {"If-Match": "*"}
    with TestClient(app, base_url="http://127.0.0.1", headers=anything, raise_server_exceptions=False) as made:
        yield made


class Drawn:
    """One request drawn for an operation: sound but for one thing."""

    def __init__(self, document, chance):
        self.schemas, self.chance = document["components"]["schemas"], chance
        self.operations = [
            (method, path, operation)
            for path, methods in sorted(document["paths"].items())
            for method, operation in sorted(methods.items())
            # Streams go on as long as somebody listens
            if method != "delete" and not path.endswith("/events")
        ]

    def resolved(self, schema):
        while "$ref" in schema:
            schema = self.schemas[schema["$ref"].rsplit("/", 1)[1]]
        return schema

    def sound(self, schema):
        schema = self.resolved(schema)
        for known in ("default", "const"):
            if known in schema:
                return schema[known]
        if "enum" in schema:
            return schema["enum"][0]
        if "anyOf" in schema:
            return self.sound(schema["anyOf"][0])
        if schema.get("type") == "object":
            return {k: self.sound(v) for k, v in schema.get("properties", {}).items() if k in schema.get("required", [])}
        return {"array": [], "integer": 1, "number": 1.0, "boolean": False, "string": "x"}.get(schema.get("type"))

    def request(self):
        chance = self.chance
        method, path, operation = chance.choice(self.operations)
        parameters = operation.get("parameters", [])
        query = {p["name"]: self.sound(p["schema"]) for p in parameters if p["in"] == "query" and p.get("required")}
        places = dict(KNOWN) | {"name": "summer-week" if "demands" in path else "web-front"}
        content = None
        kinds = operation.get("requestBody", {}).get("content", {})
        if "application/json" in kinds:
            content = self.body(kinds["application/json"]["schema"])
        elif kinds or method != "get":
            content = chance.choice(BODIES)
        if parameters and (content is None or chance.random() < 0.2):
            spoilt = chance.choice(parameters)
            value = chance.choice([one for one in NASTY if isinstance(one, str | int | float)])
            (query if spoilt["in"] == "query" else places)[spoilt["name"]] = value
        for name, value in places.items():
            path = path.replace(f"{{{name}}}", quote(str(value)[:300], safe="", errors="replace") or "x")
        query = {k: str(v).encode(errors="replace").decode() if isinstance(v, str) else v for k, v in query.items()}
        return method.upper(), path, query, content

    def body(self, schema):
        chance, whole = self.chance, self.sound(schema) or {}
        fields = list(self.resolved(schema).get("properties", {}))
        if "changes" in fields and chance.random() < 0.6:
            op = chance.choice(["set", "add", "remove", "move", "skip"])
            change = {"op": op, "path": chance.choice(PATHS), "value": chance.choice(NASTY)}
            return json.dumps({**whole, "changes": [change]}).encode()
        field = chance.choice(fields or ["x"])
        if chance.random() < 0.2:
            return json.dumps({**whole, field: "@"}).replace('"@"', chance.choice(RAW)).encode()
        return json.dumps({**whole, field: chance.choice(NASTY)}).encode()


def test_every_answer_is_in_words(client):
    drawn = Drawn(client.get("/api/openapi.json").json(), random.Random(os.environ.get("JOSTLE_SEED", "7")))
    refused = 0
    for _ in range(REQUESTS):
        method, path, query, content = drawn.request()
        answer = client.request(method, path, params=query, content=content, headers={"content-type": "application/json"})
        told = (method, path[:120], str(query)[:200], (content or b"")[:300])
        assert answer.status_code < 500, told
        if method != "get" and answer.status_code < 300:
            assert client.get("/api/plans/1").status_code == 200, told
        if answer.status_code >= 400:
            refused += 1
            assert answer.headers["content-type"].startswith("application/problem+json"), told
            assert answer.json()["detail"], told
    assert refused > REQUESTS / 5
    assert client.get("/api/plans/1").status_code == 200
