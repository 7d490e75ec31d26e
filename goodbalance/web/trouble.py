"""What is said when something is wrong: refused, unreadable, out of range, the database away, or an error nobody foresaw."""

from contextlib import suppress

import structlog
from fastapi import FastAPI, Request, Response
from fastapi.exceptions import RequestValidationError
from fastapi.responses import JSONResponse, RedirectResponse
from pydantic import ValidationError
from sqlalchemy.exc import DBAPIError, InterfaceError
from sqlalchemy.exc import TimeoutError as PoolTimeout
from starlette.exceptions import HTTPException
from starlette.requests import ClientDisconnect
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from goodbalance.core.errors import GoodBalanceError
from goodbalance.store.database import COLLISIONS, number_of
from goodbalance.store.deeds import Deed
from goodbalance.web import computing
from goodbalance.web.guards import NUMBER, address_of, noted
from goodbalance.web.rendering import page

log = structlog.get_logger("goodbalance")
NO_DATABASE = (
    "The database is not answering. Nothing you typed is lost: it waits in this page and is saved when it is back."
)
BUSY = "Many people are writing at this moment. Nothing you typed is lost: it is sent again by itself."
DISK_FULL = "The disk of the database is full. Nothing you typed is lost: it waits in this page. Tell whoever keeps the server."
FULL = (1021, 1114, 3, 28)  # disk full, table full, and the system's own numbers
AWAY = (*FULL, 1040, 1047, 1053, 1129, 1203, 1226, 1927, 2002, 2003, 2006, 2013, 2014, 2055, 3024)


def answer_for(app: FastAPI) -> None:
    """Hand every kind of trouble to its answer."""
    for database in (DBAPIError, PoolTimeout):
        app.add_exception_handler(database, _database)
    app.add_exception_handler(HTTPException, _refused)
    app.add_exception_handler(RequestValidationError, _unreadable)
    app.add_exception_handler(ValidationError, _unreadable)
    app.add_exception_handler(GoodBalanceError, _out_of_range)
    app.add_exception_handler(computing.Busy, _busy)
    app.add_exception_handler(computing.TooLong, _too_long)


class Unexpected:
    """Answers errors nobody foresaw from inside the other guards, so that headers and look are kept."""

    def __init__(self, app: ASGIApp) -> None:
        self.app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http":
            await self.app(scope, receive, send)
            return
        began = False

        async def watched(message: Message) -> None:
            nonlocal began
            began = began or message["type"] == "http.response.start"
            await send(message)

        try:
            await self.app(scope, receive, watched)
        except ClientDisconnect:
            return  # nobody waits for an answer any more
        except Exception as error:
            if began:
                raise
            await _unexpected(Request(scope, receive), error)(scope, receive, send)


def _wants_json(request: Request) -> bool:
    return "application/json" in request.headers.get("accept", "")


def _answer(request: Request, status: int, title: str, text: str) -> Response:
    if _wants_json(request):
        return JSONResponse({"error": text}, status_code=status)
    came_from = request.headers.get("referer", "")
    back = came_from if came_from.startswith(str(request.base_url)) else request.url.path
    return page(request, "trouble.html", {"title": title, "text": text, "back": back}, status=status)


async def _database(request: Request, error: Exception) -> Response:
    """Away, busy with others, or given something it will not hold: three troubles, told apart."""
    number = number_of(error)
    if number in COLLISIONS:
        title, text = "Many are writing", BUSY
    elif isinstance(error, PoolTimeout | InterfaceError) or number in AWAY:
        title, text = ("The disk is full", DISK_FULL) if number in FULL else ("The database is away", NO_DATABASE)
    else:
        return _unexpected(request, error)
    log.warning(title, path=request.url.path, number=number, error=str(error)[:300])
    response = _answer(request, 503, title, text)
    response.headers["Retry-After"] = "3"
    return response


def _unexpected(request: Request, error: Exception) -> Response:
    """An error nobody foresaw: its whole story in the log, under a number that the page shows."""
    number = request.scope.get(NUMBER, "")
    log.error("unexpected", number=number, method=request.method, path=request.url.path, exc_info=error)
    text = f"This should not have happened. Nothing of this request was stored. It is in the log as {number}."
    return _answer(request, 500, "Something broke", text)


def _refused(request: Request, error: Exception) -> Response:
    assert isinstance(error, HTTPException)
    if error.status_code == 403:
        _tell_refusal(request, str(error.detail))
    if error.status_code == 401 and not _wants_json(request) and request.method == "GET":
        return RedirectResponse(f"{request.url_for('sign_in')}?then={request.url.path}", status_code=303)
    titles = {401: "Sign in first", 403: "Not allowed", 404: "Nothing here", 405: "Not that way", 413: "Too large"}
    text = str(error.detail)
    if error.status_code == 404 and text == "Not Found":
        text = f"There is no page {request.url.path}. The stations are listed on the first page."
    return _answer(request, error.status_code, titles.get(error.status_code, "Refused"), text)


def _tell_refusal(request: Request, why: str) -> None:
    """Somebody wanted what they may not: into the list of deeds where it is known who."""
    about = f"{request.method} {request.url.path}: {why}"
    if getattr(request.state, "person", None) is None:
        log.info("deed", what=Deed.REFUSED.value, about=about[:200], address=address_of(request))
        return
    with suppress(DBAPIError, PoolTimeout), request.app.state.sessions() as session:
        noted(request, session, Deed.REFUSED, about)
        session.commit()


async def _unreadable(request: Request, error: Exception) -> Response:
    assert isinstance(error, RequestValidationError | ValidationError)
    first = error.errors()[0]
    where = ".".join(str(step) for step in first["loc"] if step not in ("body", "query", "path")) or "the request"
    return _answer(request, 422, "Not accepted", f"{where}: {first['msg']}")


async def _out_of_range(request: Request, error: Exception) -> Response:
    return _answer(request, 422, "Not accepted", str(error))


async def _busy(request: Request, error: Exception) -> Response:
    response = _answer(request, 429, "Much is worked out at this moment", "Much is worked out at this moment. Try again in some seconds.")
    response.headers["Retry-After"] = "5"
    return response


async def _too_long(request: Request, error: Exception) -> Response:
    return _answer(request, 422, "This takes too long", "This takes longer than the server works on one question. Ask for less of it at a time.")
