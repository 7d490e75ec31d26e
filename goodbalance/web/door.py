"""Coming in and going out: name and password, a second factor's code, a link that sets a password, the first person."""

import time
from typing import Annotated

from fastapi import APIRouter, Depends, Form, HTTPException, Request, Response
from fastapi.responses import JSONResponse, RedirectResponse
from sqlalchemy.orm import Session

from goodbalance.core.errors import OutOfRange
from goodbalance.store import deeds, links, people, second_factor, sessions, throttle
from goodbalance.store.deeds import Deed
from goodbalance.store.models import PersonRow
from goodbalance.web.guards import SessionDep, address_of, csrf_token, not_forged, noted
from goodbalance.web.rendering import page

router = APIRouter()
CODE_WITHIN_S = 300  # after the password
Text = Annotated[str, Form()]
TOO_MANY = "Too many wrong tries for this name. Try again in {:.0f} s."


@router.get("/sign-in", name="sign_in")
def sign_in(request: Request, session: SessionDep, then: str = "/") -> Response:
    if people.nobody_yet(session):
        return page(request, "first_person.html", {"name": ""})
    return page(request, "sign_in.html", {"then": then, "name": ""})


@router.post("/sign-in", name="sign_in_post", dependencies=[Depends(not_forged)])
def sign_in_post(request: Request, session: SessionDep, name: Text, password: Text, then: Text = "/") -> Response:
    name = " ".join(name[:80].split())
    person, problem, status = _tried(request, session, name, password)
    if person is None:
        return page(request, "sign_in.html", {"then": then, "name": name, "problem": problem}, status=status)
    if second_factor.is_on(person):
        session.commit()
        request.session.clear()
        request.session["half"] = {"person": person.id, "at": int(time.time()), "then": inside(then)}
        return RedirectResponse(request.url_for("code"), status_code=303)
    remember(request, session, person)
    return RedirectResponse(inside(then), status_code=303)


@router.get("/sign-in/code", name="code")
def code(request: Request, session: SessionDep) -> Response:
    if _half_in(request, session) is None:
        return RedirectResponse(request.url_for("sign_in"), status_code=303)
    return page(request, "code.html", {})


@router.post("/sign-in/code", name="code_post", dependencies=[Depends(not_forged)])
def code_post(request: Request, session: SessionDep, code: Text) -> Response:
    """The second half of signing in. Wrong codes are counted whatever address they come from: the password was right."""
    person = _half_in(request, session)
    if person is None:
        return RedirectResponse(request.url_for("sign_in"), status_code=303)
    wait_s = throttle.wait_s(session, person.name, "code")
    if wait_s > 0.0:
        return page(request, "code.html", {"problem": TOO_MANY.format(wait_s)}, 429)
    if not second_factor.accepts(session, person, code):
        session.rollback()
        noted(request, session, Deed.CODE_REFUSED, who=person.name)
        throttle.failed(session, person.name, "code")
        return page(request, "code.html", {"problem": "That is not the code of this half minute, or it was used already."}, 422)
    throttle.succeeded(session, person.name, "code")
    then = request.session["half"]["then"]
    remember(request, session, person)
    return RedirectResponse(then, status_code=303)


def _half_in(request: Request, session: Session) -> PersonRow | None:
    """Whose password was right in this browser a moment ago."""
    half = request.session.get("half")
    if not half or time.time() - half["at"] > CODE_WITHIN_S:
        return None
    person = people.person(session, half["person"])
    return person if person is not None and person.retired_at is None else None


@router.post("/first-person", name="first_person", dependencies=[Depends(not_forged)])
def first_person(request: Request, session: SessionDep, name: Text, password: Text) -> Response:
    try:
        person = people.add_first_person(session, name, password)
    except OutOfRange as wrong:
        return page(request, "first_person.html", {"name": name[:80], "problem": str(wrong)}, status=422)
    if person is None:
        raise HTTPException(403, "The first person is already made. Sign in, or ask a lead to add you.")
    noted(request, session, Deed.PERSON_ADDED, who=person.name, about=f"{person.name}, the first lead")
    remember(request, session, person)
    return RedirectResponse("/", status_code=303)


@router.get("/link/{token}", name="link")
def link(request: Request, session: SessionDep, token: str) -> Response:
    person = links.person_of(session, token[:80])
    if person is None:
        raise HTTPException(404, "This link was used, is older than a day, or never was. Ask a lead for a new one.")
    return page(request, "link.html", {"name": person.name, "token": token})


@router.post("/link/{token}", name="link_post", dependencies=[Depends(not_forged)])
def link_post(request: Request, session: SessionDep, token: str, password: Text) -> Response:
    """Set the password, then sign in with it: the link alone opens nothing."""
    owner = links.person_of(session, token[:80])
    try:
        person = links.use(session, token[:80], password)
    except OutOfRange as wrong:
        assert owner is not None
        return page(request, "link.html", {"name": owner.name, "token": token, "problem": str(wrong)}, 422)
    if person is None:
        raise HTTPException(404, "This link was used, is older than a day, or never was. Ask a lead for a new one.")
    noted(request, session, Deed.LINK_USED, who=person.name)
    session.commit()
    return page(request, "sign_in.html", {"then": "/", "name": person.name, "good": "Your password is set. Sign in with it."})


@router.post("/sign-out", name="sign_out", dependencies=[Depends(not_forged)])
def sign_out(request: Request, session: SessionDep) -> Response:
    """Ends the session here and in the database: its cookie is worth nothing afterwards, wherever a copy lies."""
    token = request.session.get("token", "")
    person, _ = sessions.person_of(session, token)
    sessions.end(session, token)
    if person is not None:
        noted(request, session, Deed.SIGNED_OUT, who=person.name)
    session.commit()
    request.session.clear()
    return RedirectResponse(request.url_for("sign_in"), status_code=303)


@router.get("/session", name="who_is_here")
def who_is_here(request: Request, session: SessionDep) -> JSONResponse:
    """Who is signed in in this browser, and the token of that session: for a page that has been open for long."""
    person, _ = sessions.person_of(session, request.session.get("token", ""))
    found = None if person is None else {"id": person.id, "name": person.name}
    return JSONResponse({"person": found and found["id"], "name": found and found["name"], "csrf": csrf_token(request)})


@router.post("/password/strength", name="strength", dependencies=[Depends(not_forged)])
def strength(request: Request, session: SessionDep, password: Text = "", name: Text = "", token: Text = "") -> JSONResponse:
    """For the meter beside a new password: how hard it is to guess. Nothing of it is kept."""
    owner, _ = sessions.person_of(session, request.session.get("token", ""))
    owner = owner or links.person_of(session, token[:80])
    if owner is None and not people.nobody_yet(session):
        raise HTTPException(403, "Only for who sets a password.")
    score, why = people.strength(password[: people.LONGEST_PASSWORD], owner.name if owner is not None else name[:80])
    left = people.SHORTEST_PASSWORD - len(password)
    if left > 0:
        score, words = min(score, people.LEAST_SCORE - 1), f"{left} letter{'s' if left > 1 else ''} more"
    else:
        words = why if score < people.LEAST_SCORE else "good"
    return JSONResponse({"score": score, "words": words, "good": left <= 0 and score >= people.LEAST_SCORE})


def _tried(request: Request, session: Session, name: str, password: str) -> tuple[PersonRow | None, str, int]:
    """Who this name and password let in; or nobody, with why and the status of the answer. A wrong try is counted."""
    address = address_of(request)
    wait_s = throttle.wait_s(session, name, address)
    if wait_s > 0.0:
        return None, TOO_MANY.format(wait_s), 429
    person = people.signed_in(session, name, password[:200])
    if person is not None:
        throttle.succeeded(session, name, address)
        return person, "", 200
    if people.named(session, name) is not None:  # of names nobody has none is kept: it may be a password in the wrong field
        noted(request, session, Deed.SIGN_IN_REFUSED, who=name)
    else:
        deeds.log.info("deed", what=Deed.SIGN_IN_REFUSED.value, about="a name nobody has", address=address)
    throttle.failed(session, name, address)
    return None, "Name and password do not go together.", 422


def not_them(request: Request, session: Session, person: PersonRow, password: str) -> str:
    """Why this password does not show that the person who is signed in sits there; empty where it does.

    Asked before what counts most: a signature, a change of people, a station removed.
    """
    if not password:
        return "Type your password: this is done in your name."
    found, problem, status = _tried(request, session, person.name, password)
    if found is None:
        return problem if status == 429 else "This is not your password."
    sessions.show(session, request.session["token"])
    return ""


def inside(then: str) -> str:
    """A path of this site; the first page for anything that leads elsewhere. Browsers read a backslash as a slash."""
    return then if then.startswith("/") and then[1:2] not in ("/", "\\") else "/"


def remember(request: Request, session: Session, person: PersonRow) -> None:
    """A fresh session for whoever has just signed in; commits what made it."""
    person_id, name, browser = person.id, person.name, request.headers.get("user-agent", "")
    token = sessions.begin(session, person_id, browser)
    noted(request, session, Deed.SIGNED_IN, who=name)
    session.commit()
    request.session.clear()
    request.session["token"] = token
