"""Live: what a controller tells over Modbus beside what the plan expects, as a trend that proofs are judged from. Only read."""

import threading
from datetime import UTC, datetime
from typing import Annotated, Any

from fastapi import APIRouter, Depends, HTTPException, Request, Response
from fastapi.responses import JSONResponse, RedirectResponse
from pydantic import BaseModel, ConfigDict, Field

from goodbalance.core.balance.proof import PROVING, Method, Proof, judge
from goodbalance.core.balance.quantities import UnitSystem, display_unit
from goodbalance.core.record.chain import Entry, Kind
from goodbalance.core.record.proved import noted
from goodbalance.core.stations.shared.live import Channel, Live
from goodbalance.exchange.modbus import Address, DeviceSilent, read_live
from goodbalance.exchange.tables_csv import read_columns
from goodbalance.store import records
from goodbalance.store.records import Draft
from goodbalance.web.guards import FormDep, SessionDep, WriterDep, not_forged
from goodbalance.web.kinds.pages import pages_of
from goodbalance.web.loading import WorkDep, after_save
from goodbalance.web.memory import Memory
from goodbalance.web.prove import METHODS, typed_seen
from goodbalance.web.rendering import page
from goodbalance.web.survey import SaveKey
from goodbalance.web.work import Work

router = APIRouter()
MOST_ROWS = 5000
LONGEST_TEXT = 590_000
STANDS_STILL = 3  # answers with the same beat: it is not awake
AT_ONCE, TURN_WITHIN_S = 4, 0.5  # devices asked at a time: silent ones must not hold what other pages need
_asking = threading.Semaphore(AT_ONCE)
_channels: Memory[Any, tuple[Channel, ...]] = Memory(64)
Finite = Annotated[float, Field(allow_inf_nan=False, ge=-1e9, le=1e9)]


class LiveTrend(BaseModel):
    """What a page has recorded: a row each second, the time first."""

    model_config = ConfigDict(extra="forbid")
    save_key: SaveKey
    device: Annotated[str, Field(min_length=1, max_length=60)]
    rows: list[list[Finite]] = Field(min_length=2, max_length=MOST_ROWS)


@router.get("/stations/{station_id}/live", name="show_live")
def show_live(request: Request, work: WorkDep) -> Response:
    if work.plan is None:
        return page(request, "live.html", {"work": work, "view": "prove"})
    live = _live(work)
    more = {"channels": channels_of(work), "trend": pages_of(work).bench(work), "still": STANDS_STILL} if live is not None else {}
    return page(request, "live.html", {"work": work, "view": "prove", **more})


@router.get("/stations/{station_id}/live/now", name="live_now")
def live_now(request: Request, work: WorkDep, device: str) -> Response:
    """How it stands now, read once; 502 with why where the device does not answer whole."""
    at, channels = _address(request, device), channels_of(work)
    if not _asking.acquire(timeout=TURN_WITHIN_S):
        return JSONResponse({"error": "Too many watch devices just now; it is asked again."}, 503)
    try:
        beat, values = read_live(at.host, at.port, len(channels))
    except DeviceSilent as told:
        return JSONResponse({"error": f"{told}."}, 502)
    finally:
        _asking.release()
    now = dict(zip((channel.name for channel in channels), values, strict=True))
    return JSONResponse({"beat": beat, "values": values, "rows": _rows(work, channels, now)})


@router.post("/stations/{station_id}/live/trends", name="keep_live_trend", dependencies=[Depends(not_forged)])
def keep_live_trend(request: Request, session: SessionDep, person: WriterDep, work: WorkDep, kept: LiveTrend) -> Response:
    """What was recorded becomes a trend of the record: with every channel, so that proofs can be judged from it."""
    _address(request, kept.device)
    names = [channel.name for channel in channels_of(work)]
    for number, row in enumerate(kept.rows, 1):
        if len(row) != len(names) + 1:
            raise HTTPException(422, f"rows: row {number} holds {len(row)} numbers; accepted: {len(names) + 1}, the time first.")
    if any(not later[0] > earlier[0] for earlier, later in zip(kept.rows, kept.rows[1:])):
        raise HTTPException(422, "rows: the times do not go on from row to row.")
    text = trend_text(names, kept.rows)
    body = {"name": f"live from {kept.device}, {datetime.now(UTC):%Y-%m-%d %H:%M} UTC"[:120], "text": text}
    (appended,) = records.keep(session, work.row.id, person.name, [Draft(Kind.TREND, body, kept.save_key, typed=kept.model_dump())])
    after_save(request, session, work)
    return JSONResponse({"seq": appended.entry.seq, "url": str(request.url_for("show_judged", station_id=work.row.id, seq=appended.entry.seq).path)})


def trend_text(names: list[str], rows: list[list[float]]) -> str:
    """A trend as CSV; rows between two alike but for their time are left out, and every other one where that is still too long."""
    kept = [row for place, row in enumerate(rows) if place in (0, len(rows) - 1) or not rows[place - 1][1:] == row[1:] == rows[place + 1][1:]]
    while True:
        lines = [",".join(["time_s", *names]), *(",".join(f"{value:.6g}" for value in row) for row in kept)]
        text = "\n".join(lines) + "\n"
        if len(text) <= LONGEST_TEXT:
            return text
        kept = kept[::2]


@router.get("/stations/{station_id}/trends/{seq}/proofs", name="show_judged")
def show_judged(request: Request, work: WorkDep, seq: int) -> Response:
    """What a trend shows of the proofs, each judged, to be taken over or not."""
    entry, seen = _seen(work, seq)
    return page(request, "judged.html", {**_judged(work, seen), "work": work, "view": "prove", "entry": entry, "problem": ""})


@router.post("/stations/{station_id}/trends/{seq}/proofs", name="take_judged", dependencies=[Depends(not_forged)])
def take_judged(form: FormDep, request: Request, session: SessionDep, person: WriterDep, work: WorkDep, seq: int) -> Response:
    """The proofs that somebody ticked become observations under their name, with how the water was moved."""
    entry, seen = _seen(work, seq)
    wanted, method = [proof_id for proof_id in seen if form.get(f"take-{proof_id}")], str(form.get("method", ""))
    if method not in {each.value for each in PROVING} or not wanted:
        problem = "Tick what is to be taken over, and say how the water was moved."
        return page(request, "judged.html", {**_judged(work, seen), "work": work, "view": "prove", "entry": entry, "problem": problem}, 422)
    key, drafts = str(form.get("save_key", "")), []
    for number, proof_id in enumerate(wanted):
        proof = work.proof(proof_id)
        if proof is None:
            continue
        body = {
            "proof": proof_id, "seen": typed_seen(seen[proof_id], display_unit(proof.quantity, UnitSystem.METRIC)), "units": UnitSystem.METRIC.value,
            "method": method, "note": f"read off {entry.body['name']}, entry {seq}", "verdict": judge(proof, seen[proof_id]).value,
            **noted(proof, work.as_proved),
        }  # fmt: skip
        drafts.append(Draft(Kind.OBSERVATION, body, f"{key}-{number}"[:60] if key else None))
    records.keep(session, work.row.id, person.name, drafts)
    after_save(request, session, work)
    return RedirectResponse(request.url_for("show_prove", station_id=work.row.id), status_code=303)


def _live(work: Work) -> Live | None:
    return work.kind.live


def channels_of(work: Work) -> tuple[Channel, ...]:
    """What the station's controller tells, as planned."""
    live = _live(work)
    if work.plan is None or live is None:
        raise HTTPException(409, "There is no plan yet, or nothing of this kind is told live: complete the survey first.")
    return _channels.once(work.decided, lambda: live.channels(work.survey, work.choices, work.typed_plan))


def _address(request: Request, device: str) -> Address:
    at: Address | None = request.app.state.devices.get(device)
    if at is None:
        raise HTTPException(422, f"device is {device[:60]!r}; accepted: {', '.join(request.app.state.devices) or 'nothing, no device is allowed here'}.")
    return at


def _rows(work: Work, channels: tuple[Channel, ...], now: dict[str, float]) -> list[dict[str, Any]]:
    live = _live(work)
    expected = {one.channel: one for one in live.expected(work.survey, work.choices, work.typed_plan, now)} if live is not None else {}
    found = []
    for channel in channels:
        one = expected.get(channel.name)
        row: dict[str, Any] = {"name": channel.name, "text": channel.worded(now[channel.name], work.units)}
        if one is not None:
            row |= {"expected": one.worded(work.units), "holds": one.holds, "within_s": one.within_s}
        found.append(row)
    return found


def _seen(work: Work, seq: int) -> tuple[Entry, dict[str, Any]]:
    """A trend of the record, and what it shows of proofs."""
    entry = next((entry for entry in work.history.trends if entry.seq == seq), None)
    if entry is None:
        raise HTTPException(404, f"Entry {seq} of this record is no trend.")
    live = _live(work)
    if live is None or work.plan is None:
        raise HTTPException(409, "There is nothing to prove yet: complete the survey first.")
    names, rows = read_columns(entry.body["text"])
    return entry, live.seen_in(work.survey, work.choices, work.typed_plan, work.proofs, names, rows)


def _judged(work: Work, seen: dict[str, Any]) -> dict[str, Any]:
    found: list[tuple[Proof, Any, str]] = []
    for proof in work.proofs:
        if proof.id in seen:
            found.append((proof, seen[proof.id], judge(proof, seen[proof.id]).value))
    left = [proof for proof in work.proofs if proof.id not in seen]
    methods = [(method, words) for method, words in METHODS if method in PROVING]
    return {"judged": found, "left": left, "methods": methods, "Method": Method}
