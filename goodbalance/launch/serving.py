"""The web server: one process, or a parent that keeps several working; what each is told, and how it stops."""

import asyncio
import contextlib
import ctypes
import gc
import logging
import os
import resource
import shutil
import signal
import socket
import sys
from pathlib import Path
from typing import Any

import structlog
import uvicorn
from fastapi import FastAPI
from sqlalchemy import Engine
from uvicorn.protocols.http.httptools_impl import HttpToolsProtocol
from uvicorn.supervisors import Multiprocess

from goodbalance.core.errors import BrokenFile
from goodbalance.exchange.modbus import allowed_devices
from goodbalance.launch.errors import CannotStart
from goodbalance.launch.keys import sealed, session_key
from goodbalance.store.database import open_engine, session_maker

HEAD_WITHIN_S = 15.0  # a request's head
FINISH_WITHIN_S = 25  # what is under way when it is told to stop
ANSWER_PARENT_S = 20  # a worker that does not is stopped and made anew
MOST_WORKERS = 32
DEVICES = "GOODBALANCE_DEVICES"  # devices that may be read over Modbus: Name=host:port, with semicolons between
FOR_WORKERS = "GOODBALANCE_FOR_WORKERS"  # where the database is, from the parent to its workers


class Patient(HttpToolsProtocol):
    """HTTP as usual, but who does not end the head of a request in time is let go: half-open connections cost nothing."""

    _late: asyncio.TimerHandle | None = None

    def connection_made(self, transport: Any) -> None:
        super().connection_made(transport)
        self._wait()

    def on_message_begin(self) -> None:
        super().on_message_begin()
        self._wait()

    def on_headers_complete(self) -> None:
        self._waited()
        super().on_headers_complete()

    def connection_lost(self, exc: Exception | None) -> None:
        self._waited()
        super().connection_lost(exc)

    def _wait(self) -> None:
        self._waited()
        self._late = self.loop.call_later(HEAD_WITHIN_S, self.transport.close)

    def _waited(self) -> None:
        if self._late is not None:
            self._late.cancel()
            self._late = None


def log_as_lines(least: int = logging.INFO) -> None:
    """The log: a JSON line an event, on standard error, with the number of the request it belongs to."""
    structlog.configure(
        processors=[
            structlog.contextvars.merge_contextvars,
            structlog.processors.add_log_level,
            structlog.processors.TimeStamper(fmt="iso", utc=True),
            structlog.processors.dict_tracebacks,
            structlog.processors.JSONRenderer(),
        ],
        wrapper_class=structlog.make_filtering_bound_logger(least),
        logger_factory=structlog.PrintLoggerFactory(sys.stderr),
    )


def serve(url: str, port: int, folder: Path, workers: int = 1, demo: bool = False) -> None:
    """Answer until told to stop; then what is under way is ended first. Raises CannotStart."""
    host = os.environ.get("GOODBALANCE_LISTEN", "127.0.0.1")
    check_port(host, port)
    engine, _ = sealed(url, folder, anew=False)
    try:
        allowed_devices(os.environ.get(DEVICES, ""))
    except BrokenFile as wrong:
        raise CannotStart(f"{DEVICES}: {wrong}") from wrong
    if demo:
        from goodbalance.demo.kestrel_point import load_demo

        with session_maker(engine)() as session:
            sign_in = load_demo(session)
            session.commit()
        print(f"Demo: sign in as {sign_in}", flush=True)
    with _demo_devices(engine, folder) if demo and not os.environ.get(DEVICES) else contextlib.nullcontext():
        _answer(url, engine, host, port, folder, workers)
    engine.dispose()


def _demo_devices(engine: Engine, folder: Path) -> contextlib.AbstractContextManager[None]:
    from goodbalance.launch.devices import (
        devices_of_demo,  # it brings the pages: the first start should say soon what fails
    )

    return devices_of_demo(engine, folder)


def _answer(url: str, engine: Engine, host: str, port: int, folder: Path, workers: int) -> None:
    """Serve until told to stop, in this process or in several."""
    public_url = os.environ.get("GOODBALANCE_PUBLIC_URL", "")
    _more_files()
    reached = f", for others at {public_url}" if public_url else ""
    many = f", {workers} workers" if workers > 1 else ""
    said = f"Good Balance is at http://{host}:{port}{reached}{many}  (Ctrl-C stops it)"
    more: dict[str, Any] = {
        "host": host, "port": port, "log_level": "warning", "access_log": False, "server_header": False, "http": Patient,
        "timeout_graceful_shutdown": FINISH_WITHIN_S, "forwarded_allow_ips": os.environ.get("GOODBALANCE_PROXY", "127.0.0.1"),
    }  # fmt: skip
    if workers > 1:
        _serve_with_many(said, url, folder, workers, engine.get_execution_options()["seal_keys"], more)
    else:
        from goodbalance.web import computing
        from goodbalance.web.app import create_app  # after the database: the first start should say soon what fails

        app = create_app(engine, session_key(folder), public_url, os.environ.get(DEVICES, ""))
        computing.begin()
        print(said, flush=True)
        _look_seldom_for_garbage()
        server = uvicorn.Server(uvicorn.Config(app, **more))
        # uvicorn raises the signal again when it has stopped; it must not end the process before the database has stopped
        signal.signal(signal.SIGTERM, lambda *_: setattr(server, "should_exit", True))
        with contextlib.suppress(KeyboardInterrupt):
            server.run()


def _serve_with_many(said: str, url: str, folder: Path, workers: int, seal_keys: tuple[bytes, ...], more: dict[str, Any]) -> None:
    """A parent that holds the port and makes each worker anew that ends or hangs; they find what they need in their environment."""
    figures = folder / "figures"
    shutil.rmtree(figures, ignore_errors=True)
    figures.mkdir(parents=True)
    os.environ |= {
        FOR_WORKERS: url, "GOODBALANCE_SESSION_KEY": session_key(folder), "PROMETHEUS_MULTIPROC_DIR": str(figures),
        "GOODBALANCE_SEAL_KEYS": " ".join(key.decode() for key in seal_keys),
    }  # fmt: skip
    target = f"{__name__}:worker_app"
    config = uvicorn.Config(target, factory=True, workers=workers, timeout_worker_healthcheck=ANSWER_PARENT_S, **more)
    listening = config.bind_socket()
    print(said, flush=True)
    Multiprocess(config, [listening]).run()
    listening.close()


def worker_app() -> FastAPI:
    """The application in a worker. It ends with its parent, whatever ends that."""
    from goodbalance.web import computing
    from goodbalance.web.app import create_app

    ctypes.CDLL(None).prctl(1, signal.SIGTERM)  # PR_SET_PDEATHSIG
    if os.getppid() == 1:
        raise SystemExit("the parent has ended")
    log_as_lines()
    for left in Path(os.environ["PROMETHEUS_MULTIPROC_DIR"]).glob("gauge_live*_*.db"):  # of a worker that was killed
        if not Path(f"/proc/{left.stem.rpartition('_')[2]}").exists():
            left.unlink(missing_ok=True)
    keys = tuple(key.encode() for key in os.environ["GOODBALANCE_SEAL_KEYS"].split())
    engine = open_engine(os.environ[FOR_WORKERS], keys)
    app = create_app(engine, os.environ["GOODBALANCE_SESSION_KEY"], os.environ.get("GOODBALANCE_PUBLIC_URL", ""), os.environ.get(DEVICES, ""))
    computing.begin()
    _look_seldom_for_garbage()
    return app


def check_port(host: str, port: int) -> None:
    if not 1 <= port <= 65535:
        raise CannotStart(f"GOODBALANCE_PORT is {port}; accepted: 1 to 65535")
    with socket.socket() as probe:
        probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            probe.bind((host, port))
        except OSError as wrong:
            raise CannotStart(f"port {port} of {host} is in use or not allowed. Set GOODBALANCE_PORT to another one") from wrong


def _look_seldom_for_garbage() -> None:
    """What is loaded stays; looking through it again and again stops every answer for a tenth of a second."""
    gc.collect()
    gc.freeze()
    gc.set_threshold(20_000, 20, 50)


def _more_files() -> None:
    """As many connections as the system allows, not only as many as a shell is given."""
    _, most = resource.getrlimit(resource.RLIMIT_NOFILE)
    with contextlib.suppress(ValueError, OSError):
        resource.setrlimit(resource.RLIMIT_NOFILE, (most, most))
