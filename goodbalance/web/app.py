"""The application: its routes and its guards."""

import asyncio
import hashlib
from collections.abc import Iterable
from pathlib import Path
from urllib.parse import urlsplit

from fastapi import FastAPI
from fastapi.staticfiles import StaticFiles
from sqlalchemy import Engine
from starlette.middleware.gzip import GZipMiddleware
from starlette.middleware.sessions import SessionMiddleware
from starlette.middleware.trustedhost import TrustedHostMiddleware

from goodbalance.exchange.modbus import allowed_devices
from goodbalance.store.database import CONNECTIONS, session_maker
from goodbalance.web import (
    columns,
    controllers,
    curves,
    door,
    energising,
    enter,
    families,
    handover,
    health,
    live,
    motors,
    noticing,
    offline,
    own,
    papers,
    people,
    photos,
    prove,
    reckon,
    rehearse,
    scaling,
    shared,
    stations,
    survey,
    trouble,
    why,
    wiring,
    writing,
)
from goodbalance.web.guards import HeadAsGet, Numbered, SafeHeaders, SizeLimit
from goodbalance.web.kinds.registry import PAGES
from goodbalance.web.rendering import take_templates

LOOPBACK = ("127.0.0.1", "localhost", "[::1]")
SHOWN = (".css", ".js", ".svg", ".woff2")
STATIC = Path(__file__).parent / "static"


def files_of(kept: str, folders: Iterable[tuple[str, Path]]) -> list[str]:
    """The address of every static file, for a browser that is to have all of them: each folder with what stands before its files."""
    return [
        f"{kept}{before}/{file.relative_to(folder).as_posix()}"
        for before, folder in folders
        for file in sorted(folder.rglob("*"))
        if file.is_file() and file.suffix in SHOWN and file.name != "worker.js"
    ]


def release_of(folders: Iterable[Path]) -> str:
    """Twelve letters that change with any static file: its address holds them, so that browsers may keep it for good."""
    digest = hashlib.sha256()
    for folder in folders:
        for file in sorted(path for path in folder.rglob("*") if path.is_file()):
            digest.update(f"{file.relative_to(folder)} {file.stat().st_size} ".encode() + file.read_bytes())
    return digest.hexdigest()[:12]


def create_app(engine: Engine, session_key: str, public_url: str = "", devices: str = "") -> FastAPI:
    """The application over a migrated database. session_key signs the session cookie.

    public_url: where people reach it, where that is not loopback. With https the cookie is kept to that host and to TLS,
    and browsers are told to come by TLS only. Other hosts than this one are not answered. devices: those that may be read
    over Modbus, Name=host:port.
    """
    public = urlsplit(public_url)
    secure = public.scheme == "https"
    app = FastAPI(title="Good Balance", docs_url=None, redoc_url=None, openapi_url=None)
    app.state.sessions = session_maker(engine)
    app.state.at_work = asyncio.Semaphore(CONNECTIONS)
    app.state.outside = bool(public_url)
    app.state.pages = PAGES
    app.state.devices = allowed_devices(devices)
    folders = [("", STATIC), *((f"/kinds/{pages.id}", pages.folder / "static") for pages in PAGES.values())]
    app.state.release = release_of(folder for _, folder in folders)
    kept = f"/static/{app.state.release}"
    app.state.files = files_of(kept, folders)
    app.state.worker = (STATIC / "js" / "worker.js").read_text(encoding="utf-8")
    for pages in PAGES.values():
        take_templates(pages.id, pages.folder)
    for at in (kept, "/static"):  # without its release a file is asked for anew each time
        for pages in PAGES.values():
            app.mount(f"{at}/kinds/{pages.id}", StaticFiles(directory=pages.folder / "static"))
        app.mount(at, StaticFiles(directory=STATIC), name="static")
    rooms = (
        door,
        people,
        own,
        stations,
        survey,
        curves,
        motors,
        energising,
        scaling,
        photos,
        wiring,
        reckon,
        rehearse,
        why,
        enter,
        prove,
        noticing,
        live,
        writing,
        handover,
        papers,
        shared,
        controllers,
        families,
        offline,
        health,
        *(room for pages in PAGES.values() for room in pages.rooms),
    )
    for module in rooms:
        app.include_router(module.router)
    paths = {route.name: route.path for module in rooms for route in module.router.routes}
    app.state.paths = {"static": kept + "/{path}", **paths}
    app.add_middleware(trouble.Unexpected)
    app.add_middleware(SizeLimit)
    cookie = "__Host-goodbalance" if secure else "goodbalance"
    app.add_middleware(
        SessionMiddleware, secret_key=session_key, session_cookie=cookie, max_age=14 * 86400, https_only=secure
    )
    app.add_middleware(TrustedHostMiddleware, allowed_hosts=[*LOOPBACK, *([public.hostname] if public.hostname else [])])
    app.add_middleware(GZipMiddleware, minimum_size=1000, compresslevel=5)
    app.state.figures = health.Figures(engine)
    app.add_middleware(health.Measured, figures=app.state.figures)
    app.add_middleware(HeadAsGet)
    app.add_middleware(SafeHeaders, kept=kept, secure=secure)
    app.add_middleware(Numbered)
    trouble.answer_for(app)
    columns.answer_for(app)
    return app
