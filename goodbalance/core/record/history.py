"""What a record adds up to: the latest fact in each field, choices, runs, read-backs, observations, signatures."""

from collections.abc import Iterable, Mapping
from copy import copy
from dataclasses import dataclass, field, fields, replace
from typing import Any

from goodbalance.core.errors import BrokenFile
from goodbalance.core.record.chain import Entry, Kind, check_chain


@dataclass(frozen=True, slots=True)
class Written:
    """The latest text of a field: what, in which unit system, by whom, when, in which entry."""

    text: str
    units: str
    author: str
    at: str
    seq: int
    via: str = ""  # the link a reading came over; empty where somebody looked


@dataclass(frozen=True, slots=True)
class Observed:
    """One try at a proof, as judged when it was made."""

    proof: str
    seen: str
    units: str
    method: str
    note: str
    verdict: str
    expected: float | None
    author: str
    at: str
    seq: int
    settings: Mapping[str, float] = field(default_factory=dict)  # what it proves as it stood then; empty in old records
    instrument: str = ""
    witness: str = ""
    claim: str | None = None  # what was claimed beside numbers, and in words; None in old records
    must_see: str = ""


@dataclass(frozen=True, slots=True)
class Signed:
    """A signature over everything up to the entry before it."""

    name: str
    role: str
    statement: str
    author: str
    at: str
    seq: int
    covers: str
    foreign: bool = False  # a file brought it: it was given elsewhere


@dataclass
class History:
    """A station as its record tells it, up to the last entry read."""

    name: str = ""
    place: str = ""
    kind: str = ""
    uid: str = ""
    facts: dict[str, Written] = field(default_factory=dict)
    choices: dict[str, Written] = field(default_factory=dict)
    chosen: dict[str, float] = field(default_factory=dict)
    declined: dict[str, Written] = field(default_factory=dict)  # protections this job does without, by setting, with why
    drawdowns: dict[int, Entry] = field(default_factory=dict)  # the latest of each pump
    scalings: list[Entry] = field(default_factory=list)
    energised: list[Entry] = field(default_factory=list)  # steps of the first energising as they were made
    motors: dict[tuple[int, str], Entry] = field(default_factory=dict)  # currents by pump and point: the latest of each
    trends: list[Entry] = field(default_factory=list)
    hand_sweeps: list[Entry] = field(default_factory=list)
    step_tests: list[Entry] = field(default_factory=list)
    runs: list[tuple[Entry, dict[str, Any]]] = field(default_factory=list)
    families: dict[str, Entry] = field(default_factory=dict)  # of people's own, as this station uses them: the latest of each
    wires: dict[tuple[str, str, str], Entry] = field(default_factory=dict)  # by device, place and phase: the latest look
    photos: list[Entry] = field(default_factory=list)  # without their pictures
    as_found: dict[tuple[str, str], Written] = field(default_factory=dict)  # by device and code
    resets: dict[str, Written] = field(default_factory=dict)  # by device
    read_backs: dict[tuple[str, str], Written] = field(default_factory=dict)  # by device, empty in old records, and code
    waivers: dict[str, Written] = field(default_factory=dict)  # by what each is about
    stored: Written | None = None
    observations: list[Observed] = field(default_factory=list)
    open_points: dict[int, Written] = field(default_factory=dict)
    temporary: set[int] = field(default_factory=set)  # those of them that must come out again
    closed_points: dict[int, Written] = field(default_factory=dict)
    signatures: list[Signed] = field(default_factory=list)
    last: Entry | None = None
    broken: str = ""  # where the chain of the record does not hold; empty where it does

    @property
    def seq(self) -> int:
        """Number of the last entry; 0 for none."""
        return self.last.seq if self.last else 0

    @property
    def signature(self) -> Signed | None:
        """The signature given here that covers everything written so far, or None."""
        signed = self.signatures[-1] if self.signatures else None
        return signed if signed is not None and signed.seq == self.seq and not signed.foreign else None

    def tries(self, proof_id: str) -> list[Observed]:
        """Every try at a proof, the oldest first."""
        return [observed for observed in self.observations if observed.proof == proof_id]

    def take(self, entry: Entry) -> None:
        """Read one more entry."""
        _TAKERS[entry.kind](self, entry)
        self.last = entry


def history_of(entries: Iterable[Entry], before: History | None = None) -> History:
    """The history that these entries, in order, add up to; it says where their chain does not hold.

    before: what the entries before them add up to; it stays as it is.
    """
    history, read = History() if before is None else _copy(before), list(entries)
    try:
        check_chain(read, history.last)
    except BrokenFile as wrong:
        history.broken = history.broken or str(wrong)
    for entry in read:
        history.take(entry)
    return history


def _copy(history: History) -> History:
    """One that can be added to without changing the other."""
    return replace(history, **{part.name: copy(getattr(history, part.name)) for part in fields(history) if part.name != "last"})


def _created(history: History, entry: Entry) -> None:
    body = entry.body
    history.name, history.place, history.kind, history.uid = body["name"], body["place"], body["kind"], body["uid"]


def _written(entry: Entry, text: str, units: str = "") -> Written:
    return Written(text, units, entry.by, entry.at, entry.seq)


def _facts(history: History, entry: Entry) -> None:
    for path, change in entry.body["changes"].items():
        history.facts[path] = _written(entry, change["text"], change["units"])


def _choices(history: History, entry: Entry) -> None:
    for path, change in entry.body.get("changes", {}).items():
        history.choices[path] = _written(entry, change["text"], change["units"])
    for setting_id, value in {**entry.body.get("levels_m", {}), **entry.body.get("chosen", {})}.items():
        if value is None:
            history.chosen.pop(setting_id, None)
        else:
            history.chosen[setting_id] = value


def _declined(history: History, entry: Entry) -> None:
    if entry.body["reason"]:
        history.declined[entry.body["setting"]] = _written(entry, entry.body["reason"])
    else:
        history.declined.pop(entry.body["setting"], None)


def _drawdown(history: History, entry: Entry) -> None:
    history.drawdowns[entry.body["pump"]] = entry


def _scaling(history: History, entry: Entry) -> None:
    history.scalings.append(entry)


def _motor(history: History, entry: Entry) -> None:
    place = entry.body["pump"], entry.body["at"]
    if entry.body["amps"]:
        history.motors[place] = entry
    else:
        history.motors.pop(place, None)


def _energising(history: History, entry: Entry) -> None:
    history.energised.append(entry)


def _trend(history: History, entry: Entry) -> None:
    history.trends.append(entry)


def _hand_sweep(history: History, entry: Entry) -> None:
    history.hand_sweeps.append(entry)


def _step_test(history: History, entry: Entry) -> None:
    history.step_tests.append(entry)


def _rehearsal(history: History, entry: Entry) -> None:
    history.runs.append((entry, entry.body))


def _family(history: History, entry: Entry) -> None:
    history.families[entry.body["family"]] = entry


def _wire(history: History, entry: Entry) -> None:
    history.wires[entry.body["device"], entry.body["place"], entry.body["phase"]] = entry


def _photo(history: History, entry: Entry) -> None:
    history.photos.append(replace(entry, body={**entry.body, "text": ""}))  # looked at one by one: the picture is not kept in mind


def _read_back(history: History, entry: Entry) -> None:
    written = _written(entry, entry.body["typed"])
    before = history.read_backs.get((entry.body.get("device", ""), entry.body["code"]))
    if before is not None and before.text != written.text:
        history.stored = None  # it was changed since: what was stored is another number
    history.read_backs[entry.body.get("device", ""), entry.body["code"]] = replace(written, via=entry.body.get("via", ""))


def _as_found(history: History, entry: Entry) -> None:
    history.as_found[entry.body["device"], entry.body["code"]] = _written(entry, entry.body["typed"])


def _reset(history: History, entry: Entry) -> None:
    history.resets[entry.body["device"]] = _written(entry, entry.body["why"])
    history.stored = None  # what was stored is gone


def _waiver(history: History, entry: Entry) -> None:
    if entry.body["reason"]:
        history.waivers[entry.body["about"]] = _written(entry, entry.body["reason"])
    else:
        history.waivers.pop(entry.body["about"], None)


def _stored(history: History, entry: Entry) -> None:
    history.stored = _written(entry, entry.body["shown"])


def _observation(history: History, entry: Entry) -> None:
    keep = {key: entry.body[key] for key in ("proof", "seen", "units", "method", "note", "verdict", "expected")}
    more = {key: entry.body[key] for key in ("settings", "instrument", "witness", "claim", "must_see") if key in entry.body}
    history.observations.append(Observed(**keep, author=entry.by, at=entry.at, seq=entry.seq, **more))


def _open_point(history: History, entry: Entry) -> None:
    history.open_points[entry.seq] = _written(entry, entry.body["text"])
    if entry.body.get("temporary"):
        history.temporary.add(entry.seq)


def _point_closed(history: History, entry: Entry) -> None:
    history.closed_points[entry.body["point"]] = _written(entry, entry.body["how"])


def _signature(history: History, entry: Entry) -> None:
    body = entry.body
    history.signatures.append(
        Signed(
            body["name"], body["role"], body["statement"], entry.by, entry.at, entry.seq, entry.previous,
            foreign=bool(entry.brought_by),
        )  # fmt: skip
    )


_TAKERS = {
    Kind.CREATED: _created,
    Kind.FACTS: _facts,
    Kind.CHOICES: _choices,
    Kind.DECLINED: _declined,
    Kind.DRAWDOWN: _drawdown,
    Kind.SCALING: _scaling,
    Kind.MOTOR: _motor,
    Kind.ENERGISING: _energising,
    Kind.TREND: _trend,
    Kind.HAND_SWEEP: _hand_sweep,
    Kind.STEP_TEST: _step_test,
    Kind.REHEARSAL: _rehearsal,
    Kind.FAMILY: _family,
    Kind.WIRE: _wire,
    Kind.PHOTO: _photo,
    Kind.AS_FOUND: _as_found,
    Kind.RESET: _reset,
    Kind.READ_BACK: _read_back,
    Kind.WAIVER: _waiver,
    Kind.STORED: _stored,
    Kind.OBSERVATION: _observation,
    Kind.OPEN_POINT: _open_point,
    Kind.POINT_CLOSED: _point_closed,
    Kind.SIGNATURE: _signature,
}
