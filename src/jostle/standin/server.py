"""The provider protocol over HTTP, spoken by the stand-in's world."""

import time
from collections.abc import AsyncIterator
from contextlib import asynccontextmanager
from threading import Event as Flag
from threading import RLock, Thread
from typing import Annotated, Any

import anyio
import numpy as np
from fastapi import FastAPI, Header, Query, Request, Response
from fastapi.exceptions import RequestValidationError
from starlette.middleware.trustedhost import TrustedHostMiddleware

from jostle.core.decide.rules import samples
from jostle.core.engine.name import name_of
from jostle.core.plan.problem import PlanError
from jostle.core.rehearsal.verdict import Figures, verdict
from jostle.formats.readings_out import write_readings
from jostle.provider.details import RESPONSES, problem_answer
from jostle.provider.message import (
    Accepted,
    Answered,
    ClockNote,
    ClockOrder,
    CloudEvent,
    CountsNote,
    Description,
    Fault,
    Fewer,
    GroupNote,
    InstanceNote,
    LoadNote,
    MachineNote,
    MetricNote,
    More,
    Noted,
    OneAct,
    ReadingsNote,
    Steer,
    VersionNote,
)
from jostle.provider.origin import NoForeignPages
from jostle.provider.provider import NotThere, Readings, Refused
from jostle.provider.stream import EventStream
from jostle.standin.ground import address_of, attachments_of
from jostle.standin.world import Place, World

MOST_READINGS = 5000
# Seconds of ours between two looks of the clock
BEAT = 0.05
LONGEST_SLOWNESS = 5.0


def create_standin(world: World | None) -> FastAPI:
    """The application. Without a world it only describes itself."""

    @asynccontextmanager
    async def beat(app: FastAPI) -> AsyncIterator[None]:
        over = Flag()
        if world is not None:
            Thread(target=_run_clock, args=(world, lock, over), daemon=True).start()
        yield
        over.set()

    app = FastAPI(title="Provider protocol", version="1", lifespan=beat, description="What a keeper asks of a provider.")
    app.add_middleware(NoForeignPages)
    app.add_middleware(TrustedHostMiddleware, allowed_hosts=["127.0.0.1", "localhost"])
    app.state.streams = set()
    lock = RLock()
    _install(app)
    route: dict[str, Any] = {"responses": RESPONSES}

    def the_world() -> World:
        assert world is not None
        return world

    def place_of(group: str) -> Place:
        return the_world().place(group)

    def acted(group: str, again: bool) -> Accepted:
        place = place_of(group)
        now = place.ground.time
        if now < place.slow_until:
            time.sleep(min(LONGEST_SLOWNESS, place.slow_by))
        if now < place.mute_until:
            raise TimeoutError
        return Accepted(time=now, again=again)

    @app.get("/", **route)
    def describe() -> Description:
        """What the provider has and can."""
        one = the_world()
        return Description(
            name="the stand-in",
            can=["clock", "load", "faults", "restart", "pin", "stress", "mending", "decisions", "figures"],
            first=one.clock.first,
            groups={name: _group_note(place) for name, place in one.places.items()},
            machines={
                name: MachineNote(
                    vcpus=machine.vcpus,
                    memory_gib=machine.memory_gib,
                    price_per_hour=str(machine.price_per_hour),
                    quota=machine.quota,
                )
                for name, machine in one.plan.machines.items()
            },
            images=sorted({place.crew.launch.fields.image or "" for place in one.places.values()} - {""}),
        )

    @app.get("/clock", **route)
    def show_clock() -> ClockNote:
        one = the_world()
        return ClockNote(
            goal=one.goal,
            pace=one.pace,
            groups={name: place.ground.time for name, place in one.places.items()},
            due=[name for name, place in one.places.items() if place.due],
        )

    @app.post("/clock", **route)
    def set_clock(order: ClockOrder) -> ClockNote:
        """Go to an instant at once, or at a pace from now on. It never goes past an instant that a keeper has not answered."""
        with lock:
            the_world().set_clock(order.until, order.pace)
            return show_clock()

    @app.get("/groups/{group}/counts", **route)
    def counts(group: str) -> CountsNote:
        with lock:
            return _counts(place_of(group))

    @app.get("/groups/{group}/instances", **route)
    def instances(group: str) -> list[InstanceNote]:
        """Those that are not gone, the oldest first."""
        with lock:
            return _instances(place_of(group))

    @app.get("/groups/{group}/readings", **route)
    def readings(group: str, first: Annotated[int, Query(ge=0, le=10**9)] = 0) -> ReadingsNote:
        with lock:
            return _readings(place_of(group), first)

    @app.get("/groups/{group}/metrics", response_class=Response, **route)
    def metrics(group: str) -> Response:
        """The newest reading of each metric as OpenMetrics text."""
        with lock:
            place = place_of(group)
            told = _readings(place, max(0, len(place.readings(0).metered) - 1))
            first = the_world().clock.first
            names, zones = [one.name for one in _group_note(place).metrics], place.crew.launch.zones
        text = write_readings(group, [first + at for at in told.at], told.values, names, zones)
        return Response(text, media_type="application/openmetrics-text; version=1.0.0; charset=utf-8")

    @app.get("/groups/{group}/load", **route)
    def load(group: str) -> LoadNote:
        with lock:
            place = place_of(group)
            result = place.record().result
            requests = place.crew.group.work.kind == "requests"
            return LoadNote(
                time=place.ground.time,
                arrived=result.arrived,
                served=result.tally("served"),
                failed=result.tally("failed"),
                latency_p50=result.latency(0.5) if requests else None,
                latency_p95=result.latency(0.95) if requests else None,
            )

    @app.get("/groups/{group}/figures", **route)
    def figures(group: str) -> Figures:
        """What the whole span came to, as a rehearsal's figures are told."""
        with lock:
            return verdict(place_of(group).record()).figures

    @app.post("/groups/{group}/more", status_code=202, **route)
    def more(group: str, order: More) -> Accepted:
        """Have so many more, stopped ones first; and try again for those that were asked for before and not taken."""
        with lock:
            again = the_world().more(group, order)
        return acted(group, again)

    @app.post("/groups/{group}/fewer", status_code=202, **route)
    def fewer(group: str, order: Fewer) -> Accepted:
        """Have these drain and leave."""
        with lock:
            again = the_world().fewer(group, order)
        return acted(group, again)

    @app.post("/groups/{group}/instances/{number}", status_code=202, **route)
    def one(group: str, number: int, order: OneAct) -> Accepted:
        """Do one thing to one instance."""
        with lock:
            again = the_world().one(group, number, order)
        return acted(group, again)

    @app.post("/groups/{group}/decisions", **route)
    def enter(group: str, told: Answered) -> dict[str, int]:
        """Take down what a keeper decided, before its orders; `by` is the policy that changed the count."""
        with lock:
            return {"by": the_world().enter(group, told)}

    @app.post("/groups/{group}/answered", **route)
    def answered(group: str, told: Answered) -> Noted:
        """The keeper has done with an instant; the clock goes on. Tells where the group stands then."""
        with lock:
            the_world().answer(group, told)
            place = place_of(group)
            return Noted(
                time=place.ground.time,
                due=place.due,
                counts=_counts(place),
                readings=_readings(place, told.from_reading),
            )

    @app.post("/faults", status_code=202, **route)
    def fault(order: Fault) -> ClockNote:
        """Have something go wrong from now on."""
        with lock:
            the_world().fault(order)
            return show_clock()

    @app.post("/load", status_code=202, **route)
    def steer(order: Steer) -> ClockNote:
        """Have so many times the demand come from now on."""
        with lock:
            the_world().steer(order)
            return show_clock()

    @app.get("/events", response_class=EventStream, **route)
    def stream(group: str | None = None, last_event_id: Annotated[str | None, Header(max_length=4000)] = None) -> EventStream:
        """CloudEvents as server-sent events, from the beginning or from after `Last-Event-ID` on."""
        one = the_world()
        names = list(one.places) if group is None else [place_of(group).group]
        return EventStream(_stream(one, lock, names, _cursor(names, last_event_id)))

    return app


def _run_clock(world: World, lock: RLock, over: Flag) -> None:
    """Let the clock go at its pace until the service is over."""
    before = time.monotonic()
    while not over.wait(BEAT):
        now = time.monotonic()
        if world.pace > 0:
            with lock:
                world.set_clock(world.goal + world.pace * (now - before), None)
        before = now


def _group_note(place: Place) -> GroupNote:
    group = place.crew.group
    names = samples([name for name, _ in place.crew.outside])
    metrics = [MetricNote.model_validate({"name": name, "unit": unit}) for name, unit in names.items()]
    return GroupNote(
        zones=place.crew.launch.zones,
        metrics=metrics,
        period=group.meters.period,
        evaluate_every=group.evaluate_every,
        weights=place.crew.weights,
        host=group.host or None,
    )


def _counts(place: Place) -> CountsNote:
    told = place.ground.counts()._asdict()
    told["versions"] = [VersionNote(**one._asdict()) for one in told["versions"]]
    told["quota"] = told["quota"] if told["quota"] < 2**30 else None
    return CountsNote(time=place.ground.time, **told)


def _instances(place: Place) -> list[InstanceNote]:
    launch, attached = place.crew.launch, attachments_of(place.crew)
    found = []
    for one in place.ground.instances():
        serves = one.state == "serving"
        told = one.__dict__ | {
            "zone": launch.zones[one.zone],
            "machine": place.crew.machine_of(2 * one.machine),
            "requested": None if one.requested < 0 else one.requested,
        }
        found.append(
            InstanceNote(
                name=_name(place, one.number),
                price_per_hour=str(place.crew.tariff_of(one.machine).running),
                healthy=True if serves else False if one.state == "broken" else None,
                address=address_of(one.zone, one.number),
                attached=attached if serves or one.state == "draining" else [],
                **told,
            )
        )
    return found


def _name(place: Place, number: int) -> str:
    ground = place.ground
    row = ground.state.instances.view(np.ndarray)[number]
    return name_of(place.crew, place.group, int(ground.setup.of("seed")), row, number) or f"{place.group}-{number + 1}"


def _readings(place: Place, first: int) -> ReadingsNote:
    told: Readings = place.readings(first)
    number = min(len(told.metered), MOST_READINGS)
    period = place.crew.group.meters.period
    values = told.values[:, :, :number].astype(np.float64)
    plain = values.astype(object)
    plain[np.isnan(values)] = None
    return ReadingsNote(
        first=told.first,
        at=[(told.first + n + 1) * period for n in range(number)],
        metered=[float(one) for one in told.metered[:number]],
        values=plain.tolist(),
    )


def _cursor(names: list[str], last: str | None) -> dict[str, int]:
    """How many events of each group were sent before; all are sent anew where that cannot be read."""
    sent = dict.fromkeys(names, 0)
    for part in (last or "").split(";"):
        name, _, number = part.partition("=")
        if name in sent and number.isascii() and number.isdecimal() and len(number) < 10:
            sent[name] = int(number)
    return sent


async def _stream(world: World, lock: RLock, names: list[str], sent: dict[str, int]) -> AsyncIterator[bytes]:
    while True:
        ready = await anyio.to_thread.run_sync(_ready, world, lock, names, sent)
        for name, number, event in ready:
            sent[name] = number + 1
            cursor = ";".join(f"{one}={many}" for one, many in sent.items())
            yield f"id: {cursor}\nevent: {event.type}\ndata: {event.model_dump_json()}\n\n".encode()
        if not ready:
            yield b": nothing more for now\n\n"
            await anyio.to_thread.run_sync(_wait, world)


def _ready(world: World, lock: RLock, names: list[str], sent: dict[str, int]) -> list[tuple[str, int, CloudEvent]]:
    """Events that were not sent yet."""
    with lock:
        return [
            (name, number, _cloud(name, number, event.kind, event.time, event.text, who))
            for name in names
            for number, event, who in world.happened(name, sent[name])
        ]


def _wait(world: World) -> None:
    """Until something happens, a second at the most."""
    with world.changed:
        world.changed.wait(1.0)


_OF_ONE = ("serves", "leaves", "gone", "broke", "restarts", "replaced", "launched", "stopped")


def _cloud(group: str, number: int, kind: str, at: str, text: str, who: int) -> CloudEvent:
    about = {"instance": who} if who >= 0 and kind in _OF_ONE else {}
    return CloudEvent(
        id=f"{group}/{number}",
        source=f"/groups/{group}",
        type=f"jostle.provider.{'instance.' if about else ''}{kind.replace(' ', '_')}",
        time=at,
        data={"group": group, "text": text, **about},
    )


def _install(app: FastAPI) -> None:
    @app.exception_handler(NotThere)
    def _(request: Request, error: NotThere) -> Response:
        return problem_answer(404, "Not there", str(error))

    @app.exception_handler(Refused)
    def _(request: Request, error: Refused) -> Response:
        return problem_answer(409, "Refused", str(error))

    @app.exception_handler(PlanError)
    def _(request: Request, error: PlanError) -> Response:
        return problem_answer(422, "Not usable", str(error))

    @app.exception_handler(RequestValidationError)
    def _(request: Request, error: RequestValidationError) -> Response:
        said = "; ".join(
            f"{'.'.join(map(str, one['loc']))}: {str(one.get('input'))[:80]}: {one['msg']}" for one in error.errors()
        )
        return problem_answer(422, "Not usable", said)

    @app.exception_handler(TimeoutError)
    def _(request: Request, error: TimeoutError) -> Response:
        return problem_answer(504, "No answer", "the act took too long; ask again under the same key")

    @app.exception_handler(OSError)
    def _(request: Request, error: OSError) -> Response:
        return problem_answer(507, "No room", f"nothing was done, since it could not be written down: {error}")
