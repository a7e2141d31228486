"""The application: routes, errors, and the pages it serves."""

import secrets
from collections.abc import AsyncIterator
from contextlib import asynccontextmanager
from pathlib import Path

import anyio.to_thread
from fastapi import FastAPI
from fastapi.responses import HTMLResponse
from fastapi.staticfiles import StaticFiles
from starlette.exceptions import HTTPException
from starlette.middleware.gzip import GZipMiddleware
from starlette.middleware.trustedhost import TrustedHostMiddleware

from jostle import __version__
from jostle.api import (
    arrangement_routes,
    band_routes,
    composed_routes,
    costs_routes,
    demand_routes,
    elsewhere_routes,
    file_routes,
    fit_routes,
    frame_routes,
    group_routes,
    import_routes,
    live_routes,
    machine_routes,
    many_routes,
    network_routes,
    plan_routes,
    problem,
    reading_routes,
    rehearsal_routes,
    single_routes,
    template_routes,
    tune_routes,
    watch_routes,
)
from jostle.api.desk import Desk
from jostle.api.elsewhere_desk import ElsewhereDesk
from jostle.api.guard import Guard, policy
from jostle.api.live_desk import LiveDesk
from jostle.api.outside import outside
from jostle.api.tune_desk import TuneDesk
from jostle.api.watch_desk import WatchDesk
from jostle.records.store import Store

# What is answered at once; what takes long has its turn, see `api.turns`
THREADS = 24
WEB = Path(__file__).parent.parent / "web"


@asynccontextmanager
async def _serving(app: FastAPI) -> AsyncIterator[None]:
    anyio.to_thread.current_default_thread_limiter().total_tokens = THREADS
    elsewhere: ElsewhereDesk | None = getattr(app.state, "elsewhere_desk", None)
    if elsewhere is not None:
        elsewhere.come_back()
    yield
    if elsewhere is not None:
        elsewhere.stop()


def create_app(store: Store | None, private_targets: bool = False) -> FastAPI:
    """The service over a store. Without a store it can only describe itself. `private_targets` lets notices be sent to this
    machine and its network."""
    app = FastAPI(
        title="Jostle",
        version=__version__,
        docs_url=None,
        redoc_url=None,
        openapi_url="/api/openapi.json",
        lifespan=_serving,
        description="Rehearse a week of an instance group before it happens.",
    )
    app.add_middleware(TrustedHostMiddleware, allowed_hosts=["127.0.0.1", "localhost"])
    app.add_middleware(GZipMiddleware, minimum_size=200_000, compresslevel=1)
    app.add_middleware(Guard)
    problem.install(app)
    app.include_router(plan_routes.router)
    app.include_router(group_routes.router)
    app.include_router(rehearsal_routes.router)
    app.include_router(single_routes.router)
    app.include_router(demand_routes.router)
    app.include_router(arrangement_routes.router)
    app.include_router(band_routes.router)
    app.include_router(elsewhere_routes.router)
    app.include_router(file_routes.router)
    app.include_router(fit_routes.router)
    app.include_router(frame_routes.router)
    app.include_router(import_routes.router)
    app.include_router(composed_routes.router)
    app.include_router(costs_routes.router)
    app.include_router(live_routes.router)
    app.include_router(machine_routes.router)
    app.include_router(many_routes.router)
    app.include_router(network_routes.router)
    app.include_router(reading_routes.router)
    app.include_router(template_routes.router)
    app.include_router(tune_routes.router)
    app.include_router(watch_routes.router)
    app.state.streams, app.state.outside = set(), outside()
    if store is not None:
        app.state.desk = Desk(store)
        app.state.watch_desk = WatchDesk(store, private_targets)
        app.state.live_desk = LiveDesk(app.state.desk, app.state.watch_desk)
        app.state.elsewhere_desk = ElsewhereDesk(app.state.desk)
        app.state.tune_desk = TuneDesk(app.state.desk)
    if (WEB / "index.html").exists():
        app.mount("/assets", StaticFiles(directory=WEB / "assets"))

        @app.get("/{path:path}", include_in_schema=False)
        def page(path: str) -> HTMLResponse:
            if path.startswith("api/"):
                raise HTTPException(404, f"there is nothing at /{path}")
            nonce = secrets.token_urlsafe(16)
            styles = policy(f"'self' 'nonce-{nonce}'")
            text = (WEB / "index.html").read_text().replace("STYLE_NONCE", nonce)
            return HTMLResponse(text, headers={"Cache-Control": "no-cache", "Content-Security-Policy": styles})

    return app
