"""Controllers: the families the product knows, as data."""

from fastapi import APIRouter, HTTPException, Request, Response

from goodbalance.core.sheets.devices import stands_of
from goodbalance.core.sheets.differences import matters
from goodbalance.exchange.profiles import schema_text, shipped_profiles
from goodbalance.store.families import latest
from goodbalance.web.families import listed
from goodbalance.web.guards import PersonDep, SessionDep
from goodbalance.web.loading import WorkDep
from goodbalance.web.rendering import page

router = APIRouter()


@router.get("/controllers", name="controllers")
def list_controllers(request: Request, session: SessionDep, person: PersonDep) -> Response:
    return page(request, "controllers.html", {**listed(session), "problem": ""})


@router.get("/controllers/schema.json", name="controller_schema")
def controller_schema(person: PersonDep) -> Response:
    """The JSON Schema of a family's file."""
    return Response(schema_text(), media_type="application/schema+json")


@router.get("/controllers/{profile_id}", name="show_controller")
def show_controller(request: Request, person: PersonDep, profile_id: str) -> Response:
    profile = shipped_profiles().get(profile_id)
    if profile is None:
        known = ", ".join(shipped_profiles())
        raise HTTPException(404, f"There is no controller family {profile_id[:40]!r}. Known: {known}.")
    return page(request, "controller.html", {"profile": profile})


@router.get("/stations/{station_id}/families", name="show_families")
def show_families(request: Request, session: SessionDep, work: WorkDep) -> Response:
    """Which family can carry this plan: of each, what it has no place for and what it cannot say."""
    if work.plan is None or work.kind.keypad is None:
        raise HTTPException(409, "There is no plan to carry yet: complete the survey first.")
    suited, rows = {profile.id for profile in work.suited_profiles}, []
    for profile in work.families:
        carried = work.carried_by(profile) if profile.family in work.kind.keypad.families else None
        if carried is not None:
            sheet, held = carried
            found = matters(stands_of(sheet, {}, {}, {}), held.uncarried, work.plan)
            rows.append({"profile": profile, "sheet": sheet, "matters": found, "suited": profile.id in suited})
    rows.sort(key=lambda row: (not row["suited"], len(row["matters"])))
    own = [row for row in latest(session) if row.toml is not None]
    return page(request, "families.html", {"work": work, "view": "enter", "rows": rows, "own": own})

