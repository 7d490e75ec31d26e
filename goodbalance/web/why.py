"""Why is it like this: what somebody sees of a station, weighed against every fault that the bench can play."""

import math
from typing import Annotated, Any

from fastapi import APIRouter, Depends, HTTPException, Request, Response
from fastapi.responses import JSONResponse
from pydantic import BaseModel, ConfigDict, Field

from goodbalance.core.balance.asked_number import AskedNumber
from goodbalance.core.balance.quantities import Quantity, UnitSystem, display_unit, show, show_number
from goodbalance.core.rehearsal.diagnosis import AS_IT_SHOULD, Glimpse, Outcome, Played, causes, checks
from goodbalance.core.rehearsal.engine import TimedAction
from goodbalance.core.rehearsal.guarding import Mode
from goodbalance.core.rehearsal.troubles import Sign, Trouble
from goodbalance.web import computing
from goodbalance.web.guards import SessionDep, not_forged
from goodbalance.web.loading import WorkDep, load_work
from goodbalance.web.memory import Memory
from goodbalance.web.noticing import troubles_of, value_words
from goodbalance.web.rendering import clock, page, part, units_of
from goodbalance.web.running import BenchAsk, actions_of, check_bench, put_back, take_run
from goodbalance.web.work import Work

router = APIRouter()
SHOWN = 6  # causes told
NOTHING = "none"  # typed where a display shows nothing
PLACES = ("HAND", "OFF", "AUTO")
SMALLEST, LARGEST = -1e9, 1e9
_guarded: Memory[tuple[str, str], Any] = Memory(64)
_looks: Memory[tuple[str, str, tuple[int, ...], str], tuple[Glimpse, ...]] = Memory(300)  # a third of a megabyte each; more than the faults of any one station


class Seen(BaseModel):
    """What somebody sees: how each pump's switch stands (0 hand, 1 off, 2 auto), and every sign they have looked at, as text."""

    model_config = ConfigDict(extra="forbid")
    switches: tuple[Annotated[int, Field(ge=0, le=2)], ...] = Field(max_length=16)
    seen: dict[Annotated[str, Field(max_length=60)], Annotated[str, Field(max_length=40)]] = Field(max_length=120)
    tries: bool = False  # ask for what to try between the causes, once they are known


class WaysAsk(BaseModel):
    """What would start a pump (1 for pump 1), or stop it, after one of the causes has brought about what was seen."""

    model_config = ConfigDict(extra="forbid", allow_inf_nan=False)
    switches: tuple[Annotated[int, Field(ge=0, le=2)], ...] = Field(max_length=16)
    cause: Annotated[str, Field(max_length=80)]
    story: Annotated[str, Field(max_length=80)]
    at_s: float = Field(ge=0.0, le=1e6)
    since_s: float = Field(ge=0.0, le=1e6)
    pump: int = Field(ge=1, le=16)
    starts: bool


class RunWays(BenchAsk):
    """The same of a run on the bench."""

    pump: int = Field(ge=1, le=16)
    starts: bool


@router.get("/stations/{station_id}/why", name="show_why")
def show_why(request: Request, work: WorkDep) -> Response:
    """The form: what can be seen, and nothing of it must be."""
    if work.plan is None or work.kind.diagnosis is None:
        return page(request, "why.html", {"work": work, "view": "rehearse", "places": {}})
    places: dict[str, list[Sign]] = {}
    for sign in signs_of(work):
        if sign.between is None:
            places.setdefault(sign.place, []).append(sign)
    return page(request, "why.html", {"work": work, "view": "rehearse", "places": places, "pumps": _pumps(work), "switches": PLACES})


@router.post("/stations/{station_id}/why", name="say_why", dependencies=[Depends(not_forged)])
def say_why(request: Request, work: WorkDep, asked: Seen) -> Response:
    """The causes, once every fault has been played; until then how many were. Any process plays what it lacks."""
    signs, troubles = signs_of(work), troubles_of(work)
    seen = _read(work, signs, asked)
    _check_switches(work, asked.switches)
    runs = _runs(work)
    listed: tuple[Trouble | None, ...] = (None, *troubles)
    looks = {_id(each): _looks.get((work.head, runs[0], asked.switches, _id(each))) for each in listed}
    lacking = [each for each in listed if looks[_id(each)] is None]
    if lacking:
        parts = (work.kind, work.survey, work.choices, runs[1], tuple(lacking), _before(asked.switches))
        more_looks = computing.answer(computing.played, *parts)
        for name, each in more_looks.items():
            _looks.put((work.head, runs[0], asked.switches, name), each)
        return JSONResponse({"played": len(listed) - len(lacking) + len(more_looks), "of": len(listed)})
    played = Played(signs, troubles, {name: each for name, each in looks.items() if each is not None})
    found = causes(played, seen)
    if asked.tries:
        parts = (work.kind, work.survey, work.choices, runs[1], _before(asked.switches), Played(signs, troubles, {}), found[:SHOWN])
        ways = computing.answer(computing.tried, *parts)
        words = {"work": work, "tries": ways, "outcome": lambda check, each: outcome_words(check.sign, each, work.units)}
        return JSONResponse({"html": part(request, "_tries.html", words)})
    more = {
        "work": work, "causes": found[:SHOWN], "checks": checks(played, seen), "seen": len(asked.seen), "clock": clock, "pumps": _pumps(work),
        "words": lambda sign, value: value_words(sign, value, work.units), "outcome": lambda check, each: outcome_words(check.sign, each, work.units),
        "asked": seen, "on": lambda cause, pump: _runs_there(played, cause.like, pump),
    }  # fmt: skip
    return JSONResponse({"html": part(request, "_causes.html", more)})


@router.post("/stations/{station_id}/ways", name="say_ways", dependencies=[Depends(not_forged)])
def say_ways(request: Request, work: WorkDep, asked: WaysAsk) -> Response:
    """What would start or stop a pump, where one of the causes has brought about what was seen."""
    troubles = {trouble.id: trouble for trouble in troubles_of(work)}
    _check_switches(work, asked.switches)
    stories = {story.name: story for story in work.kind.diagnosis.stories(work.survey, work.choices, work.plan)}
    if asked.story not in stories or asked.cause not in {AS_IT_SHOULD, *troubles}:
        raise HTTPException(422, "This station has no such cause or story. Ask again.")
    story, trouble = stories[asked.story], troubles.get(asked.cause)
    broken = () if trouble is None else (trouble.put(asked.since_s),)
    actions = tuple(sorted((*_before(asked.switches), *story.actions, *broken), key=lambda action: action.at_s))
    plan, program = _runs(work)[1]
    asked_for = (work.kind, work.survey, work.choices, (plan, story.start, program), actions, min(asked.at_s, story.until_s))
    return _told(request, work, asked_for, asked.pump, asked.starts, () if trouble is None else (trouble,))


@router.post("/stations/{station_id}/bench-ways", name="run_ways", dependencies=[Depends(not_forged)])
def run_ways(request: Request, session: SessionDep, work: WorkDep, ask: RunWays) -> Response:
    """The same where a run of the bench stands."""
    work = work if ask.covers is None else load_work(session, work.row.id, units_of(request), ask.covers)
    check_bench(work, ask)
    troubles, actions = troubles_of(work), actions_of(ask)
    last = {(action.kind, action.target): action.value for action in actions}
    broken = tuple(trouble for trouble in troubles if last.get((trouble.kind, trouble.target)) == trouble.broken)
    asked_for = (work.kind, work.survey, work.choices, work.runs(ask.program, ask.start), actions, ask.to_s)
    return _told(request, work, asked_for, ask.pump, ask.starts, broken)


@router.post("/stations/{station_id}/bench-signs", name="run_signs", dependencies=[Depends(not_forged)])
def run_signs(request: Request, session: SessionDep, work: WorkDep, ask: BenchAsk) -> Response:
    """What somebody would see where a run of the bench stands, as they would type it: to ask why from there."""
    work = work if ask.covers is None else load_work(session, work.row.id, units_of(request), ask.covers)
    signs_of(work)
    run, _ = take_run(work, ask)
    there = work.kind.diagnosis.signs(run.bench)
    lines = run.bench.reasons()
    last = {action.target: int(action.value) for action in run.actions if action.kind == "switch"}
    put_back(work, ask, run)
    switches = [last.get(str(pump + 1), PLACES.index("AUTO")) for pump in range(len(lines))]
    return JSONResponse({"switches": switches, "seen": {sign.id: typed_sign(sign, work.units) for sign in there if sign.between is None}})


@router.get("/stations/{station_id}/guarded", name="show_guarded")
def show_guarded(request: Request, work: WorkDep) -> Response:
    """What still protects a pump in HAND and past its controller; its script asks for the runs."""
    return page(request, "guarded.html", {"work": work, "view": "rehearse", "ready": work.plan is not None and work.kind.diagnosis is not None and work.kind.motors is not None})


@router.post("/stations/{station_id}/guarded", name="run_guarded", dependencies=[Depends(not_forged)])
def run_guarded(request: Request, work: WorkDep) -> Response:
    """The table, from runs of the bench with the numbers as they stand."""
    signs_of(work)
    if work.kind.motors is None:
        raise HTTPException(422, "A station of this kind has no motors.")
    driven = any(duty.driven for duty in work.kind.motors.duties(work.survey))
    name, runs = _runs(work)
    found = _guarded.once((work.head, name), lambda: computing.answer(computing.still_guarded, work.kind, work.survey, work.choices, runs, driven))
    facts = work.kind.motors.protection(work.survey)
    leakage = {"leakage": facts, "leakage_at": show(facts.leakage_a, Quantity.CURRENT, work.units)}
    more = {"work": work, "dangers": found[0], "rows": found[1], "modes": tuple(Mode), "driven": driven, "clock": clock, **leakage}
    return JSONResponse({"html": part(request, "_guarded.html", more)})


def _told(request: Request, work: Work, asked_for: tuple[Any, ...], pump: int, starts: bool, troubles: tuple[Trouble, ...]) -> Response:
    if pump > _pumps(work):
        raise HTTPException(422, f"pump is {pump}; accepted: 1 to {_pumps(work)}")
    found = computing.answer(computing.ways, *asked_for, (pump - 1, starts), troubles)
    return JSONResponse({"html": part(request, "_ways.html", {"work": work, "ways": found, "pump": pump, "starts": starts, "clock": clock})})


def signs_of(work: Work) -> tuple[Sign, ...]:
    """What can be seen of a station."""
    if work.kind.diagnosis is None:
        raise HTTPException(422, "Nothing of a station of this kind can be broken on the bench.")
    if work.plan is None:
        raise HTTPException(409, "There is no plan yet: complete the survey first.")
    found: tuple[Sign, ...] = work.kind.diagnosis.signs(work.kind.bench(work.survey, work.choices, work.plan))
    return found


def _runs(work: Work) -> tuple[str, tuple[Any, Any]]:
    """What the controllers run, as a name and as plan and program: as it stands once somebody looked at one."""
    name = "as_held" if any(stand.noted is not None for stand in work.stands) else "planned"
    plan, _, program = work.runs(name, None)
    return name, (plan, program)


def _pumps(work: Work) -> int:
    return len(work.kind.bench(work.survey, work.choices, work.plan).reasons())


def _check_switches(work: Work, switches: tuple[int, ...]) -> None:
    if len(switches) != _pumps(work):
        raise HTTPException(422, f"switches are {len(switches)}; accepted: one for each of the {_pumps(work)} pumps.")


def _before(switches: tuple[int, ...]) -> tuple[TimedAction, ...]:
    """The switches turned to where they stand."""
    turned = [(pump, place) for pump, place in enumerate(switches, 1) if PLACES[place] != "AUTO"]
    return tuple(TimedAction(0.0, "switch", str(pump), float(place)) for pump, place in turned)


def _id(trouble: Trouble | None) -> str:
    return AS_IT_SHOULD if trouble is None else trouble.id


def _runs_there(played: Played, like: Glimpse, pump: int) -> bool:
    """Whether a pump is switched on where a story looks like that."""
    return any(sign.id == f"runs.{pump}" and value == 1.0 for sign, value in zip(played.signs, like.values))


def _read(work: Work, signs: tuple[Sign, ...], asked: Seen) -> dict[str, float | None]:
    """What was typed, in SI; a difference where both its numbers were."""
    known, problems, found = {sign.id: sign for sign in signs}, [], {}
    for name, text in asked.seen.items():
        sign = known.get(name)
        if sign is None or sign.between is not None:
            raise HTTPException(422, f"seen holds {name[:40]!r}; this station has no such sign.")
        if text.strip().lower() == NOTHING and sign.quantity is not None:
            found[name] = None
        elif sign.quantity is None:
            if text not in ("yes", "no"):
                problems.append(f"{sign.label}: {text[:20]!r}; accepted: yes, no.")
            found[name] = float(text == "yes")
        else:
            value = AskedNumber(label=f"{sign.place}, {sign.label[0].lower()}{sign.label[1:]}", quantity=sign.quantity, low=SMALLEST, high=LARGEST).read_or_note(text, work.units, problems)
            found[name] = value if value is not None else math.nan
    if problems:
        raise HTTPException(422, " ".join(problems))
    for sign in signs:
        if sign.between is not None and all(found.get(each) is not None for each in sign.between):
            over, under = (found[each] for each in sign.between)
            found[sign.id] = (over or 0.0) - (under or 0.0)
    return found


def typed_sign(sign: Sign, units: UnitSystem) -> str:
    """A sign as somebody would type it."""
    if sign.quantity is None:
        return "yes" if sign.value else "no"
    return NOTHING if sign.value is None else show_number(sign.value, sign.quantity, units)


def outcome_words(sign: Sign, outcome: Outcome, units: UnitSystem) -> str:
    """What a further look may show."""
    if outcome.low is None or outcome.high is None or sign.quantity is None:
        return value_words(sign, outcome.low, units)
    if sign.apart(outcome.low, outcome.high) < 1.0:
        return value_words(sign, 0.5 * (outcome.low + outcome.high), units)
    low, high = (show_number(each, Quantity(sign.quantity), units) for each in (outcome.low, outcome.high))
    return f"{low} to {high} {display_unit(sign.quantity, units).symbol}"
