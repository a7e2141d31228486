"""Serving on this machine: settings, the port, the demo data."""

import ctypes
import sys
import threading
import time
from contextlib import ExitStack, suppress
from datetime import datetime
from pathlib import Path

import structlog
from platformdirs import user_data_path
from pydantic import Field, ValidationError
from pydantic_settings import BaseSettings, SettingsConfigDict

from jostle import HOST, PORT
from jostle.api.app import WEB, create_app
from jostle.api.live_desk import PACES, SEED, LiveDesk
from jostle.core.heap import MIB, tune_heap
from jostle.demo import MIX
from jostle.formats.shipped import demo_plan
from jostle.live.live import Begun
from jostle.provider.stream import ServeError, Service, check_port
from jostle.records.backups import back_up_today, what_to_do
from jostle.records.in_use import InUse, alone_with
from jostle.records.store import RecordsDamaged, RecordsError, Store

# Seconds after which a thread that comes back from the engine is let in; the usual 5 ms add up over an edit
SWITCH_AFTER = 0.001
# s between two times that what is free is given back
KEEP_SMALL_EVERY = 2.0
# s between two times that all of the records is looked at, and a day's copy made
LOOK_AT_RECORDS_EVERY = 3600.0
# Of the strips that are drawn while the engine is loaded
BUCKETS = 100
# Of mman.h: the pages can be read again from where they came
# Groups of the demo that stand in the zone that was lost
LOST_A_ZONE = ("booking-web", "fare-quote", "live-track")
# The group of which a part comes to be bought as spot
MIXED = "booking-web"
log = structlog.get_logger()


class Settings(BaseSettings):
    """From the environment: JOSTLE_PORT, JOSTLE_DATA and JOSTLE_PRIVATE_TARGETS."""

    model_config = SettingsConfigDict(env_prefix="JOSTLE_")

    port: int = Field(default=PORT, ge=1, le=65535)
    data: Path = user_data_path("jostle")
    private_targets: bool = Field(default=False, description="Whether notices are sent to this machine and its network too")


def serve(port: int | None, data: Path | None, with_demo: bool) -> None:
    """Serve until stopped. Raises ServeError where the port is taken, the page was not built, or another serves the records."""
    given = {name: value for name, value in (("port", port), ("data", data)) if value is not None}
    try:
        settings = Settings(**given)  # type: ignore[arg-type]
    except ValidationError as error:
        fault = error.errors()[0]
        raise ServeError(f"{'.'.join(map(str, fault['loc']))}: {fault['input']!r}: {fault['msg']}") from None
    check_port(settings.port)
    if not (WEB / "index.html").exists():
        raise ServeError("The page has not been built; run make build first.")
    # The memory of a rehearsal's arrays is given back as soon as they are dropped, rather than kept for each thread.
    tune_heap(MIB, 8 * MIB, arenas=2)
    with ExitStack() as held:
        try:
            held.enter_context(alone_with(settings.data))
        except InUse as error:
            raise ServeError(str(error)) from None
        except OSError as error:
            raise ServeError(f"{error}; name a folder that this user may write to with --data") from None
        _serve(settings, with_demo)


def _serve(settings: Settings, with_demo: bool) -> None:
    store = open_records(settings.data)
    app = create_app(store, settings.private_targets)
    if with_demo and not store.plans():
        _load_demo(app.state.live_desk)
        log.info("demo data loaded", file=str(settings.data / "jostle.sqlite"))
    sys.setswitchinterval(SWITCH_AFTER)
    threading.Thread(target=_keep_small, daemon=True, name="memory").start()
    threading.Thread(target=_keep_safe_daily, args=(store,), daemon=True, name="records").start()
    log.info("serving", url=f"http://{HOST}:{settings.port}/")
    app.state.watch_desk.wake()
    Service(app, settings.port).run()


def _load_demo(desk: LiveDesk) -> None:
    """The demo plan, its groups kept since the first of the month, but one; a zone was lost on the fourth, boots were slow on the
    morning of the eighth, and since then a part of booking-web is bought as spot."""
    store = desk.desk.store
    kept = store.plan(store.add_plan(demo_plan()))
    zone = kept.plan.zone
    begun = Begun(at=datetime(2025, 7, 1, tzinfo=zone), days=31, seed=SEED, left_alone=["tryout"])
    running = desk.begin(kept, begun, datetime(2025, 7, 4, 11, 20, tzinfo=zone).timestamp())
    for group in LOST_A_ZONE:
        desk.lay(running, group, {"act": "trouble", "kind": "zone_lost", "zone": "skerry", "for": 2400})
    desk.step(running, datetime(2025, 7, 8, 7, tzinfo=zone).timestamp())
    for group in LOST_A_ZONE:
        desk.lay(running, group, {"act": "trouble", "kind": "slow_boots", "amount": 4, "for": 10800})
    document = kept.plan.groups[MIXED].model_dump(mode="json") | {"buying": MIX}
    number = store.save_arrangement(kept.id, MIXED, document, "A part on spot, for what the summer costs")
    desk.lay(running, MIXED, {"act": "put to work", "arrangement": number, "document": document})
    desk.step(running, datetime(2025, 7, 10, 8, tzinfo=zone).timestamp())
    desk.set_clock(running, PACES[2], True)


def _keep_small() -> None:
    """Give back what is free, or was needed once, now and again while the service runs."""
    while True:
        _give_holes_back()
        time.sleep(KEEP_SMALL_EVERY)


def _give_holes_back() -> None:
    """Have glibc give back the pages that are free between pieces in use."""
    with suppress(OSError, AttributeError):
        ctypes.CDLL(None).malloc_trim(0)


def open_records(folder: Path) -> Store:
    """The records in a folder. Raises ServeError where they cannot be used."""
    path = folder / "jostle.sqlite"
    try:
        return Store(path)
    except RecordsDamaged as error:
        raise ServeError(f"{error}; {what_to_do(path)}") from None
    except RecordsError as error:
        raise ServeError(str(error)) from None


def keep_safe(store: Store) -> None:
    """Look at all that is kept, and copy it where it is sound and that was not done today."""
    try:
        if damage := store.damage():
            log.error("records damaged", damage=damage, todo=what_to_do(store.path))
        elif (copy := back_up_today(store)) is not None:
            log.info("records copied", file=str(copy))
    except (RecordsError, OSError) as error:
        log.error("records not copied", said=str(error))


def _keep_safe_daily(store: Store) -> None:
    while True:
        keep_safe(store)
        time.sleep(LOOK_AT_RECORDS_EVERY)
