"""The application: its routes and its guards."""

from pathlib import Path

from fastapi import FastAPI
from fastapi.staticfiles import StaticFiles
from sqlalchemy import Engine
from starlette.middleware.gzip import GZipMiddleware
from starlette.middleware.sessions import SessionMiddleware

from goodbalance.store.database import session_maker
from goodbalance.web import (
    controllers,
    drawdown,
    enter,
    handover,
    loop,
    people,
    pressure_trends,
    prove,
    reckon,
    rehearse,
    scaling,
    stations,
    survey,
    sweep,
    trends,
    trouble,
)
from goodbalance.web.guards import HeadAsGet, SafeHeaders, SizeLimit
from goodbalance.web.throttle import Throttle

STATIC = Path(__file__).parent / "static"

def create_app(engine: Engine, session_key: str) -> FastAPI:
    """The application over a migrated database. session_key signs the session cookie."""
    app = FastAPI(title="Good Balance", docs_url=None, redoc_url=None, openapi_url=None)
    app.state.sessions = session_maker(engine)
    app.state.throttle = Throttle()
    app.mount("/static", StaticFiles(directory=STATIC), name="static")
    rooms = (
        people,
        stations,
        survey,
        drawdown,
        scaling,
        trends,
        sweep,
        loop,
        pressure_trends,
        reckon,
        rehearse,
        enter,
        prove,
        handover,
        controllers,
    )
    for module in rooms:
        app.include_router(module.router)
    app.add_middleware(trouble.Unexpected)
    app.add_middleware(SizeLimit)
    app.add_middleware(SessionMiddleware, secret_key=session_key, session_cookie="goodbalance", max_age=14 * 86400)
    app.add_middleware(GZipMiddleware, minimum_size=1000, compresslevel=5)
    app.add_middleware(HeadAsGet)
    app.add_middleware(SafeHeaders)
    trouble.answer_for(app)
    return app
