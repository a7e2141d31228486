"""Light requests, and the clock of what lives, while heavy work is asked for beside them."""

import json
import random
import tempfile
import threading
import time
from pathlib import Path

import httpx2

from jostle.formats.shipped import demo_plan
from tests.bench.measuring import Size, late, say
from tests.patience import PATIENCE
from tests.provider.serving import free_port
from tests.soak.__main__ import Service

GROUP, PACE = "booking-web", 60.0
LIGHT = ("/api/plans", "/api/plans/1", f"/api/plans/1/groups/{GROUP}/takes", "/api/plans/1/network")


def light_beside_heavy(size: Size) -> None:
    """A year of many groups is rehearsed, a search runs, a plan is imported, and a clock goes on."""
    demo = demo_plan()
    many = {f"{GROUP}-{number}": demo.groups[GROUP] for number in range(size.groups)}
    plan = demo.model_copy(update={"groups": many, "days": size.long, "tick": 60.0, "watches": [], "budgets": []})
    document = plan.model_dump_json()
    with tempfile.TemporaryDirectory() as folder:
        service = Service(Path(folder), free_port())
        try:
            with httpx2.Client(base_url=service.url, timeout=20 * PATIENCE, trust_env=False) as client:
                _measure(client, document, size)
        finally:
            service.kill()


def _measure(client: httpx2.Client, document: str, size: Size) -> None:
    year = client.post("/api/plans", content=document, headers={"Content-Type": "application/json"}).json()["id"]
    before = client.put("/api/plans/1/live/clock", json={"running": True, "pace": PACE}).json()["now"]
    heavy = [
        lambda: client.get(f"/api/plans/{year}/groups"),
        lambda: client.post(f"/api/plans/1/groups/{GROUP}/searches", json={"sets": min(200, size.sets), "seeds": 3}),
        lambda: client.post(f"/api/plans/{year}/import", content=document, headers={"Content-Type": "application/json"}),
    ]
    answers: list[int] = []
    under_way = [threading.Thread(target=lambda ask=ask: answers.append(ask().status_code)) for ask in heavy]
    chance, taken = random.Random(1), []
    began = time.perf_counter()
    for one in under_way:
        one.start()
    while any(one.is_alive() for one in under_way) or len(taken) < size.rounds:
        asked = time.perf_counter()
        client.get(chance.choice(LIGHT)).raise_for_status()
        taken.append(1000 * (time.perf_counter() - asked))
        time.sleep(0.05)
    spent = time.perf_counter() - began
    went_on = (client.get("/api/plans/1/live").json()["now"] - before) / 1000 / PACE
    kilobytes = len(json.dumps(document)) / 1000
    say(f"Light requests, {size.groups} groups of {size.long:g} days and a {kilobytes:.0f} kB plan beside", late(taken))
    say(f"The clock meanwhile, answers {sorted(answers)}", f"{100 * went_on / spent:8.0f} % of its pace, over {spent:.0f} s")


PARTS = (light_beside_heavy,)
