"""The application: its routes, its guards, and what it says when something is wrong."""

from pathlib import Path

from fastapi import FastAPI, Request, Response
from fastapi.exceptions import RequestValidationError
from fastapi.responses import JSONResponse, RedirectResponse
from fastapi.staticfiles import StaticFiles
from pydantic import ValidationError
from sqlalchemy import Engine
from sqlalchemy.exc import DBAPIError, InterfaceError, OperationalError
from sqlalchemy.exc import TimeoutError as PoolTimeout
from starlette.exceptions import HTTPException
from starlette.middleware.gzip import GZipMiddleware
from starlette.middleware.sessions import SessionMiddleware

from goodbalance.core.errors import GoodBalanceError
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
)
from goodbalance.web.guards import SafeHeaders, SizeLimit
from goodbalance.web.rendering import page

STATIC = Path(__file__).parent / "static"
NO_DATABASE = (
    "The database is not answering. Nothing you typed is lost: it waits in this page and is saved when it is back."
)


def create_app(engine: Engine, session_key: str) -> FastAPI:
    """The application over a migrated database. session_key signs the session cookie."""
    app = FastAPI(title="Good Balance", docs_url=None, redoc_url=None, openapi_url=None)
    app.state.sessions = session_maker(engine)
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
    app.add_middleware(SessionMiddleware, secret_key=session_key, session_cookie="goodbalance", max_age=14 * 86400)
    app.add_middleware(SizeLimit)
    app.add_middleware(GZipMiddleware, minimum_size=1000, compresslevel=5)
    app.add_middleware(SafeHeaders)
    for error in (OperationalError, InterfaceError, PoolTimeout):
        app.add_exception_handler(error, _no_database)
    app.add_exception_handler(DBAPIError, _no_database)
    app.add_exception_handler(HTTPException, _refused)
    app.add_exception_handler(RequestValidationError, _unreadable)
    app.add_exception_handler(ValidationError, _unreadable)
    app.add_exception_handler(GoodBalanceError, _out_of_range)
    return app


def _wants_json(request: Request) -> bool:
    return "application/json" in request.headers.get("accept", "")


def _answer(request: Request, status: int, title: str, text: str) -> Response:
    if _wants_json(request):
        return JSONResponse({"error": text}, status_code=status)
    came_from = request.headers.get("referer", "")
    back = came_from if came_from.startswith(str(request.base_url)) else request.url.path
    return page(request, "trouble.html", {"title": title, "text": text, "back": back}, status=status)


async def _no_database(request: Request, error: Exception) -> Response:
    response = _answer(request, 503, "The database is away", NO_DATABASE)
    response.headers["Retry-After"] = "3"
    return response


async def _refused(request: Request, error: Exception) -> Response:
    assert isinstance(error, HTTPException)
    if error.status_code == 401 and not _wants_json(request) and request.method == "GET":
        return RedirectResponse(f"{request.url_for('sign_in')}?then={request.url.path}", status_code=303)
    titles = {401: "Sign in first", 403: "Not allowed", 404: "Nothing here", 405: "Not that way", 413: "Too large"}
    text = str(error.detail)
    if error.status_code == 404 and text == "Not Found":
        text = f"There is no page {request.url.path}. The stations are listed on the first page."
    return _answer(request, error.status_code, titles.get(error.status_code, "Refused"), text)


async def _unreadable(request: Request, error: Exception) -> Response:
    assert isinstance(error, RequestValidationError | ValidationError)
    first = error.errors()[0]
    where = ".".join(str(step) for step in first["loc"] if step not in ("body", "query", "path")) or "the request"
    return _answer(request, 422, "Not accepted", f"{where}: {first['msg']}")


async def _out_of_range(request: Request, error: Exception) -> Response:
    return _answer(request, 422, "Not accepted", str(error))
