"""Controllers: the families the product knows, as data."""

from fastapi import APIRouter, HTTPException, Request, Response

from goodbalance.exchange.profiles import shipped_profiles
from goodbalance.web.guards import PersonDep
from goodbalance.web.rendering import page

router = APIRouter()


@router.get("/controllers", name="controllers")
def list_controllers(request: Request, person: PersonDep) -> Response:
    return page(request, "controllers.html", {"profiles": shipped_profiles().values()})


@router.get("/controllers/{profile_id}", name="show_controller")
def show_controller(request: Request, person: PersonDep, profile_id: str) -> Response:
    profile = shipped_profiles().get(profile_id)
    if profile is None:
        known = ", ".join(shipped_profiles())
        raise HTTPException(404, f"There is no controller family {profile_id[:40]!r}. Known: {known}.")
    return page(request, "controller.html", {"profile": profile})
