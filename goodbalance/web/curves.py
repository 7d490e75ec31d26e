"""Curve files: a pump's curve as its maker gives it, taken into the survey of any kind that asks for one."""

from typing import Annotated, Any

from fastapi import APIRouter, Depends, File, Form, HTTPException, Request, Response, UploadFile
from fastapi.responses import RedirectResponse

from goodbalance.core.balance.quantities import UnitSystem, display_unit
from goodbalance.core.errors import BrokenFile
from goodbalance.core.record.chain import Kind
from goodbalance.exchange.columns import PUMP_CURVE
from goodbalance.exchange.tables_csv import read_pump_curve
from goodbalance.store import records
from goodbalance.store.records import Draft
from goodbalance.web.columns import NAME, sent_file
from goodbalance.web.guards import FormDep, SessionDep, WriterDep, not_forged
from goodbalance.web.loading import WorkDep
from goodbalance.web.survey import form_parts

router = APIRouter()


@router.post("/stations/{station_id}/curve-csv", name="take_curve", dependencies=[Depends(not_forged)])
def take_curve(
    form: FormDep, request: Request, session: SessionDep, person: WriterDep, work: WorkDep,
    save_key: Annotated[str, Form()], part: Annotated[str, Form()], curve: Annotated[str, Form()] = "curve", file: Annotated[UploadFile | None, File()] = None,
) -> Response:  # fmt: skip
    """A curve into one section of the survey: the pump's own where pumps differ, that of one fixed speed where each has its own."""
    asked: dict[str, list[dict[str, Any]]] = {f"{one['id']}.{name}": one["fields"] for one in form_parts(work) for name in one["curves"]}
    table = f"{part}.{curve}"
    if table not in asked:
        raise HTTPException(422, f"{table[:60]!r} is no pump curve that is asked for; accepted: {', '.join(asked) or 'none of this kind'}.")
    cells = [(field["path"].removeprefix(f"{table}.").partition("."), field) for field in asked[table] if field["path"].startswith(f"{table}.")]
    rows = 1 + max(int(row) for (row, _, _), _ in cells)
    name = (file.filename if file is not None else form.get(NAME, "")) or "the file"
    try:
        points = read_pump_curve(sent_file(session, person, form, file, PUMP_CURVE)[1], rows)
    except BrokenFile as wrong:
        raise HTTPException(422, f"{name[:80]}: {wrong}. Nothing was stored.") from wrong
    changes = {}
    for (row, _, name), field in cells:
        value = getattr(points[int(row)], name) if int(row) < len(points) else None
        text = "" if value is None else f"{display_unit(field['fact'].quantity, UnitSystem.METRIC).from_si(value):.6g}"
        changes[field["path"]] = {"text": text, "units": UnitSystem.METRIC.value}
    records.keep(session, work.row.id, person.name, [Draft(Kind.FACTS, {"changes": changes}, save_key)])
    return RedirectResponse(f"{request.url_for('show_survey', station_id=work.row.id)}#part-{part}", status_code=303)
