"""What a proxy and a monitor ask: is the process alive, can it work, how much it is asked and how soon it answers."""

import os
from time import perf_counter

from fastapi import APIRouter, HTTPException, Request, Response
from fastapi.responses import PlainTextResponse
from prometheus_client import (
    CONTENT_TYPE_LATEST,
    CollectorRegistry,
    Counter,
    Gauge,
    Histogram,
    ProcessCollector,
    generate_latest,
)
from prometheus_client.multiprocess import MultiProcessCollector
from sqlalchemy import Engine, event
from sqlalchemy.exc import DBAPIError
from sqlalchemy.exc import TimeoutError as PoolTimeout
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from goodbalance.store.database import check_answers
from goodbalance.web.guards import SessionDep

router = APIRouter()
METHODS = ("GET", "HEAD", "POST")
BOUNDS_S = (0.01, 0.025, 0.05, 0.1, 0.25, 0.5, 1.0, 2.5, 5.0, 10.0)
NOWHERE = "elsewhere"  # no route: refused before one was looked for, a file, or a path nobody knows


class Figures:
    """Counts of one process, under names of their own; paths are told by their route, never with what somebody typed.

    Where several processes answer on one port each writes its counts into a folder, and whoever is asked tells them all.
    """

    def __init__(self, engine: Engine) -> None:
        self.registry = CollectorRegistry()
        self.of_many = bool(os.environ.get("PROMETHEUS_MULTIPROC_DIR"))
        if not self.of_many:
            ProcessCollector(registry=self.registry)
        self.answers = Counter(
            "goodbalance_answers", "Answers by route and status.", ("method", "route", "status"), registry=self.registry
        )
        self.took_s = Histogram(
            "goodbalance_answer_seconds", "Time until an answer began.", ("route",), buckets=BOUNDS_S, registry=self.registry
        )
        pool = Gauge(
            "goodbalance_database_connections", "Database connections in use.", registry=self.registry, multiprocess_mode="livesum"
        )
        if self.of_many:
            event.listen(engine, "checkout", lambda *_: pool.inc())
            event.listen(engine, "checkin", lambda *_: pool.dec())
        else:
            pool.set_function(lambda: engine.pool.checkedout())  # type: ignore[attr-defined]

    def told(self) -> bytes:
        """All figures as text, of every process that answers here."""
        if not self.of_many:
            return generate_latest(self.registry)
        everybody = CollectorRegistry()
        MultiProcessCollector(everybody)
        return generate_latest(everybody)


class Measured:
    """Counts every answer and how long it took to begin."""

    def __init__(self, app: ASGIApp, figures: Figures) -> None:
        self.app, self.figures = app, figures

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http":
            await self.app(scope, receive, send)
            return
        asked_s = perf_counter()

        async def counted(message: Message) -> None:
            if message["type"] == "http.response.start":
                route = getattr(scope.get("route"), "path", NOWHERE)
                method = scope["method"] if scope["method"] in METHODS else "other"
                self.figures.answers.labels(method, route, str(message["status"])).inc()
                self.figures.took_s.labels(route).observe(perf_counter() - asked_s)
            await send(message)

        await self.app(scope, receive, counted)


@router.get("/healthz", name="healthz")
def healthz() -> PlainTextResponse:
    """The process answers. It says nothing of the database: a start anew would not mend that."""
    return PlainTextResponse("alive\n")


@router.get("/readyz", name="readyz")
def readyz(session: SessionDep) -> PlainTextResponse:
    """Pages can be read: send people here. 503 where the database does not answer."""
    try:
        check_answers(session)
    except (DBAPIError, PoolTimeout):
        return PlainTextResponse("the database is not answering\n", 503)
    return PlainTextResponse("ready\n")


@router.get("/metrics", name="metrics")
def metrics(request: Request) -> Response:
    """The figures for Prometheus, to whoever asks on this machine; what comes through a proxy is refused."""
    if any(name in request.headers for name in ("x-forwarded-for", "x-forwarded-proto", "forwarded")):
        raise HTTPException(403, "The figures are for monitors on this machine.")
    return Response(request.app.state.figures.told(), media_type=CONTENT_TYPE_LATEST)
