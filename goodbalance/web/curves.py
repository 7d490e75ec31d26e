"""A pump's curve as its maker gives it, from a CSV file or off a picture, taken into the survey of any kind that asks for one."""

from typing import Annotated, Any, Literal

import numpy as np
from fastapi import APIRouter, Depends, File, Form, HTTPException, Request, Response, UploadFile
from fastapi.responses import JSONResponse, RedirectResponse
from pydantic import BaseModel, ConfigDict, Field

from goodbalance.core.balance.asked_number import AskedNumber
from goodbalance.core.balance.facts import Fact
from goodbalance.core.balance.quantities import UnitSystem, display_unit
from goodbalance.core.errors import BrokenFile, OutOfRange
from goodbalance.core.physics.charts import Axis, Mark, read_chart
from goodbalance.core.record.chain import Kind
from goodbalance.exchange.columns import PUMP_CURVE
from goodbalance.exchange.tables_csv import read_pump_curve
from goodbalance.store import records
from goodbalance.store.records import Draft
from goodbalance.web.columns import NAME, sent_file
from goodbalance.web.guards import FormDep, SessionDep, WriterDep, not_forged
from goodbalance.web.loading import WorkDep
from goodbalance.web.survey import SaveKey, form_parts
from goodbalance.web.work import Work

router = APIRouter()
Cell = tuple[tuple[str, str, str], dict[str, Any]]  # a field of a curve's table, with its row, a dot and its name


class Clicked(BaseModel):
    """A mark on an axis: where, and what stands there as typed."""

    model_config = ConfigDict(extra="forbid", allow_inf_nan=False)
    x: float
    y: float
    text: Annotated[str, Field(max_length=40)]


class PictureSave(BaseModel):
    """What was clicked on the picture of a curve sheet: two marks on each axis, and the points of the curve."""

    model_config = ConfigDict(extra="forbid", allow_inf_nan=False)
    save_key: SaveKey
    table: Annotated[str, Field(max_length=60)]
    name: Literal["head_m", "npsh_m", "power_w"]
    units: UnitSystem
    flow: Annotated[list[Clicked], Field(min_length=2, max_length=2)]
    other: Annotated[list[Clicked], Field(min_length=2, max_length=2)]
    points: Annotated[list[tuple[float, float]], Field(min_length=2, max_length=24)]


@router.post("/stations/{station_id}/curve-picture", name="read_curve_picture", dependencies=[Depends(not_forged)])
def read_curve_picture(session: SessionDep, person: WriterDep, work: WorkDep, save: PictureSave) -> Response:
    """Points clicked on a picture, as numbers in the table: heads make its rows, power and NPSH are read at the flows that stand there."""
    cells = _cells(work, save.table)
    fields = {(int(row), name): field for (row, _, name), field in cells}
    if (0, save.name) not in fields:
        raise HTTPException(422, f"name is {save.name!r}; this curve does not ask for it.")
    try:
        across = _axis("flow", save.flow, fields[0, "flow_m3s"]["fact"], save.units, work)
        up = _axis(fields[0, save.name]["fact"].label.lower(), save.other, fields[0, save.name]["fact"], save.units, work)
        read = read_chart(across, up, save.points)
        changes = _of_heads(fields, read) if save.name == "head_m" else _at_flows(fields, read, save.name, work)
    except OutOfRange as wrong:
        raise HTTPException(422, f"{str(wrong)[:1].upper()}{str(wrong)[1:]}. Nothing was stored.") from wrong
    records.keep(session, work.row.id, person.name, [Draft(Kind.FACTS, {"changes": changes}, save.save_key)])
    return JSONResponse({"points": len(read)})


def _axis(name: str, marks: list[Clicked], asked: Fact, units: UnitSystem, work: Work) -> Axis:
    assert asked.quantity is not None
    read = [AskedNumber(label=f"A mark of the {name} axis", quantity=asked.quantity).read(mark.text, units, work.units) for mark in marks]
    first, second = (Mark(mark.x, mark.y, value) for mark, value in zip(marks, read))
    return Axis(name, first, second)


def _of_heads(fields: dict[tuple[int, str], dict[str, Any]], read: list[tuple[float, float]]) -> dict[str, dict[str, str]]:
    """Rows of flow and head; a curve of more points than the table has rows is thinned, its ends kept. What stood beside them goes."""
    rows = 1 + max(row for row, _ in fields)
    if len(read) > rows:
        read = [read[round(index * (len(read) - 1) / (rows - 1))] for index in range(rows)]
    changes = {}
    for (row, name), field in fields.items():
        value = {"flow_m3s": read[row][0], "head_m": read[row][1]}.get(name) if row < len(read) else None
        changes[field["path"]] = _text(field, None if value is None else max(0.0, value))
    return changes


def _at_flows(fields: dict[tuple[int, str], dict[str, Any]], read: list[tuple[float, float]], name: str, work: Work) -> dict[str, dict[str, str]]:
    """Another curve at the flows that stand in the table, straight between its points, and nothing beyond them."""
    known = {row: work.reading.values.get(fields[row, "flow_m3s"]["path"]) for row, _ in fields}
    reach = 0.02 * (read[-1][0] - read[0][0])  # a finger's width
    found = {row: flow for row, flow in known.items() if flow is not None and read[0][0] - reach <= flow <= read[-1][0] + reach}
    if not found:
        raise OutOfRange("What this curve has at the flows of the table", "nothing", "heads first, then power or NPSH over the same flows")
    flows, values = [flow for flow, _ in read], [value for _, value in read]
    return {fields[row, name]["path"]: _text(fields[row, name], max(0.0, float(np.interp(flow, flows, values)))) for row, flow in sorted(found.items())}


def _text(field: dict[str, Any], value: float | None) -> dict[str, str]:
    text = "" if value is None else f"{display_unit(field['fact'].quantity, UnitSystem.METRIC).from_si(value):.4g}"
    return {"text": text, "units": UnitSystem.METRIC.value}


def _cells(work: Work, table: str) -> list[Cell]:
    """The fields of a curve that is asked for; 422 where none of that name is."""
    asked: dict[str, list[dict[str, Any]]] = {f"{one['id']}.{name}": one["fields"] for one in form_parts(work) for name in one["curves"]}
    if table not in asked:
        raise HTTPException(422, f"{table[:60]!r} is no pump curve that is asked for; accepted: {', '.join(asked) or 'none of this kind'}.")
    return [(field["path"].removeprefix(f"{table}.").partition("."), field) for field in asked[table] if field["path"].startswith(f"{table}.")]


@router.post("/stations/{station_id}/curve-csv", name="take_curve", dependencies=[Depends(not_forged)])
def take_curve(
    form: FormDep, request: Request, session: SessionDep, person: WriterDep, work: WorkDep,
    save_key: Annotated[str, Form()], part: Annotated[str, Form()], curve: Annotated[str, Form()] = "curve", file: Annotated[UploadFile | None, File()] = None,
) -> Response:  # fmt: skip
    """A curve into one section of the survey: the pump's own where pumps differ, that of one fixed speed where each has its own."""
    cells = _cells(work, f"{part}.{curve}")
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
