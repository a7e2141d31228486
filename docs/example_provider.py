"""A provider in one file: a rack of made-up machines, for whoever wants to drive a cloud of their own.

Run: python docs/example_provider.py 8641, and try it: jostle provider check http://127.0.0.1:8641
"""

import asyncio
import sys
from dataclasses import dataclass

import uvicorn
from fastapi import FastAPI, Header, Request
from fastapi.exceptions import RequestValidationError
from fastapi.responses import JSONResponse, PlainTextResponse, StreamingResponse
from pydantic import BaseModel, Field

EVERY, BOOT, WARM, DRAIN, LOAD, EACH = 60.0, 40.0, 20.0, 30.0, 120.0, 50.0
FIRST = 1_752_000_000.0


@dataclass
class Machine:
    number: int
    state: str
    requested: float
    drains: float | None = None

    def told(self) -> dict:
        up = self.state in ("warming", "serving", "draining")
        return {
            "number": self.number, "name": f"rack-{self.number + 1}", "state": self.state, "zone": "cellar", "machine": "box",
            "version": 1, "price_per_hour": "0.10", "address": f"10.9.0.{self.number % 250 + 1}", "requested": self.requested,
            "booted": self.requested + BOOT if up else None, "drains": self.drains,
            "serves": self.requested + BOOT + WARM if self.state in ("serving", "draining") else None
        }  # fmt: skip


class Rack:
    """One group. Nothing here survives a stop; a real cloud does."""

    def __init__(self) -> None:
        self.now = self.answered = self.goal = self.arrived = self.served = 0.0
        self.machines = [Machine(0, "serving", -BOOT - WARM), Machine(1, "serving", -BOOT - WARM)]
        self.done: set[str] = set()
        self.events: list[dict] = []
        self.readings: list[tuple[float, float, float]] = []

    def become(self, one: Machine, state: str, told: str) -> None:
        one.state = state
        self.events.append({
            "specversion": "1.0", "id": f"rack/{len(self.events)}", "source": "/groups/rack", "time": f"{FIRST + self.now:.0f}",
            "type": f"jostle.provider.instance.{told}", "datacontenttype": "application/json", "data": {"instance": one.number},
        })  # fmt: skip

    def there(self, *states: str) -> list[Machine]:
        return [one for one in self.machines if one.state in (states or ("booting", "warming", "serving", "draining"))]

    def go_on(self) -> None:
        """Let time pass, second by second, as far as the clock and the keeper allow."""
        until = min(self.goal, self.answered + EVERY)
        while self.now < until - 1e-9:
            self.now = min(until, self.now + 1.0)
            for one in self.there():
                age = self.now - one.requested
                if one.state == "booting" and age >= BOOT:
                    one.state = "warming"
                if one.state == "warming" and age >= BOOT + WARM:
                    self.become(one, "serving", "serves")
                if one.state == "draining" and self.now >= one.drains + DRAIN:
                    self.become(one, "gone", "gone")
            serving = len(self.there("serving"))
            self.arrived, self.served = self.arrived + LOAD, self.served + min(LOAD, EACH * serving)
            if self.now % EVERY == 0:
                self.readings.append((self.now, min(1.0, LOAD / EACH / serving) if serving else None, serving))

    def find(self, number: int) -> Machine:
        for one in self.there():
            if one.number == number:
                return one
        raise LookupError(f"there is no instance {number}")

    def once(self, key: str) -> bool:
        again = key in self.done
        self.done.add(key)
        return again


class Order(BaseModel):
    key: str = ""
    number: int = Field(default=0, ge=0, le=100)
    leaving: list[dict[str, int | bool]] = []
    act: str = ""
    time: float = 0.0
    until: float = 0.0


def refuse(status: int, why: str) -> JSONResponse:
    return JSONResponse({"title": "Refused", "status": status, "detail": why}, status, media_type="application/problem+json")


def create() -> FastAPI:
    app, rack = FastAPI(), Rack()
    app.exception_handler(LookupError)(lambda request, error: refuse(404, str(error.args[0])))
    app.exception_handler(RequestValidationError)(lambda request, error: refuse(422, str(error.errors()[0]["msg"])))

    @app.middleware("http")
    async def known(request: Request, go_on):
        path = request.url.path
        if path.startswith("/groups/") and not path.startswith("/groups/rack/"):
            return refuse(404, "there is one group here, and it is called rack")
        return await go_on(request)

    @app.get("/")
    def describe():
        note = {"zones": ["cellar"], "metrics": ["cpu"], "period": EVERY, "evaluate_every": EVERY}
        box = {"vcpus": 2, "memory_gib": 4, "price_per_hour": "0.10", "quota": None}
        had = {"groups": {"rack": note}, "machines": {"box": box}, "images": []}
        return {"protocol": "jostle-provider", "version": 1, "name": "a rack", "can": ["clock"], "first": FIRST, **had}

    @app.get("/clock")
    def clock():
        due = ["rack"] if rack.now >= rack.answered + EVERY - 1e-6 else []
        return {"goal": rack.goal, "pace": 0.0, "groups": {"rack": rack.now}, "due": due}

    @app.post("/clock")
    def set_clock(order: Order):
        rack.goal = max(rack.goal, order.until)
        return rack.go_on() or clock()

    @app.get("/groups/rack/counts")
    def counts():
        present = rack.there("booting", "warming", "serving")
        return {"time": rack.now, "present": len(present), "serving": len(rack.there("serving")), "pinned": 0}

    @app.get("/groups/rack/instances")
    def instances():
        return [one.told() for one in rack.there()]

    @app.get("/groups/rack/readings")
    def readings(first: int = 0):
        at, cpu, metered = ([row[field] for row in rack.readings[first:]] for field in range(3))
        return {"first": first, "at": at, "metered": metered, "values": [[cpu]]}

    @app.get("/groups/rack/metrics")
    def metrics():
        return PlainTextResponse(f"# TYPE rack_cpu gauge\nrack_cpu {rack.readings[-1][1] if rack.readings else 0}\n# EOF\n")

    @app.get("/groups/rack/load")
    def load():
        return {"time": rack.now, "arrived": rack.arrived, "served": rack.served, "failed": rack.arrived - rack.served}

    @app.post("/groups/rack/more", status_code=202)
    def more(order: Order):
        again = rack.once(order.key)
        for _ in range(0 if again else order.number):
            rack.machines.append(Machine(len(rack.machines), "booting", rack.now))
        return {"accepted": True, "time": rack.now, "again": again}

    @app.post("/groups/rack/fewer", status_code=202)
    def fewer(order: Order):
        machines = [] if order.key in rack.done else [rack.find(int(one["number"])) for one in order.leaving]
        again = rack.once(order.key)
        for one in machines:
            one.drains = rack.now
            rack.become(one, "draining", "leaves")
        return {"accepted": True, "time": rack.now, "again": again}

    @app.post("/groups/rack/instances/{number}", status_code=202)
    def act(number: int, order: Order):
        if order.act != "kill":
            return refuse(409, f"{order.act} cannot be done here; kill can")
        if not (again := rack.once(order.key)):
            rack.find(number).state = "gone"
        return {"accepted": True, "time": rack.now, "again": again}

    @app.post("/groups/rack/answered")
    def answered(told: Order):
        if told.time > rack.now + 1e-6:
            return refuse(409, f"it is {rack.now:g} s; {told.time:g} s has not come yet")
        rack.answered = max(rack.answered, told.time)
        rack.go_on()
        return {"time": rack.now, "due": bool(clock()["due"]), "counts": counts(), "readings": readings()}

    @app.get("/events")
    async def events(last_event_id: int = Header(default=-1)):
        async def stream(sent: int):
            while True:
                for number, event in list(enumerate(rack.events))[sent:]:
                    yield f"id: {number}\ndata: {JSONResponse(event).body.decode()}\n\n"
                    sent = number + 1
                yield ": waiting\n\n"
                await asyncio.sleep(0.2)

        return StreamingResponse(stream(last_event_id + 1), media_type="text/event-stream")

    return app


if __name__ == "__main__":
    uvicorn.run(create(), port=int(sys.argv[1]), log_level="warning")
