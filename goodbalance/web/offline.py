"""Work without signal: the worker that opens kept pages in a browser, which pages it keeps, and how the app is installed."""

import hashlib
import json
from typing import Any

from fastapi import APIRouter, Request, Response
from fastapi.responses import JSONResponse

from goodbalance.web.guards import PersonDep
from goodbalance.web.loading import WorkDep
from goodbalance.web.rendering import VIEWS, page

router = APIRouter()
BESIDE = ("show_wiring", "show_log")  # of every kind
OF_MOTORS = ("show_motors", "show_energising")


@router.get("/worker.js", name="worker")
def worker(request: Request) -> Response:
    """The script that stands between the pages and the network. What it keeps of this release is written before it."""
    state = request.app.state
    before = f"const RELEASE = {json.dumps(state.release)}, FILES = {json.dumps(state.files)};\n"
    return Response(before + state.worker, media_type="text/javascript")


@router.get("/manifest.webmanifest", name="manifest")
def manifest(request: Request) -> Response:
    """What a browser needs to install the application beside others on a phone."""
    at = request.app.state.paths["static"].format(path="")
    sizes = ((192, "any"), (512, "any"), (512, "maskable"))
    told: dict[str, Any] = {
        "id": "/", "name": "Good Balance", "short_name": "Good Balance", "start_url": "/", "scope": "/", "display": "standalone",
        "description": "Settings of pump stations: reckoned, rehearsed, typed, proved and handed over.", "background_color": "#f5eede", "theme_color": "#f5eede",
        "icons": [{"src": f"{at}icon_{purpose}_{size}.png", "sizes": f"{size}x{size}", "type": "image/png", "purpose": purpose} for size, purpose in sizes],
    }  # fmt: skip
    return Response(json.dumps(told), media_type="application/manifest+json")


@router.get("/offline", name="offline")
def offline(request: Request) -> Response:
    """Shown in place of a page that this browser has not kept, with those that it has."""
    return page(request, "offline.html", {})


@router.get("/stations/{station_id}/pages", name="pages_to_keep")
def pages_to_keep(request: Request, person: PersonDep, work: WorkDep) -> JSONResponse:
    """The pages of a station that are to open without signal: the six views and those beside them, and one for each number of the sheet.

    sheet: what those of the sheet hang on; as long as it is the same they need not be fetched again.
    """
    paths = request.app.state.paths
    names = [*(f"show_{view}" for view, _ in VIEWS), *BESIDE, *(OF_MOTORS if work.kind.motors else ())]
    found = [paths[name].format(station_id=work.row.id) for name in names]
    sheet = paths["show_enter"].format(station_id=work.row.id)
    stands = work.comparisons if work.sheet is not None else ()
    shown = [(one.row.parameter.code, one.row.shows, one.row.reason, one.typed, one.before) for one in stands]
    told = {"of": hashlib.sha256(repr(shown).encode()).hexdigest()[:16], "pages": [f"{sheet}?one=all"] if shown else []}
    return JSONResponse({"seq": work.history.seq, "pages": found, "sheet": told})
