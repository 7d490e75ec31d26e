"""Signing in and out, the first person, adding people, and how each person likes to read."""

from collections.abc import Callable
from typing import Annotated, Any

from fastapi import APIRouter, Depends, Form, HTTPException, Request, Response
from fastapi.responses import JSONResponse, RedirectResponse

from goodbalance.core.balance.quantities import UnitSystem
from goodbalance.core.errors import OutOfRange
from goodbalance.store import people, sessions
from goodbalance.store.models import PersonRow
from goodbalance.store.people import Role
from goodbalance.web.guards import PersonDep, SessionDep, csrf_token, not_forged
from goodbalance.web.rendering import page

router = APIRouter()
THEMES = ("paper", "pit", "sun")
Text = Annotated[str, Form()]


@router.get("/sign-in", name="sign_in")
def sign_in(request: Request, session: SessionDep, then: str = "/") -> Response:
    if people.nobody_yet(session):
        return page(request, "first_person.html", {"name": ""})
    return page(request, "sign_in.html", {"then": then, "name": ""})


@router.post("/sign-in", name="sign_in_post", dependencies=[Depends(not_forged)])
def sign_in_post(request: Request, session: SessionDep, name: Text, password: Text, then: Text = "/") -> Response:
    name = " ".join(name[:80].split())
    throttle, address = request.app.state.throttle, request.client.host if request.client else ""
    wait_s, problem, status = throttle.wait_s(name, address), "", 422
    if wait_s > 0.0:
        problem, status = f"Too many wrong tries for this name. Try again in {wait_s:.0f} s.", 429
    elif (person := people.signed_in(session, name, password[:200])) is None:
        throttle.failed(name, address)
        problem = "Name and password do not go together."
    if problem:
        return page(request, "sign_in.html", {"then": then, "name": name, "problem": problem}, status=status)
    throttle.succeeded(name, address)
    _remember(request, session, person.id)
    return RedirectResponse(_inside(then), status_code=303)


@router.post("/first-person", name="first_person", dependencies=[Depends(not_forged)])
def first_person(request: Request, session: SessionDep, name: Text, password: Text) -> Response:
    try:
        person = people.add_first_person(session, name, password)
    except OutOfRange as wrong:
        return page(request, "first_person.html", {"name": name[:80], "problem": str(wrong)}, status=422)
    if person is None:
        raise HTTPException(403, "The first person is already made. Sign in, or ask a lead to add you.")
    _remember(request, session, person.id)
    return RedirectResponse("/", status_code=303)


@router.post("/sign-out", name="sign_out", dependencies=[Depends(not_forged)])
def sign_out(request: Request, session: SessionDep) -> Response:
    """Ends the session here and in the database: its cookie is worth nothing afterwards, wherever a copy lies."""
    sessions.end(session, request.session.get("token", ""))
    session.commit()
    request.session.clear()
    return RedirectResponse(request.url_for("sign_in"), status_code=303)


@router.get("/session", name="who_is_here")
def who_is_here(request: Request, session: SessionDep) -> JSONResponse:
    """Who is signed in in this browser, and the token of that session: for a page that has been open for long."""
    person, _ = sessions.person_of(session, request.session.get("token", ""))
    found = None if person is None else {"id": person.id, "name": person.name}
    return JSONResponse({"person": found and found["id"], "name": found and found["name"], "csrf": csrf_token(request)})


@router.get("/people", name="people")
def list_people(request: Request, session: SessionDep, person: PersonDep) -> Response:
    return _people_page(request, session, person, {})


@router.post("/people", name="add_person", dependencies=[Depends(not_forged)])
def add_person(
    request: Request, session: SessionDep, person: PersonDep, name: Text, password: Text, role: Annotated[Role, Form()]
) -> Response:
    if person.role != Role.LEAD:
        raise HTTPException(403, "Only a lead adds people.")
    try:
        people.add_person(session, name, role, password)
    except OutOfRange as wrong:
        typed = {"name": name[:80], "role": role}
        return _people_page(request, session, person, {"typed": typed, "problem": str(wrong)}, 422)
    session.commit()
    return RedirectResponse(request.url_for("people"), status_code=303)


@router.post("/people/{person_id}/role", name="change_role", dependencies=[Depends(not_forged)])
def change_role(
    request: Request, session: SessionDep, person: PersonDep, person_id: int, role: Annotated[Role, Form()]
) -> Response:
    """What somebody may do from now on; their other pages must be opened anew."""
    return _change(request, session, person, person_id, lambda other: people.change_role(session, other, role))


@router.post("/people/{person_id}/retire", name="retire_person", dependencies=[Depends(not_forged)])
def retire_person(
    request: Request, session: SessionDep, person: PersonDep, person_id: int, back: Text = ""
) -> Response:
    """Somebody leaves, or comes back. What they wrote stays under their name."""
    return _change(request, session, person, person_id, lambda other: people.retire(session, other, bool(back)))


def _change(
    request: Request, session: SessionDep, person: PersonRow, person_id: int, act: Callable[[PersonRow], None]
) -> Response:
    """A lead changes a person; whoever is changed signs in again."""
    if person.role != Role.LEAD:
        raise HTTPException(403, "Only a lead changes people.")
    other = people.person(session, person_id)
    if other is None:
        raise HTTPException(404, f"There is no person number {person_id}.")
    try:
        act(other)
    except OutOfRange as wrong:
        session.rollback()
        return _people_page(request, session, person, {"people_problem": str(wrong)}, 422)
    if other.id != person.id:
        sessions.end_others(session, other.id)
    session.commit()
    return RedirectResponse(request.url_for("people"), status_code=303)


@router.post("/me/password", name="change_password", dependencies=[Depends(not_forged)])
def change_password(request: Request, session: SessionDep, person: PersonDep, old: Text, password: Text) -> Response:
    """A new password for oneself; every other browser is signed out."""
    try:
        people.change_password(session, person, old[:200], password)
    except OutOfRange as wrong:
        return _people_page(request, session, person, {"password_problem": str(wrong)}, 422)
    sessions.end_others(session, person.id, request.session["token"])
    session.commit()
    return _people_page(request, session, person, {"changed": True})


@router.post("/me/sessions", name="end_other_sessions", dependencies=[Depends(not_forged)])
def end_other_sessions(request: Request, session: SessionDep, person: PersonDep) -> Response:
    """Sign out everywhere else."""
    sessions.end_others(session, person.id, request.session["token"])
    session.commit()
    return RedirectResponse(request.url_for("people"), status_code=303)


def _people_page(
    request: Request, session: SessionDep, person: PersonRow, more: dict[str, Any], status: int = 200
) -> Response:
    token = request.session.get("token", "")
    own = [(row, sessions.is_this(row, token)) for row in sessions.of(session, person.id)]
    view = {"people": people.people(session), "roles": list(Role), "typed": {}, "sessions": own}
    return page(request, "people.html", {**view, **more}, status)


@router.post("/me", name="reading_habits", dependencies=[Depends(not_forged)])
def reading_habits(
    request: Request,
    session: SessionDep,
    person: PersonDep,
    units: Annotated[UnitSystem | None, Form()] = None,
    theme: Annotated[str | None, Form()] = None,
    then: Text = "/",
) -> Response:
    if theme is not None and theme not in THEMES:
        raise HTTPException(422, f"theme is {theme[:20]!r}; accepted: {', '.join(THEMES)}")
    person.units = units.value if units is not None else person.units
    person.theme = theme or person.theme
    session.commit()
    if "application/json" in request.headers.get("accept", ""):
        return JSONResponse({"units": person.units, "theme": person.theme})
    return RedirectResponse(_inside(then), status_code=303)


def _inside(then: str) -> str:
    """A path of this site; the first page for anything that leads elsewhere. Browsers read a backslash as a slash."""
    return then if then.startswith("/") and then[1:2] not in ("/", "\\") else "/"


def _remember(request: Request, session: SessionDep, person_id: int) -> None:
    """A fresh session for whoever has just signed in; commits what made it."""
    token = sessions.begin(session, person_id, request.headers.get("user-agent", ""))
    session.commit()
    request.session.clear()
    request.session["token"] = token
