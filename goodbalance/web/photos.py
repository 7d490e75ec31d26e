"""Photos: of a section of the survey, or of a group of terminals; made small, rid of all but the picture, kept in the record."""

import base64
import binascii
from typing import Annotated, Any

from fastapi import APIRouter, Depends, File, Form, HTTPException, Request, Response, UploadFile
from fastapi.responses import JSONResponse, RedirectResponse
from pydantic import BaseModel, ConfigDict, Field

from goodbalance.core.balance.facts import sections
from goodbalance.core.errors import BrokenFile
from goodbalance.core.record.chain import Entry, Kind
from goodbalance.exchange.photos import small_jpeg
from goodbalance.store import records
from goodbalance.store.records import Draft
from goodbalance.web import computing
from goodbalance.web.guards import SessionDep, WriterDep, not_forged
from goodbalance.web.loading import WorkDep, after_save
from goodbalance.web.rendering import moment
from goodbalance.web.survey import OF_SURVEY, SaveKey, shapes
from goodbalance.web.work import Work

router = APIRouter()
MOST_PHOTOS = 30  # of a station, so that its file can still be taken in elsewhere
Text = Annotated[str, Form()]
Upload = Annotated[UploadFile, File()]


class PhotoSave(BaseModel):
    """A picture that the page has made small already, in base64, and what it shows."""

    model_config = ConfigDict(extra="forbid")
    save_key: SaveKey
    device: Annotated[str, Field(max_length=40)]
    place: Annotated[str, Field(max_length=60)]
    image: Annotated[str, Field(min_length=1, max_length=1_900_000)]


@router.post("/stations/{station_id}/photos", name="save_photo", dependencies=[Depends(not_forged)])
def save_photo(
    request: Request, session: SessionDep, person: WriterDep, work: WorkDep, device: Text, place: Text, save_key: Text, file: Upload
) -> Response:
    """A picture as the camera made it, from a page without script."""
    _check_place(work, device, place)
    try:
        body = _body(work, device, place, file.file.read())
    except BrokenFile as wrong:
        raise HTTPException(422, f"{(file.filename or 'the file')[:80]}: {wrong}. Nothing was stored.") from wrong
    records.keep(session, work.row.id, person.name, [Draft(Kind.PHOTO, body, save_key)])
    if device == OF_SURVEY:
        return RedirectResponse(f"{request.url_for('show_survey', station_id=work.row.id)}#part-{place}", status_code=303)
    url = request.url_for("show_wiring", station_id=work.row.id)
    return RedirectResponse(url.include_query_params(device=device, place=place), status_code=303)


@router.post("/stations/{station_id}/photo", name="save_small_photo", dependencies=[Depends(not_forged)])
def save_small_photo(request: Request, session: SessionDep, person: WriterDep, work: WorkDep, save: PhotoSave) -> Response:
    """A picture that waited in the page's queue. It is read and written anew here all the same."""
    _check_place(work, save.device, save.place)
    try:
        body = _body(work, save.device, save.place, base64.b64decode(save.image, validate=True))
    except (BrokenFile, binascii.Error) as wrong:
        raise HTTPException(422, f"The photo: {wrong}. Nothing was stored.") from wrong
    records.keep(session, work.row.id, person.name, [Draft(Kind.PHOTO, body, save.save_key)])
    after = after_save(request, session, work)
    last = photos_at(after, save.device, save.place)[-1]
    url = str(request.url_for("show_photo", station_id=work.row.id, seq=last.seq))
    return JSONResponse({"seq": after.history.seq, "progress": shapes(after), "url": url, "told": told(last)})


@router.get("/stations/{station_id}/photos/{seq}", name="show_photo")
def show_photo(session: SessionDep, work: WorkDep, seq: int) -> Response:
    if not any(entry.seq == seq for entry in work.history.photos):
        raise HTTPException(404, f"Entry {seq} of this record is no photo.")
    (photo,) = records.entries(session, work.row.id, upto=seq, after=seq - 1)
    return Response(base64.b64decode(photo.body["text"]), media_type="image/jpeg")


def photos_at(work: Work, device: str, place: str) -> list[Entry]:
    """Pictures of one place, oldest first."""
    return [entry for entry in work.history.photos if (entry.body["device"], entry.body["place"]) == (device, place)]


def told(photo: Entry) -> str:
    """Who took it and when, and the entry whose hash it stands under."""
    return f"{photo.by}, {moment(photo.at)}, entry {photo.seq}"


def _check_place(work: Work, device: str, place: str) -> None:
    """422 where a station has no such place."""
    if device == OF_SURVEY:
        if place not in {part.id for part in sections(work.kind.survey_model)}:
            raise HTTPException(422, f"place is {place[:60]!r}; accepted: a section of this survey.")
        return
    if work.wiring is None:
        raise HTTPException(409, "There is no plan yet: complete the survey first. What must be wired follows from it.")
    if work.wiring.step(device, place) is None:
        raise HTTPException(422, f"place is {f'{device}/{place}'[:80]!r}; this walk has no such terminals.")


def _body(work: Work, device: str, place: str, data: bytes) -> dict[str, Any]:
    if len(work.history.photos) >= MOST_PHOTOS:
        raise BrokenFile(f"this station has {MOST_PHOTOS} photos already, and more are not kept")
    return {"device": device, "place": place, "text": computing.answer(small_jpeg, data)}

