"""What an owner reads by a link: one signed revision of a record, as a page and as PDF, without an account."""

from typing import Annotated

from fastapi import APIRouter, Depends, Form, HTTPException, Request, Response
from fastapi.responses import RedirectResponse
from sqlalchemy.orm import Session

from goodbalance.core.balance.quantities import UnitSystem
from goodbalance.exchange.papers import pdf_of
from goodbalance.exchange.station_file import file_stem
from goodbalance.store import records, shares
from goodbalance.store.deeds import Deed
from goodbalance.web.guards import SessionDep, WriterDep, not_forged, noted
from goodbalance.web.loading import WorkDep, load_work
from goodbalance.web.papers import record_paper
from goodbalance.web.rendering import page
from goodbalance.web.work import Work

router = APIRouter()
Text = Annotated[str, Form()]
GONE = "This link shows nothing: it has run out, was revoked, or was copied short. Whoever sent it can make a new one."


@router.post("/stations/{station_id}/shares", name="make_share", dependencies=[Depends(not_forged)])
def make_share(request: Request, session: SessionDep, person: WriterDep, work: WorkDep, reader: Text = "", days: Text = "30") -> Response:
    """A link to the latest signed revision; it is shown once."""
    reader = " ".join(reader.split())
    signatures = [signed for signed in work.history.signatures if not signed.foreign]
    if not signatures:
        raise HTTPException(409, "Nothing is signed here yet: a link shows a signed revision only.")
    if not 1 <= len(reader) <= 80:
        raise HTTPException(422, f"Who reads it is {len(reader)} letters long; accepted: 1 to 80.")
    if not (days.isascii() and days.isdecimal() and 1 <= int(days) <= shares.LONGEST_DAYS):
        raise HTTPException(422, f"Days is {days[:20]!r}; accepted: 1 to {shares.LONGEST_DAYS}.")
    if len(shares.of_station(session, work.row.id)) >= shares.MOST:
        raise HTTPException(409, f"{shares.MOST} links of this station hold already; revoke one first.")
    token = shares.make(session, work.row.id, signatures[-1].seq, reader, person.name, int(days))
    noted(request, session, Deed.RECORD_SHARED, f"{work.history.name}, entry {signatures[-1].seq}, for {reader}")
    session.commit()
    address = str(request.url_for("show_shared", token=token))
    return page(request, "share_made.html", {"work": work, "view": "handover", "address": address, "reader": reader, "days": int(days)})


@router.post("/stations/{station_id}/shares/{share_id}", name="revoke_share", dependencies=[Depends(not_forged)])
def revoke_share(request: Request, session: SessionDep, person: WriterDep, work: WorkDep, share_id: int) -> Response:
    """End a link."""
    if not shares.revoke(session, work.row.id, share_id):
        raise HTTPException(404, "There is no such link that still holds.")
    noted(request, session, Deed.SHARE_REVOKED, work.history.name)
    session.commit()
    return RedirectResponse(request.url_for("show_handover", station_id=work.row.id), status_code=303)


def _shown(session: Session, token: str, units: str) -> Work:
    """The revision that the link shows. 404 where it holds no more."""
    share = shares.found(session, token)
    row = None if share is None else records.station(session, share.station_id)
    if share is None or row is None or row.removed_at is not None:
        raise HTTPException(404, GONE)
    return load_work(session, share.station_id, UnitSystem.US if units == "us" else UnitSystem.METRIC, share.seq)


@router.get("/shared/{token}", name="show_shared")
def show_shared(request: Request, session: SessionDep, token: str, units: str = "metric") -> Response:
    """The signed revision, to read."""
    shown = _shown(session, token, units)
    return page(request, "shared.html", {"paper": record_paper(shown), "token": token, "reads_in": units, "person": None})


@router.get("/shared/{token}/record.pdf", name="shared_pdf")
def shared_pdf(request: Request, session: SessionDep, token: str, units: str = "metric") -> Response:
    """The same as PDF."""
    shown = _shown(session, token, units)
    ending = f'attachment; filename="{file_stem(shown.history.name)}-record.pdf"'
    return Response(pdf_of(record_paper(shown)), media_type="application/pdf", headers={"Content-Disposition": ending})
