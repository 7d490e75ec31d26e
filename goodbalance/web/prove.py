"""Prove: what must be made to happen on site, what was seen, and the verdict."""

from enum import StrEnum
from typing import Annotated, Any

from fastapi import APIRouter, Depends, Form, HTTPException, Request, Response
from fastapi.responses import JSONResponse, RedirectResponse
from pydantic import BaseModel, ConfigDict, Field

from goodbalance.core.balance.asked_number import AskedNumber
from goodbalance.core.balance.proof import Answer, Method, Proof, Verdict, judge, read_sequence
from goodbalance.core.balance.quantities import DisplayUnit, UnitSystem, display_unit, show
from goodbalance.core.record.chain import Kind
from goodbalance.core.record.history import Observed
from goodbalance.core.record.proved import claims_other, moved, noted
from goodbalance.core.rehearsal.order import Ordered, Stand, as_listed, fewest_changes
from goodbalance.core.stations.shared.acts import switch_of
from goodbalance.store import records
from goodbalance.store.records import Draft
from goodbalance.web import computing
from goodbalance.web.guards import SessionDep, WriterDep, not_forged
from goodbalance.web.loading import WorkDep
from goodbalance.web.memory import Memory
from goodbalance.web.rendering import page, units_of
from goodbalance.web.work import Work

router = APIRouter()
METHODS = (
    (Method.REAL_WATER, "Real water"),
    (Method.OUTPUTS_MOVING, "Controller's simulation, outputs moving"),
    (Method.OUTPUTS_HELD, "Controller's simulation, outputs held"),
    (Method.BENCH, "Bench only"),
)
Text = Annotated[str, Form()]
_NONE = (False, as_listed((), {}), fewest_changes((), {}))
_orders: Memory[Any, tuple[bool, Ordered, Ordered]] = Memory(64)


class Order(StrEnum):
    """How the proofs stand one after the other."""

    CHANGES = "changes"
    FUNCTION = "function"


@router.get("/stations/{station_id}/prove", name="show_prove")
def show_prove(request: Request, work: WorkDep, order: Order = Order.CHANGES) -> Response:
    return page(request, "prove.html", _view(work, order))


@router.post("/stations/{station_id}/observations", name="save_observation", dependencies=[Depends(not_forged)])
def save_observation(
    request: Request,
    session: SessionDep,
    person: WriterDep,
    work: WorkDep,
    proof_id: Text,
    method: Annotated[Method, Form()],
    save_key: Text,
    seen: Text = "",
    note: Text = "",
    instrument: Text = "",
    witness: Text = "",
) -> Response:
    proof = work.proof(proof_id)
    if proof is None:
        raise HTTPException(422, f"proof is {proof_id[:60]!r}; this plan has no such proof.")
    units = units_of(request)
    try:
        verdict = judge(proof, read_seen(proof, seen, units))
    except ValueError as wrong:
        typed = {"seen": seen[:200], "note": note[:1000], "method": method, "instrument": instrument[:200], "witness": witness[:80]}
        return page(
            request, "prove.html", {**_view(work), "wrong": {"proof": proof_id, "text": str(wrong), **typed}}, 422
        )
    body = {
        "proof": proof_id,
        "seen": seen.strip()[:200],
        "units": units.value,
        "method": method.value,
        "note": note.strip(),
        "verdict": verdict.value,
        **noted(proof, work.as_proved),
        "instrument": instrument.strip()[:200],
        "witness": witness.strip()[:80],
    }
    typed = [body[part] for part in ("proof", "seen", "units", "method", "note", "instrument", "witness")]
    records.keep(session, work.row.id, person.name, [Draft(Kind.OBSERVATION, body, save_key, typed)])
    url = request.url_for("show_prove", station_id=work.row.id)
    return RedirectResponse(f"{url}#after-{proof_id}", status_code=303)


@router.post("/stations/{station_id}/bench-proofs", name="prove_on_bench", dependencies=[Depends(not_forged)])
def prove_on_bench(request: Request, session: SessionDep, person: WriterDep, work: WorkDep, save_key: Text) -> Response:
    """Let the bench drive the level through every point, and keep each verdict that is not already proved on site."""
    if not work.proofs:
        raise HTTPException(409, "There is nothing to prove yet: complete the survey and open every window first.")
    _keep_shown(session, work, person.name, save_key, None)
    return RedirectResponse(request.url_for("show_prove", station_id=work.row.id), status_code=303)


class SomeProofs(BaseModel):
    """Some proofs to be shown on the bench, by id."""

    model_config = ConfigDict(extra="forbid")
    save_key: Annotated[str, Field(min_length=8, max_length=60)]
    ids: list[Annotated[str, Field(max_length=60)]] = Field(min_length=1, max_length=60)


@router.post("/stations/{station_id}/bench-some", name="prove_some", dependencies=[Depends(not_forged)])
def prove_some(session: SessionDep, person: WriterDep, work: WorkDep, asked: SomeProofs) -> Response:
    """The same for some of the proofs, so that the page can show how far it is, and stop."""
    unknown = [proof_id for proof_id in asked.ids if work.proof(proof_id) is None]
    if unknown:
        raise HTTPException(422, f"ids holds {unknown[0]!r}; this plan has no such proof.")
    failed = _keep_shown(session, work, person.name, asked.save_key, frozenset(asked.ids))
    return JSONResponse({"failed": failed})


def _keep_shown(session: Any, work: Work, author: str, save_key: str, only: frozenset[str] | None) -> int:
    """Play the bench and keep each verdict that is not already proved on site. Returns how many failed."""
    read_back, failed, drafts = len(work.read_back_codes), 0, []
    note = (
        f"with {read_back} number{'s' if read_back > 1 else ''} as read back"
        if read_back
        else "with the numbers of the plan"
    )
    parts = (work.kind, work.survey, work.choices, work.typed_plan, work.held, only)
    shown_all = computing.answer(computing.shown_proofs, *parts)
    for number, shown in enumerate(shown_all):
        failed += shown.verdict is Verdict.FAILED
        if work.proof_state(shown.proof)[0] == "passed" and shown.verdict is Verdict.PASSED:
            continue
        unit = display_unit(shown.proof.quantity, UnitSystem.METRIC)
        body = {
            "proof": shown.proof.id,
            "seen": typed_seen(shown.seen, unit),
            "units": UnitSystem.METRIC.value,
            "method": Method.BENCH.value,
            "note": f"{shown.scene.name}, {note}",
            "verdict": shown.verdict.value,
            **noted(shown.proof, work.as_proved),
        }
        drafts.append(Draft(Kind.OBSERVATION, body, f"{save_key}-{number}"))
    records.keep(session, work.row.id, author, drafts)
    return failed


def typed_seen(seen: float | bool | tuple[int, ...] | None, unit: DisplayUnit) -> str:
    """What the bench saw, as a person would type it in metric units."""
    if isinstance(seen, bool):
        return "yes" if seen else "no"
    if isinstance(seen, tuple):
        return " ".join(map(str, seen))
    return "never came" if seen is None else f"{unit.from_si(seen):.3f}"


def read_seen(proof: Proof, text: str, units: UnitSystem) -> float | bool | tuple[int, ...]:
    """What was seen, as typed. ValueError names what is accepted."""
    if proof.answer is Answer.YES_NO:
        if text not in ("yes", "no"):
            raise ValueError("Seen: choose Yes or No.")
        return text == "yes"
    if proof.answer is Answer.SEQUENCE:
        try:
            return read_sequence(text)
        except ValueError:
            raise ValueError(f"Seen: {text[:40]!r}; accepted: pump numbers in order, for example 1 2 1.") from None
    return AskedNumber(label="Seen", quantity=proof.quantity).read(text, units)


def seen_words(observed: Observed, proof: Proof | None, units: UnitSystem) -> str:
    """What was seen, in this person's units."""
    if proof is None or proof.answer is not Answer.NUMBER:
        return {"yes": "seen", "no": "not seen"}.get(observed.seen, observed.seen)
    try:
        value_si = AskedNumber(label="Seen", quantity=proof.quantity).read(observed.seen, UnitSystem(observed.units))
    except ValueError:  # the bench says in words that something never came
        return observed.seen
    return show(value_si, proof.quantity, units)


def _view(work: Work, order: Order = Order.CHANGES) -> dict[str, Any]:
    groups: dict[str, list[dict[str, Any]]] = {}
    known, listed, fewest = _NONE if work.plan is None else _orders.once(work.decided, lambda: _ordered(work))
    by_stand = order is Order.CHANGES and known
    titled = [(_stand_words(group.stand), proof) for group in fewest.groups for proof in group.proofs] if by_stand else [(proof.group, proof) for proof in work.proofs]
    for title, proof in titled:
        state, last = work.proof_state(proof)
        tries = work.history.tries(proof.id)
        item = {"proof": proof, "state": state, "last": last, "tries": tries, "why": why(work, proof), "by": stale_by(work, proof, last) if state == "stale" else []}
        groups.setdefault(title, []).append(item)
    states = [(item["proof"].id, item["state"]) for items in groups.values() for item in items]
    # what failed stays in sight until it is made again
    following = next((name for name, state in states if state == "failed"), next((name for name, state in states if state != "passed"), None))
    return {
        "work": work,
        "view": "prove",
        "groups": groups,
        "order": {"by_stand": by_stand, "listed": listed, "fewest": fewest, "known": known},
        "methods": METHODS,
        "following": following,
        "seen_words": lambda observed, proof: seen_words(observed, proof, work.units),
        "reads": lambda proof: _on_instruments(work, proof),
    }


def _ordered(work: Work) -> tuple[bool, Ordered, Ordered]:
    """Whether the bench says what is done for the proofs; in which order they come by function, and with the fewest changes."""
    scenes = work.kind.scenes(work.survey, work.choices, work.typed_plan)
    return bool(scenes), as_listed(work.proofs, scenes), fewest_changes(work.proofs, scenes)


def _stand_words(stand: Stand | None) -> str:
    """How the switches stand, as a heading."""
    if stand is None:
        return "By eye, or without a pump"
    words = [f"pump {pump} {switch_of(place).upper()}" for pump, place in sorted(stand, key=lambda each: (each[1], int(each[0])))]
    return f"P{', '.join(words)[1:]}" if words else "Every switch in AUTO"


def why(work: Work, proof: Proof) -> list[dict[str, str]]:
    """Why a proof exists: the settings that it proves, and what happens where one of them is not as it should be."""
    found = []
    for one in proof.proves:
        if one in work.plan:
            setting = work.plan.setting(one)
            harms = [bounds[0].harm for bounds in (setting.window.lower, setting.window.upper) if bounds]
            found.append({"setting": f"{setting.label} {show(setting.value, setting.quantity, work.units, setting.more_decimals)}", "harm": " ".join(harms)})
    return found


def stale_by(work: Work, proof: Proof, last: Observed | None) -> list[str]:
    """By what a proof went stale, in words."""
    if last is None:
        return []
    found = []
    for each in moved(proof, last.settings, work.as_proved):
        if each.now is None:
            found.append(f"{each.setting.replace('_', ' ')} is no longer part of the plan")
        else:
            was, now = (show(value, each.now.quantity, work.units, each.now.more_decimals) for value in (each.was, each.now.value))
            found.append(f"{each.now.label} was {was}, is {now}")
    if claims_other(proof, last):
        found.append(f"what must be seen was: {last.must_see.rstrip('.')}")
    if not found and last.expected is not None:
        was, now = (show(value, proof.quantity, work.units) for value in (last.expected, proof.expected))
        found.append(f"what must be seen was {was}, is {now}")
    return found


def _on_instruments(work: Work, proof: Proof) -> str:
    """The number that must be seen as a meter in the loop shows it; empty where the sensor does not read it."""
    instruments, settings = work.kind.instruments, [work.plan.setting(one) for one in proof.proves if one in work.plan]
    if instruments is None or proof.answer is not Answer.NUMBER or proof.quantity is not work.kind.main:
        return ""
    is_read = bool(settings) and all(instruments.is_read(setting) for setting in settings)
    return instruments.readings(work.survey, proof.expected).worded(work.units) if is_read else ""
