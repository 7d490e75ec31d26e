"""Writing to a device: one number at a time, old to new, with every pump in OFF, read back after, told under a name.

Only by people who may, and only to devices that whoever keeps the server lists as to be written.
"""

from typing import Annotated, Any

from fastapi import APIRouter, Depends, Form, HTTPException, Request, Response
from fastapi.responses import RedirectResponse

from goodbalance.core.record.chain import Kind
from goodbalance.core.sheets.devices import Stand
from goodbalance.core.sheets.entry_sheet import RowKind
from goodbalance.core.sheets.registers import Register, register_map
from goodbalance.core.stations.shared.live import SWITCH
from goodbalance.exchange.modbus import Address, DeviceSilent, read_device, read_live, write_number
from goodbalance.store import records
from goodbalance.store.deeds import Deed
from goodbalance.store.records import Draft
from goodbalance.web.guards import SessionDep, WriterDep, not_forged, noted
from goodbalance.web.live import channels_of
from goodbalance.web.loading import WorkDep, after_save
from goodbalance.web.rendering import page
from goodbalance.web.work import Work

router = APIRouter()
Text = Annotated[str, Form()]
OFF = 1.0  # the place of a switch


@router.post("/stations/{station_id}/write-ask", name="ask_to_write", dependencies=[Depends(not_forged)])
def ask_to_write(request: Request, person: WriterDep, work: WorkDep, code: Text, to: Text) -> Response:
    """What stands under a code now and what would be written there, to be confirmed. Nothing is written."""
    stand, at = _stand(work, code), _writable(request, person, to)
    view = {"work": work, "view": "enter", "stand": stand, "to": to, "old": "", "problem": ""}
    try:
        _all_off(work, at)
        view["old"] = read_device(at.host, at.port, _registers(work))[code]
    except DeviceSilent as told:
        return page(request, "writing.html", {**view, "problem": f"{told}."}, 409)
    return page(request, "writing.html", view)


@router.post("/stations/{station_id}/write", name="write_to_device", dependencies=[Depends(not_forged)])
def write_to_device(
    request: Request, session: SessionDep, person: WriterDep, work: WorkDep, code: Text, to: Text, old: Text, new: Text, save_key: Text
) -> Response:
    """One number written and read back; what stands there then is noted as read back, whatever it is."""
    stand, at = _stand(work, code), _writable(request, person, to)
    view = {"work": work, "view": "enter", "stand": stand, "to": to, "old": old[:40], "problem": ""}
    if new != stand.row.shows:
        raise HTTPException(422, f"new is {new[:40]!r}; the plan wants {stand.row.shows} under {code} now. Look at the sheet again.")
    try:
        _all_off(work, at)
        shown = write_number(at.host, at.port, _registers(work), code, old, new)
    except (DeviceSilent, ValueError) as told:
        noted(request, session, Deed.DEVICE_WRITTEN, about=f"{to}: {code} {old[:20]} to {new[:20]} did not go: {told}"[:200])
        session.commit()
        return page(request, "writing.html", {**view, "problem": f"{told}."}, 409)
    noted(request, session, Deed.DEVICE_WRITTEN, about=f"{to}: {code} {old[:20]} to {new[:20]}, read back {shown[:20]}"[:200])
    body = {"code": code, "typed": shown[:40], "device": stand.row.device, "via": f"{to} ({at.host}:{at.port}), written over {old or 'nothing'}"[:120]}
    records.keep(session, work.row.id, person.name, [Draft(Kind.READ_BACK, body, save_key)])
    after = after_save(request, session, work)
    codes = [comparison.row.parameter.code for comparison in after.comparisons]
    return RedirectResponse(f"{request.url_for('show_enter', station_id=work.row.id)}?one={codes.index(code) + 1}", status_code=303)


def _stand(work: Work, code: str) -> Stand:
    """The row of the controller that is to be written; 422 where it is none."""
    for stand in work.comparisons if work.sheet is not None else ():
        row = stand.row
        if row.parameter.code == code and work.sheet is not None and row.device == work.sheet.profile.id and row.kind in (RowKind.CHANGE, RowKind.CHECK):
            return stand
    raise HTTPException(422, f"code is {code[:20]!r}; accepted: a number of the controller that the plan wants typed or checked.")


def _writable(request: Request, person: Any, to: str) -> Address:
    devices: dict[str, Address] = request.app.state.devices
    writable = [name for name, at in devices.items() if at.may_write]
    if not person.writes_devices:
        raise HTTPException(403, "You may not write to devices. Ask a lead for that right; type at the keypad meanwhile.")
    if to not in writable:
        raise HTTPException(422, f"to is {to[:60]!r}; accepted: {', '.join(writable) or 'nothing, no device may be written to here'}.")
    return devices[to]


def _registers(work: Work) -> tuple[Register, ...]:
    profile = work.profile.id
    return register_map(stand.row for stand in work.stands if stand.row.device == profile)


def _all_off(work: Work, at: Address) -> None:
    """That every pump's switch is in OFF. Raises DeviceSilent naming those that are not."""
    names = [channel.name for channel in channels_of(work)]
    _, values = read_live(at.host, at.port, len(names))
    on = [name.removeprefix(SWITCH) for name, value in zip(names, values) if name.startswith(SWITCH) and value != OFF]
    if on:
        raise DeviceSilent(f"pump {' and '.join(on)} {'is' if len(on) == 1 else 'are'} not in OFF: turn every switch to OFF at the panel first. Nothing was written")
