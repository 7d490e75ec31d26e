"""Reckon: every setting in its window, the section to drag in, the schools, and what follows."""

import math
from collections.abc import Callable
from typing import Annotated, Any

from fastapi import APIRouter, Depends, HTTPException, Request, Response
from fastapi.responses import JSONResponse, RedirectResponse
from markupsafe import Markup
from pydantic import BaseModel, ConfigDict, Field

from goodbalance.core.balance.asked_number import AskedNumber
from goodbalance.core.balance.facts import sections
from goodbalance.core.balance.plan import Figure, Plan, Setting
from goodbalance.core.balance.quantities import Quantity, UnitSystem, show
from goodbalance.core.balance.window import Opener
from goodbalance.core.errors import OutOfRange
from goodbalance.core.record.chain import Kind
from goodbalance.core.record.history import History
from goodbalance.core.sheets.entry_sheet import harm_outside
from goodbalance.store import records
from goodbalance.store.records import Draft
from goodbalance.web import computing
from goodbalance.web.conflicts import number_conflicts, text_conflicts
from goodbalance.web.guards import FormDep, SessionDep, WriterDep, not_forged
from goodbalance.web.kinds.pages import pages_of
from goodbalance.web.loading import WorkDep, after_save
from goodbalance.web.pictures import picture_of
from goodbalance.web.rendering import page, part, units_of, written
from goodbalance.web.survey import SaveKey, as_seen, parts_of, shapes
from goodbalance.web.work import Work

router = APIRouter()
Chosen = dict[Annotated[str, Field(max_length=40)], Annotated[float, Field(ge=-1e5, le=1e7)]]
LIMITS = {
    Quantity.LEVEL: (0.0, 100.0),
    Quantity.PRESSURE: (-1e5, 1e7),
    Quantity.TIME: (0.0, 86400.0),
    Quantity.DURATION: (0.0, 7 * 86400.0),
    Quantity.PERCENT: (0.0, 1.0),
}


class Preview(BaseModel):
    """Settings in SI while a flag is dragged; nothing is stored. open: whose reasons are shown meanwhile; null: all."""

    model_config = ConfigDict(extra="forbid", allow_inf_nan=False)
    chosen: Chosen = Field(max_length=60)
    open: list[Annotated[str, Field(max_length=60)]] | None = Field(default=None, max_length=100)


class ChoicesSave(BaseModel):
    """Decisions as typed, and settings chosen in SI (a number) or left to the tool again (null).

    was: what the page had for each of them before: a text for a decision, a number or null for a setting.
    """

    model_config = ConfigDict(extra="forbid", allow_inf_nan=False)
    save_key: SaveKey
    units: UnitSystem
    changes: dict[str, Annotated[str, Field(max_length=2000)]] = Field(default_factory=dict, max_length=100)
    chosen: dict[str, float | None] = Field(default_factory=dict, max_length=60)
    was: dict[str, Annotated[str, Field(max_length=2000)] | float | None] = Field(default_factory=dict, max_length=160)


@router.get("/stations/{station_id}/reckon", name="show_reckon")
def show_reckon(request: Request, work: WorkDep, explain: bool = False) -> Response:
    """The plan. explain: with what would open empty windows at once, where no script asks for it afterwards."""
    parts = choice_parts(work)
    asked_for = {path for group in parts for field in group["fields"] for path, _ in field["only_if"]}
    context = {path: text for path, text in work.survey_answers.items() if path in asked_for}
    more: dict[str, Any] = {"work": work, "view": "reckon", "choice_parts": parts, "choice_context": context}
    if work.plan is not None:
        more |= plan_view(work, work.explained_plan if explain else work.plan, work.choices) | {"explained": explain}
        more["piece"] = _pieces(request, work, work.plan, work.choices)
        more |= _protections(work) | pages_of(work).reckon(work)
        more["rules"] = lambda group: _rules(request, work, group)
    return page(request, "reckon.html", more)


def _rules(request: Request, work: Work, group: dict[str, Any]) -> Markup:
    """A group of schools and rules, written once for what stands in it and what is refused."""
    wrong = {field["path"]: work.choices_reading.problems.get(field["path"], "") for field in group["fields"]}
    stands = tuple((field["text"], field["asked"], wrong[field["path"]]) for field in group["fields"])
    return written(request, "_rules_part.html", {"part": group, "problems": wrong}, work.kind.id, group["id"], stands)


def _protections(work: Work) -> dict[str, Any]:
    """Those this job does without, each with what follows, and those it might."""
    plan = work.plan
    declined = [(setting, without_harm(work, setting), work.history.declined[setting.id]) for setting in plan.declined if setting.id in work.history.declined]
    offered = [
        (setting, without_harm(work, setting)) for setting in plan.settings
        if setting.id in work.kind.declinable and not work.kind.not_declined(work.survey, work.choices, plan, setting.id)
    ]  # fmt: skip
    return {"declined": declined, "declinable": offered}


def without_harm(work: Work, setting: Setting) -> str:
    """What follows where a protection is left out: a level or pressure is never reached, a time never ends."""
    if setting.id in work.kind.harms_without:
        return work.kind.harms_without[setting.id]
    never = -math.inf if setting.quantity in (Quantity.LEVEL, Quantity.PRESSURE) else math.inf
    return harm_outside(setting.window, never) or setting.window.governing_upper.harm


@router.post("/stations/{station_id}/declined", name="decline", dependencies=[Depends(not_forged)])
def decline(form: FormDep, request: Request, session: SessionDep, person: WriterDep, work: WorkDep) -> Response:
    """A protection that this job does without, for a reason; or, with an empty one, has after all."""
    setting_id, reason = str(form.get("setting", "")), " ".join(str(form.get("reason", "")).split())
    if work.plan is None:
        raise HTTPException(409, "There is no plan yet: complete the survey first.")
    if reason or setting_id not in work.history.declined:
        why = work.kind.not_declined(work.survey, work.choices, work.plan, setting_id)
        if why or (setting_id not in work.plan and setting_id not in work.history.declined):
            raise HTTPException(422, f"setting is {setting_id[:60]!r}; not declined. {why or 'This plan has no such protection.'}")
        if not 10 <= len(reason) <= 500:
            raise HTTPException(422, f"The reason is {len(reason)} letters long; accepted: 10 to 500.")
    key = str(form.get("save_key", "")) or None
    records.keep(session, work.row.id, person.name, [Draft(Kind.DECLINED, {"setting": setting_id, "reason": reason}, key)])
    after_save(request, session, work)
    return RedirectResponse(f"{request.url_for('show_reckon', station_id=work.row.id)}#declined", status_code=303)


@router.post("/stations/{station_id}/reckon/preview", name="preview", dependencies=[Depends(not_forged)])
def preview(request: Request, work: WorkDep, asked: Preview) -> Response:
    if work.survey is None:
        raise HTTPException(409, "The survey is not complete; there is nothing to reckon yet.")
    choices = work.choices_with(asked.chosen)
    plan = work.plan_with(choices)
    return JSONResponse(_answer(request, work, plan, choices, {} if asked.open is None else {"whys": asked.open}))


@router.post("/stations/{station_id}/choices", name="save_choices", dependencies=[Depends(not_forged)])
def save_choices(
    request: Request, session: SessionDep, person: WriterDep, work: WorkDep, save: ChoicesSave
) -> Response:
    _check(work, save)
    conflicts: list[dict[str, Any]] = []

    def make(history: History) -> list[Draft]:
        conflicts[:] = _conflicts(work, history, save)
        lost = {conflict["id"] for conflict in conflicts}
        changes = {p: {"text": text, "units": save.units.value} for p, text in save.changes.items() if p not in lost}
        chosen = {setting_id: value for setting_id, value in save.chosen.items() if setting_id not in lost}
        return [Draft(Kind.CHOICES, {"changes": changes, "chosen": chosen}, save.save_key)] if changes or chosen else []

    records.keep(session, work.row.id, person.name, make, work.history)
    after = after_save(request, session, work)
    answer = {"conflicts": conflicts, "seq": after.history.seq, "progress": shapes(after), "problems": after.choices_reading.problems, "read_as": after.choices_reading.read_as}
    if after.plan is not None:
        answer |= _answer(request, after, after.plan, after.choices)
    return JSONResponse(answer)


def _conflicts(work: Work, history: History, save: ChoicesSave) -> list[dict[str, Any]]:
    """Decisions and settings that have changed since the page had them, each with the save that would overrule."""
    texts = {path: text for path, text in save.was.items() if isinstance(text, str)}
    found = []
    for path, there in text_conflicts(work.kind.choices_model, history.choices, save.changes, texts, save.units).items():
        again = {"changes": {path: there["mine"]}, "was": {path: there["text"]}}
        found.append({"id": path, "label": path, "theirs": there["text"], "by": there["author"], "mine": there["mine"], "again": again})
    for setting_id, there in number_conflicts(history.chosen, save.chosen, save.was).items():
        setting = work.plan.setting(setting_id) if work.plan is not None and setting_id in work.plan else None
        mine = save.chosen[setting_id]
        words = ["left to the tool" if value is None else _in_words(value, setting, work) for value in (there, mine)]
        again = {"chosen": {setting_id: mine}, "was": {setting_id: there}}
        label = setting.label if setting is not None else setting_id
        found.append({"id": setting_id, "label": label, "theirs": words[0], "by": "", "mine": words[1], "again": again})
    return found


def _in_words(value: float, setting: Setting | None, work: Work) -> str:
    return f"{value:g}" if setting is None else show(value, setting.quantity, work.units)


class TypedNumber(BaseModel):
    """A number as it was typed at a setting, with a unit of its own or in the person's."""

    model_config = ConfigDict(extra="forbid")
    setting: str = Field(max_length=40)
    text: str = Field(max_length=80)


@router.post("/stations/{station_id}/number", name="read_number", dependencies=[Depends(not_forged)])
def read_number(request: Request, work: WorkDep, typed: TypedNumber) -> JSONResponse:
    """What a text means at a setting, in SI; or why it is not accepted."""
    if work.plan is None or typed.setting not in work.plan:
        raise HTTPException(422, f"setting is {typed.setting!r}; this plan has no such setting.")
    setting = work.plan.setting(typed.setting)
    try:
        return JSONResponse({"value": AskedNumber(label=setting.label, quantity=setting.quantity).read(typed.text, work.units)})
    except OutOfRange as wrong:
        return JSONResponse({"problem": f"{wrong}, or empty to leave it to the tool."})


@router.post("/stations/{station_id}/reckon", name="save_level_form", dependencies=[Depends(not_forged)])
def save_level_form(form: FormDep, request: Request, session: SessionDep, person: WriterDep, work: WorkDep) -> Response:
    """One setting from a page without script: a number sets it, an empty field leaves it to the tool."""
    setting_id, text = str(form.get("setting", "")), str(form.get("value", ""))
    if work.plan is None or all(setting.id != setting_id for setting in work.plan.settings):
        raise HTTPException(422, f"setting is {setting_id[:40]!r}; this plan has no such setting.")
    value: float | None = None
    if text.strip():
        setting = work.plan.setting(setting_id)
        value = AskedNumber(label=setting.label, quantity=setting.quantity).read(text, units_of(request))
    save = ChoicesSave(save_key=str(form.get("save_key", "")), units=units_of(request), chosen={setting_id: value})
    _check(work, save)
    had = as_seen(session, work, form).history.chosen.get(setting_id)

    def make(history: History) -> list[Draft]:
        for _, there in number_conflicts(history.chosen, save.chosen, {setting_id: had}).items():
            setting, mine = work.plan.setting(setting_id), save.chosen[setting_id]
            words = ["left to the tool" if v is None else _in_words(v, setting, work) for v in (there, mine)]
            raise HTTPException(409, f"{setting.label} is {words[0]} since you loaded the page; you set {words[1]}. Not saved: load it again.")
        return [Draft(Kind.CHOICES, {"chosen": save.chosen}, save.save_key)]

    records.keep(session, work.row.id, person.name, make, work.history)
    return RedirectResponse(request.url_for("show_reckon", station_id=work.row.id), status_code=303)


@router.get("/stations/{station_id}/openers", name="show_openers")
def show_openers(request: Request, work: WorkDep) -> Response:
    """What would open each empty window; asked for by the page once it is shown, for the search takes a while."""
    if work.plan is None:
        return JSONResponse({})
    try:
        plan = work.explained_plan
    except (computing.Busy, computing.TooLong):
        return JSONResponse({"later": "Much is worked out at this moment. Load the page again to see what would open it."})
    shown = {"plan": plan, "opened": lambda opener: _opener_words(opener, work.units)}
    empty = [setting for setting in plan.settings if setting.window.is_empty]
    return JSONResponse({one.id: part(request, "_openers.html", {**shown, "setting": one}) for one in empty})


@router.get("/stations/{station_id}/chances", name="show_chances")
def show_chances(work: WorkDep) -> Response:
    """How likely each setting stays inside its window; asked for by the page once it is shown, which can do without."""
    try:
        found = work.chances
    except (computing.Busy, computing.TooLong):
        found = {}
    return JSONResponse({setting_id: _chance_words(share) for setting_id, share in found.items()})


def _chance_words(share: float) -> dict[str, Any]:
    """In whole hundredths; never a certainty that 20,000 draws cannot give."""
    hundredths = min(99, round(share * 100.0))
    cases = f"{hundredths}{'+' if share > 0.99 else ''} of 100"
    why = f"With the facts as unsure as the survey says, it stays inside in {cases} cases."
    return {"share": share, "short": f"holds in {cases}", "why": why, "doubtful": share < 0.9}


def choice_parts(work: Work) -> list[dict[str, Any]]:
    """Schools, rules and controller as form fields; the controller's families are offered by name."""
    parts = parts_of(work.kind.choices_model, work.history.choices, work.units, work.survey_answers)
    families = [(profile.id, profile.name) for profile in work.suited_profiles]
    for group in parts:
        for field in group["fields"]:
            field["options"] = families if field["path"] == "keypad.profile" else field["fact"].options
    return parts


def plan_view(work: Work, plan: Plan, choices: Any) -> dict[str, Any]:
    """What the templates and the drawing need of a plan."""
    return {
        "plan": plan,
        "settings": ordered(work, plan),
        "opened": lambda opener: _opener_words(opener, work.units),
        "picture": picture_of(work, plan, choices),
    }


def ordered(work: Work, plan: Plan) -> tuple[Setting, ...]:
    """Settings as they are shown: group by group, levels from the highest down."""
    first = work.kind.groups[0][0]
    upright = plan.group(first)[::-1] if work.kind.upright else plan.group(first)
    return (*upright, *(setting for name, _ in work.kind.groups[1:] for setting in plan.group(name)))


def _answer(request: Request, work: Work, plan: Plan, choices: Any, more: dict[str, Any] | None = None) -> dict[str, Any]:
    view = plan_view(work, plan, choices)
    piece = _pieces(request, work, plan, choices)
    html = part(request, "_plan.html", {"work": work, "piece": piece, **view, **(more or {})})
    return {"html": html, "picture": view["picture"]}


def _pieces(request: Request, work: Work, plan: Plan, choices: Any) -> Callable[[str, Setting | Figure], Markup]:
    """Beam, reason and figures as pieces of the page: they hang on the plan and the units alone, so written once."""
    decided = work.decided_by(choices)

    def piece(template: str, of: Setting | Figure) -> Markup:
        return written(request, template, {"work": work, "plan": plan, "of": of}, decided, of.id)

    return piece


def _opener_words(opener: Opener, units: UnitSystem) -> str:
    if not opener.quantity:
        return opener.what
    now, needed = (show(value, Quantity(opener.quantity), units) for value in (opener.now, opener.needed))
    return opener.what.format(now=now, needed=needed)


def _check(work: Work, save: ChoicesSave) -> None:
    known = {question.path for group in sections(work.kind.choices_model) for question in group.facts}
    for path in save.changes:
        if path not in known:
            raise HTTPException(422, f"{path[:80]!r} is not a choice of this kind of station.")
    settings = {setting.id: setting for setting in work.plan.settings} if work.plan is not None else {}
    for setting_id, value in save.chosen.items():
        if setting_id not in settings:
            raise HTTPException(422, f"{setting_id[:40]!r} is not a setting of this plan.")
        quantity = settings[setting_id].quantity
        lowest, highest = LIMITS.get(quantity, (0.0, 1000.0))
        if value is not None and not lowest <= value <= highest:
            shown = show(value, quantity, work.units)
            limits = " to ".join(show(limit, quantity, work.units) for limit in (lowest, highest))
            raise HTTPException(422, f"{setting_id} is {shown}; accepted: {limits}")
