"""Who may do what, and what is refused before it reaches a page: sessions, forged posts, sizes, headers."""

import asyncio
import secrets
from collections.abc import AsyncIterator
from dataclasses import dataclass
from time import monotonic
from typing import Annotated

import structlog
from fastapi import Depends, HTTPException, Request
from fastapi.responses import JSONResponse, PlainTextResponse
from sqlalchemy.exc import DBAPIError
from sqlalchemy.orm import Session
from starlette.concurrency import run_in_threadpool
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from goodbalance.store import deeds, second_factor, sessions
from goodbalance.store.deeds import Deed
from goodbalance.store.models import PersonRow
from goodbalance.store.people import Role

LARGEST_BODY_BYTES = 21_000_000  # a station file and the form around it
USUAL_BODY_BYTES = 2_000_000
PHOTO_BYTES = 12_000_000  # as a phone takes it; what is kept is small
STRANGERS_BYTES = 64_000
LONGEST_BODY_S = 30.0
NUMBER = "goodbalance.number"
POLICY = (
    "default-src 'self'; img-src 'self' data:; style-src 'self'; script-src 'self'; object-src 'none'; "
    "base-uri 'none'; form-action 'self'; frame-ancestors 'none'"
)


class Numbered:
    """Gives every request a number: in the log beside whatever is said meanwhile, in a header of the answer, on error pages."""

    def __init__(self, app: ASGIApp) -> None:
        self.app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http":
            await self.app(scope, receive, send)
            return
        number = scope[NUMBER] = secrets.token_hex(4)

        async def send_with_number(message: Message) -> None:
            if message["type"] == "http.response.start":
                message["headers"].append((b"x-request-id", number.encode()))
            await send(message)

        with structlog.contextvars.bound_contextvars(request=number):
            await self.app(scope, receive, send_with_number)


class SafeHeaders:
    """Adds the security headers to every answer; with `secure` also that browsers are to come by TLS only.

    kept: where static files stand whose address changes with them; browsers may keep those for a year.
    """

    def __init__(self, app: ASGIApp, kept: str, secure: bool = False) -> None:
        self.app, self.kept, self.secure = app, kept + "/", secure

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        async def send_with_headers(message: Message) -> None:
            if message["type"] == "http.response.start":
                message["headers"] += [
                    (b"content-security-policy", POLICY.encode()),
                    (b"x-content-type-options", b"nosniff"),
                    (b"referrer-policy", b"same-origin"),
                ]
                if self.secure:
                    message["headers"].append((b"strict-transport-security", b"max-age=31536000"))
                if scope["path"].startswith(self.kept) and message["status"] in (200, 206, 304):
                    message["headers"].append((b"cache-control", b"public, max-age=31536000, immutable"))
                elif scope["path"].startswith("/static"):
                    message["headers"].append((b"cache-control", b"no-cache"))
                else:
                    message["headers"].append((b"cache-control", b"no-store"))
            await send(message)

        await self.app(scope, receive, send_with_headers if scope["type"] == "http" else send)


class HeadAsGet:
    """Answers HEAD as it would GET, without the body."""

    def __init__(self, app: ASGIApp) -> None:
        self.app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http" or scope["method"] != "HEAD" or scope["path"].startswith("/static"):
            await self.app(scope, receive, send)
            return

        async def without_body(message: Message) -> None:
            if message["type"] == "http.response.body":
                message = {**message, "body": b""}
            await send(message)

        await self.app({**scope, "method": "GET"}, receive, without_body)


class SizeLimit:
    """Refuses a request body that says or turns out to be too large for who sends it and where to, or that never ends."""

    def __init__(self, app: ASGIApp) -> None:
        self.app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http":
            await self.app(scope, receive, send)
            return
        most = _most_bytes(scope)
        said = dict(scope["headers"]).get(b"content-length", b"0")
        if not said.isdigit() or int(said) > most:
            await self._refuse(scope, send, most)
            return
        seen, until_s = 0, monotonic() + LONGEST_BODY_S

        async def counted() -> Message:
            nonlocal seen
            try:
                message = await asyncio.wait_for(receive(), max(0.0, until_s - monotonic()))
            except TimeoutError:
                raise HTTPException(408, f"The request did not end within {LONGEST_BODY_S:g} s. Send it again.") from None
            seen += len(message.get("body", b""))
            if seen > most:
                raise HTTPException(413, _too_large(most))
            return message

        more_to_come = scope["method"] not in ("GET", "HEAD")
        await self.app(scope, counted if more_to_come else receive, send)

    @staticmethod
    async def _refuse(scope: Scope, send: Send, most: int) -> None:
        """Say why, in the way that is asked for: a script shows it beside what it has sent."""
        asked = dict(scope["headers"]).get(b"accept", b"")
        answer = JSONResponse({"error": _too_large(most)}, 413) if b"application/json" in asked else PlainTextResponse(_too_large(most), 413)
        await send({"type": "http.response.start", "status": 413, "headers": answer.raw_headers})
        await send({"type": "http.response.body", "body": answer.body})


def _most_bytes(scope: Scope) -> int:
    """How large a body may be: a station file is large, a form is small, and who is not signed in sends little."""
    if "token" not in scope["session"]:
        return STRANGERS_BYTES
    if scope["path"].endswith("/photos"):
        return PHOTO_BYTES
    return LARGEST_BODY_BYTES if scope["path"] == "/stations/import" else USUAL_BODY_BYTES


def _too_large(most: int) -> str:
    return f"What was sent is too large; accepted: up to {most / 1e6:g} MB."


async def database(request: Request) -> AsyncIterator[Session]:
    """A database session for one request. Routes commit; what is not committed is undone.

    As many requests as there are connections work at a time and the others wait their turn: none holds a connection
    while it waits for somebody who waits for a connection. The body has been read by then.
    """
    async with request.app.state.at_work:
        session = request.app.state.sessions()
        try:
            yield session
        finally:
            await run_in_threadpool(_closed, session)


def _closed(session: Session) -> None:
    try:
        session.close()
    except DBAPIError:  # the database went away meanwhile; the page has been answered already
        session.invalidate()


SessionDep = Annotated[Session, Depends(database)]


@dataclass(frozen=True, slots=True)
class Reader:
    """Who asks, as pages show it: apart from the database session, which may be undone before an error page is made."""

    id: int
    name: str
    role: str
    units: str
    theme: str
    dismissed: str = ""


def signed_in(request: Request, session: SessionDep) -> PersonRow:
    """The person who asks, or 401."""
    found, noted = sessions.person_of(session, request.session.get("token", ""))
    if found is None:
        raise HTTPException(401, "Sign in first.")
    if noted:
        session.commit()
    request.state.person = Reader(found.id, found.name, found.role, found.units, found.theme, found.dismissed)
    return found


PersonDep = Annotated[PersonRow, Depends(signed_in)]


def csrf_token(request: Request) -> str:
    """The session's token against forged posts, made on first use."""
    if "csrf" not in request.session:
        request.session["csrf"] = secrets.token_urlsafe(24)
    return request.session["csrf"]


async def not_forged(request: Request) -> None:
    """Refuses a post whose token, in header or form, is not the session's."""
    sent = request.headers.get("x-csrf-token")
    if sent is None:
        form = await request.form()
        sent = str(form.get("csrf", ""))
    expected = request.session.get("csrf", "")
    if not expected or not secrets.compare_digest(sent.encode(), expected.encode()):
        raise HTTPException(403, "This page is too old or from elsewhere. Load it again, then repeat.")


async def posted_form(request: Request) -> dict[str, str]:
    """The fields of a form as text, the last of each name; files are for the routes that ask for them."""
    form = await request.form()
    return {name: value for name, value in form.items() if isinstance(value, str)}


FormDep = Annotated[dict[str, str], Depends(posted_form)]


def may_write(person: PersonDep) -> PersonRow:
    """The person, if they may change records."""
    if person.role == Role.READER:
        raise HTTPException(403, "You can read here. Ask a lead for the right to write.")
    return person


WriterDep = Annotated[PersonRow, Depends(may_write)]


def lacks_factor(request: Request, person: PersonRow) -> bool:
    """Whether this lead must set up a second factor first: where the application is reached from outside."""
    return person.role == Role.LEAD and request.app.state.outside and not second_factor.is_on(person)


def may_lead(request: Request, person: PersonDep) -> PersonRow:
    """The person, if they may change people and remove stations."""
    if person.role != Role.LEAD:
        raise HTTPException(403, "Only a lead may do this: add and change people, remove stations, read who did what.")
    if lacks_factor(request, person):
        raise HTTPException(403, "Set up your second factor first, on the page People: this installation is reached from outside.")
    return person


LeadDep = Annotated[PersonRow, Depends(may_lead)]


def address_of(request: Request) -> str:
    """Where a request comes from, as far as can be known."""
    return request.client.host if request.client else ""


def noted(request: Request, session: Session, what: Deed, about: str = "", who: str = "") -> None:
    """Tell who did what, in the log now and in the list of deeds once the caller commits."""
    person = getattr(request.state, "person", None)
    name = who or (person.name if person is not None else "")
    deeds.note(session, what, name, about, address_of(request), request.scope.get(NUMBER, ""))
