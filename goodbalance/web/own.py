"""What each person settles for themselves: password, second factor, where they are signed in, how they like to read."""

from typing import Annotated

import segno
from fastapi import APIRouter, Depends, Form, HTTPException, Request, Response
from fastapi.responses import JSONResponse, RedirectResponse
from markupsafe import Markup

from goodbalance.core.balance.quantities import UnitSystem
from goodbalance.core.errors import OutOfRange
from goodbalance.store import people, second_factor, sessions
from goodbalance.store.deeds import Deed
from goodbalance.web.door import inside, not_them
from goodbalance.web.guards import PersonDep, SessionDep, not_forged, noted
from goodbalance.web.people import people_page
from goodbalance.web.rendering import TELLS, page

router = APIRouter()
THEMES = ("paper", "pit", "sun")
Text = Annotated[str, Form()]


@router.post("/me/password", name="change_password", dependencies=[Depends(not_forged)])
def change_password(request: Request, session: SessionDep, person: PersonDep, old: Text, password: Text) -> Response:
    """A new password for oneself; every other browser is signed out."""
    try:
        people.change_password(session, person, old[:200], password)
    except OutOfRange as wrong:
        return people_page(request, session, person, {"password_problem": str(wrong)}, 422)
    sessions.end_others(session, person.id, request.session["token"])
    noted(request, session, Deed.PASSWORD_CHANGED)
    session.commit()
    return people_page(request, session, person, {"changed": True})


@router.post("/me/shown", name="show_who", dependencies=[Depends(not_forged)])
def show_who(request: Request, session: SessionDep, person: PersonDep, password: Text = "") -> Response:
    """Type the password once more: for some minutes people can be changed in this browser."""
    if problem := not_them(request, session, person, password):
        return people_page(request, session, person, {"shown_problem": problem}, 422)
    session.commit()
    return RedirectResponse(request.url_for("people"), status_code=303)


@router.post("/me/sessions", name="end_other_sessions", dependencies=[Depends(not_forged)])
def end_other_sessions(request: Request, session: SessionDep, person: PersonDep) -> Response:
    """Sign out everywhere else."""
    sessions.end_others(session, person.id, request.session["token"])
    noted(request, session, Deed.SESSIONS_ENDED)
    session.commit()
    return RedirectResponse(request.url_for("people"), status_code=303)


@router.get("/me/second-factor", name="second_factor")
def offer_second_factor(request: Request, person: PersonDep) -> Response:
    """A new secret as picture and text, for a telephone to take in; nothing is kept until a code shows that it has."""
    return _offer(request, person.name, second_factor.new_secret())


@router.post("/me/second-factor", name="second_factor_on", dependencies=[Depends(not_forged)])
def second_factor_on(
    request: Request, session: SessionDep, person: PersonDep, secret: Text, code: Text, password: Text = ""
) -> Response:
    if not second_factor.SECRET.fullmatch(secret):
        raise HTTPException(422, "secret is not one that this page made. Open the page again.")
    if problem := not_them(request, session, person, password):
        return _offer(request, person.name, secret, problem, 422)
    try:
        second_factor.turn_on(session, person, secret, code)
    except OutOfRange as wrong:
        return _offer(request, person.name, secret, str(wrong), 422)
    sessions.end_others(session, person.id, request.session["token"])
    noted(request, session, Deed.SECOND_FACTOR_ON)
    session.commit()
    return RedirectResponse(request.url_for("people"), status_code=303)


@router.post("/me/second-factor/off", name="second_factor_off", dependencies=[Depends(not_forged)])
def second_factor_off(request: Request, session: SessionDep, person: PersonDep, password: Text = "") -> Response:
    if problem := not_them(request, session, person, password):
        return people_page(request, session, person, {"factor_problem": problem}, 422)
    second_factor.turn_off(person)
    noted(request, session, Deed.SECOND_FACTOR_OFF)
    session.commit()
    return RedirectResponse(request.url_for("people"), status_code=303)


def _offer(request: Request, name: str, secret: str, problem: str = "", status: int = 200) -> Response:
    drawn = segno.make(second_factor.address_of(secret, name), error="m")
    picture = Markup(drawn.svg_inline(scale=5, border=4, dark="#000", light="#fff", omitsize=True))
    more = {"secret": secret, "in_fours": " ".join(secret[n : n + 4] for n in range(0, 32, 4)), "picture": picture}
    return page(request, "second_factor.html", {**more, "problem": problem}, status)


@router.post("/me", name="reading_habits", dependencies=[Depends(not_forged)])
def reading_habits(
    request: Request,
    session: SessionDep,
    person: PersonDep,
    units: Annotated[UnitSystem | None, Form()] = None,
    theme: Annotated[str | None, Form()] = None,
    dismiss: Annotated[str | None, Form()] = None,
    then: Text = "/",
) -> Response:
    if theme is not None and theme not in THEMES:
        raise HTTPException(422, f"theme is {theme[:20]!r}; accepted: {', '.join(THEMES)}")
    if dismiss is not None and dismiss not in TELLS and dismiss != "none":
        raise HTTPException(422, f"dismiss is {dismiss[:20]!r}; accepted: {', '.join(TELLS)}, or none to have every line again")
    if dismiss is not None:
        person.dismissed = "" if dismiss == "none" else " ".join(dict.fromkeys([*person.dismissed.split(), dismiss]))
    person.units = units.value if units is not None else person.units
    person.theme = theme or person.theme
    session.commit()
    if "application/json" in request.headers.get("accept", ""):
        return JSONResponse({"units": person.units, "theme": person.theme})
    return RedirectResponse(inside(then), status_code=303)
