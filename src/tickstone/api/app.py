"""The server: the API, and the built web app beside it."""

from __future__ import annotations

import asyncio
from collections.abc import AsyncIterator
from contextlib import asynccontextmanager
from pathlib import Path
from typing import Any

from fastapi import FastAPI
from fastapi.responses import FileResponse
from sqlalchemy import Engine
from starlette.requests import Request
from starlette.responses import Response
from starlette.staticfiles import StaticFiles

from tickstone import __version__
from tickstone.api.desk import Desk
from tickstone.api.guards import LOOPBACK_NAMES, Guards
from tickstone.api.problems import Problem, answer, install_problem_handlers
from tickstone.api.reading_units import ReadingUnits
from tickstone.api.routers import ROUTERS
from tickstone.store.database import sessions
from tickstone.work.cache import Cache
from tickstone.work.import_desk import ImportDesk
from tickstone.work.live.desk import LineDesk
from tickstone.work.takes.finishing import close_what_was_cut

WEB_BUILD = Path(__file__).parents[3] / "web" / "dist"


@asynccontextmanager
async def _while_serving(app: FastAPI) -> AsyncIterator[None]:
    yield
    desk = getattr(app.state, "desk", None)
    if isinstance(desk, Desk):
        await asyncio.to_thread(desk.close)


def describe_api() -> FastAPI:
    """The API alone, without a store: enough for its OpenAPI document."""
    app = FastAPI(
        title="Tick Stone",
        version=__version__,
        description="From raw sensor ticks to a number with its working, and on to a decision.",
        lifespan=_while_serving,
        docs_url=None,
        redoc_url=None,
        openapi_url="/api/openapi.json",
        responses={
            "4XX": {
                "model": Problem,
                "description": "What is wrong, how to mend it, and what was kept.",
            }
        },
        generate_unique_id_function=lambda route: route.name,
    )
    install_problem_handlers(app)
    for router in ROUTERS:
        app.include_router(router)

    @app.get("/api/health", tags=["server"])
    def read_health() -> dict[str, str]:
        """Whether the server is up, and its version."""
        return {"status": "ok", "version": __version__}

    app.openapi = lambda: _describe_problems(FastAPI.openapi(app))  # type: ignore[method-assign]
    return app


def _describe_problems(document: dict[str, Any]) -> dict[str, Any]:
    """Errors are problem+json, whatever a good answer is; FastAPI describes them like that one."""
    for methods in document["paths"].values():
        for operation in methods.values():
            content = operation["responses"]["4XX"]["content"]
            (described,) = content.values()
            operation["responses"]["4XX"]["content"] = {"application/problem+json": described}
    return document


def make_app(
    engine: Engine,
    data_folder: Path,
    hosts: frozenset[str] = LOOPBACK_NAMES,
    web_build: Path = WEB_BUILD,
) -> FastAPI:
    """The whole server on a migrated store. data_folder: where files on their way in wait."""
    app = describe_api()
    imports = ImportDesk(data_folder / "uploads")
    imports.open()
    make_session = sessions(engine)
    with make_session() as session:
        close_what_was_cut(session)
    app.state.desk = Desk(engine, make_session, Cache(), imports, LineDesk(engine))
    _serve_web(app, web_build)
    app.add_middleware(ReadingUnits)
    app.add_middleware(Guards, hosts=hosts)
    return app


def _serve_web(app: FastAPI, build: Path) -> None:
    """The built web app; every address that is not a file or the API opens its first page."""
    if not (build / "index.html").exists():
        return
    app.mount("/assets", StaticFiles(directory=build / "assets"))

    @app.get("/{path:path}", include_in_schema=False)
    def read_page(request: Request, path: str) -> Response:
        if path.startswith("api/"):
            return answer(Problem(title="Not here", status=404, detail="No such address."))
        if path == "icon.svg":
            return FileResponse(build / "icon.svg")
        return FileResponse(build / "index.html", headers={"cache-control": "no-cache"})
