"""Who works here: everybody reads it; leads add people, change what they may, let them in again, and read who did what."""

from collections.abc import Callable
from typing import Annotated, Any

from fastapi import APIRouter, Depends, Form, HTTPException, Request, Response
from fastapi.responses import RedirectResponse
from sqlalchemy.orm import Session

from goodbalance.core.errors import OutOfRange
from goodbalance.store import deeds, links, people, second_factor, sessions
from goodbalance.store.deeds import Deed
from goodbalance.store.models import PersonRow
from goodbalance.store.people import Role
from goodbalance.web.guards import LeadDep, PersonDep, SessionDep, lacks_factor, not_forged, noted
from goodbalance.web.rendering import page

router = APIRouter()
Text = Annotated[str, Form()]
ASK_AGAIN = "Type your password first: people are changed in your name. What you typed is kept below."


@router.get("/people", name="people")
def list_people(request: Request, session: SessionDep, person: PersonDep) -> Response:
    return people_page(request, session, person, {})


@router.post("/people", name="add_person", dependencies=[Depends(not_forged)])
def add_person(
    request: Request, session: SessionDep, person: LeadDep, name: Text, role: Annotated[Role, Form()]
) -> Response:
    """Somebody new, who sets a password by the link that is shown once."""
    typed = {"typed": {"name": name[:80], "role": role}}
    if not sessions.shown_lately(session, request.session["token"]):
        return people_page(request, session, person, {**typed, "shown_problem": ASK_AGAIN}, 403)
    try:
        made = people.add_person(session, name, role, None)
    except OutOfRange as wrong:
        return people_page(request, session, person, {**typed, "problem": str(wrong)}, 422)
    noted(request, session, Deed.PERSON_ADDED, about=f"{made.name}, {role.value}")
    return _with_link(request, session, person, made)


@router.post("/people/{person_id}/link", name="make_link", dependencies=[Depends(not_forged)])
def make_link(request: Request, session: SessionDep, person: LeadDep, person_id: int) -> Response:
    """A link by which somebody who forgot it sets a new password. The old one works until then."""
    other = _other(session, person_id)
    if other.retired_at is not None:
        raise HTTPException(409, f"{other.name} works here no longer. Bring them back first.")
    if not sessions.shown_lately(session, request.session["token"]):
        return people_page(request, session, person, {"shown_problem": ASK_AGAIN}, 403)
    noted(request, session, Deed.LINK_MADE, about=other.name)
    return _with_link(request, session, person, other)


def _with_link(request: Request, session: Session, person: PersonRow, other: PersonRow) -> Response:
    """The page with a new link, which is shown once."""
    token = links.make(session, other)
    session.commit()
    return people_page(request, session, person, {"link": request.url_for("link", token=token), "link_of": other.name})


@router.post("/people/{person_id}/role", name="change_role", dependencies=[Depends(not_forged)])
def change_role(
    request: Request, session: SessionDep, person: LeadDep, person_id: int, role: Annotated[Role, Form()]
) -> Response:
    """What somebody may do from now on; their other pages must be opened anew."""

    def act(other: PersonRow) -> None:
        before = other.role
        people.change_role(session, other, role)
        noted(request, session, Deed.ROLE_CHANGED, about=f"{other.name}: {before} to {role.value}")

    return _change(request, session, person, person_id, act)


@router.post("/people/{person_id}/retire", name="retire_person", dependencies=[Depends(not_forged)])
def retire_person(request: Request, session: SessionDep, person: LeadDep, person_id: int, back: Text = "") -> Response:
    """Somebody leaves, or comes back. What they wrote stays under their name."""

    def act(other: PersonRow) -> None:
        people.retire(session, other, bool(back))
        noted(request, session, Deed.PERSON_BACK if back else Deed.PERSON_LEFT, about=other.name)

    return _change(request, session, person, person_id, act)


@router.post("/people/{person_id}/devices", name="change_devices", dependencies=[Depends(not_forged)])
def change_devices(request: Request, session: SessionDep, person: LeadDep, person_id: int, may: Text = "") -> Response:
    """Whether somebody may write to devices that are listed as to be written."""

    def act(other: PersonRow) -> None:
        if may and other.role == Role.READER:
            raise OutOfRange("person", other.name, "somebody who may write")
        other.writes_devices = bool(may)
        noted(request, session, Deed.MAY_WRITE_DEVICES if may else Deed.NO_DEVICES, about=other.name)

    return _change(request, session, person, person_id, act)


@router.post("/people/{person_id}/second-factor", name="drop_factor", dependencies=[Depends(not_forged)])
def drop_factor(request: Request, session: SessionDep, person: LeadDep, person_id: int) -> Response:
    """Somebody lost the telephone: from now on only the password is asked of them."""

    def act(other: PersonRow) -> None:
        if other.id == person.id:
            raise OutOfRange("person", other.name, "somebody else; your own second factor is turned off below")
        second_factor.turn_off(other)
        noted(request, session, Deed.SECOND_FACTOR_OFF, about=other.name)

    return _change(request, session, person, person_id, act)


def _change(
    request: Request, session: Session, person: PersonRow, person_id: int, act: Callable[[PersonRow], None]
) -> Response:
    """A lead changes a person; whoever is changed signs in again."""
    other = _other(session, person_id)
    if not sessions.shown_lately(session, request.session["token"]):
        return people_page(request, session, person, {"shown_problem": ASK_AGAIN}, 403)
    try:
        act(other)
    except OutOfRange as wrong:
        session.rollback()
        return people_page(request, session, person, {"people_problem": str(wrong)}, 422)
    if other.id != person.id:
        sessions.end_others(session, other.id)
    session.commit()
    return RedirectResponse(request.url_for("people"), status_code=303)


def _other(session: Session, person_id: int) -> PersonRow:
    other = people.person(session, person_id)
    if other is None:
        raise HTTPException(404, f"There is no person number {person_id}.")
    return other


@router.get("/people/deeds", name="deeds")
def show_deeds(request: Request, session: SessionDep, person: LeadDep, page_number: int = 1, who: str = "") -> Response:
    """Who came in, was refused, changed people, took files in or out."""
    number = min(max(page_number, 1), 100_000)
    rows, count = deeds.page_of(session, number, who[:80])
    pages = max(1, -(-count // deeds.PAGE))
    more = {"rows": rows, "count": count, "page_number": number, "pages": pages, "who": who[:80], "people": people.people(session)}
    return page(request, "deeds.html", more)


def people_page(
    request: Request, session: Session, person: PersonRow, more: dict[str, Any], status: int = 200
) -> Response:
    """Everybody, and what the person who asks settles for themselves."""
    token = request.session.get("token", "")
    own = [(row, sessions.is_this(row, token)) for row in sessions.of(session, person.id)]
    view = {
        "people": people.people(session), "roles": list(Role), "typed": {}, "sessions": own, "asked_for_code": second_factor.is_on,
        "own_code": second_factor.is_on(person), "shown": sessions.shown_lately(session, token), "lacks_factor": lacks_factor(request, person), "no_password": people.NO_PASSWORD,
    }  # fmt: skip
    return page(request, "people.html", {**view, **more}, status)
