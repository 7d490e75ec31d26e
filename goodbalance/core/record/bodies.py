"""What the body of each kind of entry holds. Entries are checked on writing and again on import."""

from typing import Annotated, Any, Literal

from pydantic import BaseModel, ConfigDict, Field

from goodbalance.core.balance.proof import Method
from goodbalance.core.protection.energising import Must
from goodbalance.core.protection.readings import At
from goodbalance.core.record.chain import Kind

LONGEST_RUN_S = 8 * 86400.0


class _Body(BaseModel):
    model_config = ConfigDict(extra="forbid", allow_inf_nan=False, frozen=True)


Number = Annotated[float, Field(ge=-1e9, le=1e9)]  # no quantity of a pump station in SI is larger


class Change(_Body):
    """A fact as typed, with the units its writer read in."""

    text: str = Field(max_length=2000)
    units: Literal["metric", "us"]


class Created(_Body):
    """The station itself."""

    uid: str = Field(pattern=r"^[0-9a-f]{32}$")
    kind: str = Field(max_length=40)
    name: str = Field(min_length=1, max_length=80)
    place: str = Field(max_length=120)


class FactsBody(_Body):
    """Facts of the survey, by path; an empty text takes one back."""

    changes: dict[str, Change] = Field(max_length=1000)


class ChoicesBody(_Body):
    """Answers as typed, and settings chosen by hand in SI (null: left to the tool again)."""

    changes: dict[str, Change] = Field(default_factory=dict, max_length=200)
    chosen: dict[str, Number | None] = Field(default_factory=dict, max_length=60)
    levels_m: dict[str, Number | None] = Field(default_factory=dict, max_length=40)  # as entries before `chosen` had it


class Declined(_Body):
    """A protection that this job does without, by its setting, and why; an empty reason takes it back."""

    setting: str = Field(min_length=1, max_length=60)
    reason: str = Field(max_length=500)


class TimedStretch(_Body):
    """A level that went from one mark to another in a time."""

    from_m: float = Field(ge=0.0, le=100.0)
    to_m: float = Field(ge=0.0, le=100.0)
    time_s: float = Field(ge=0.1, le=86400.0)


class TimedRun(_Body):
    """One timed drawdown: the fill before, the pumping, and the fill after where it was timed."""

    before: TimedStretch
    pumping: TimedStretch
    after: TimedStretch | None = None


class DrawdownBody(_Body):
    """Timed drawdowns of one pump (1 for pump 1)."""

    pump: int = Field(ge=1, le=16)
    runs: tuple[TimedRun, ...] = Field(min_length=1, max_length=20)


class ScalingPoint(_Body):
    """What stood at the sensor, and what the display showed."""

    applied: float = Field(ge=-1e5, le=1e7)
    shown: float = Field(ge=-1e5, le=1e7)


class ScalingBody(_Body):
    """A check of the sensor's scaling in SI: applied is what the sensor reads (m or Pa) or a signal (A or V), shown what it reads."""

    by: Literal["level", "signal"]
    points: tuple[ScalingPoint, ...] = Field(min_length=2, max_length=12)
    zero: Number  # what empty and full signal stood for when it was checked
    full: Number
    note: str = Field(default="", max_length=500)


class MotorBody(_Body):
    """Currents of one pump (1 for pump 1) at one point of its work, a value for each lead, and the supply meanwhile; empty amps take it back."""

    pump: int = Field(ge=1, le=16)
    at: At
    amps: tuple[Annotated[float, Field(ge=0.0, le=1e4)], ...] = Field(max_length=3)
    volts: tuple[Annotated[float, Field(ge=0.0, le=2e4)], ...] = Field(default=(), max_length=3)
    note: str = Field(default="", max_length=500)


class EnergisingBody(_Body):
    """A step of the first energising, made: as it must be or not, the numbers read in it in SI, and why it was made before others, where it was."""

    step: str = Field(min_length=1, max_length=40, pattern=r"^[a-z]+(\.[0-9]{1,2})?$")
    good: bool
    confirmed: Must  # how the station was, as whoever made it said
    numbers: dict[Annotated[str, Field(max_length=20)], Number] = Field(default_factory=dict, max_length=8)
    why_now: str = Field(default="", max_length=500)
    note: str = Field(default="", max_length=500)


class TrendBody(_Body):
    """A trend of levels as it came, in CSV."""

    name: str = Field(min_length=1, max_length=120)
    text: str = Field(min_length=1, max_length=600_000)


class HandRow(_Body):
    """One step of a hand sweep."""

    outlets: int = Field(ge=0, le=500)
    pumps: int = Field(ge=1, le=16)
    held: bool
    speed: float = Field(ge=0.0, le=1.0)  # share of full
    pressure_pa: float = Field(ge=-1e5, le=1e7)
    suction_pa: float = Field(ge=-1e5, le=1e7)


class HandSweepBody(_Body):
    """Speeds that held the pressure by hand, with more and more outlets open."""

    outlet_m3s: float = Field(ge=1e-7, le=10.0)  # flow of one outlet
    rows: tuple[HandRow, ...] = Field(min_length=1, max_length=20)
    note: str = Field(default="", max_length=500)


class LoopPoint(_Body):
    """A model on the edge of what the fit leaves open."""

    gain: float = Field(ge=-1e4, le=1e4)
    time_s: float = Field(ge=1e-3, le=1e5)
    dead_s: float = Field(ge=0.0, le=1e4)


class LoopModel(LoopPoint):
    """What was fitted when the test was kept: speed (%) to reading (% of range)."""

    fit: float = Field(ge=-1e6, le=1.0)
    region: tuple[LoopPoint, ...] = Field(default=(), max_length=40)


class StepTestBody(_Body):
    """A step of speed in HAND as it came, in CSV, the flow drawn meanwhile, and the model fitted then."""

    name: str = Field(min_length=1, max_length=120)
    text: str = Field(min_length=1, max_length=600_000)
    flow_m3s: float = Field(ge=0.0, le=10.0)
    pumps: int = Field(ge=1, le=16)
    range_pa: float = Field(ge=1e3, le=1e8)
    model: LoopModel


class Act(_Body):
    """A timed action on the bench."""

    at_s: float = Field(ge=0.0, le=LONGEST_RUN_S)
    kind: str = Field(max_length=40)
    target: str = Field(default="", max_length=40)
    value: Number = 0.0


class Rehearsal(_Body):
    """A run that was kept: start state and actions, from which it can be played again."""

    covers: int = Field(ge=1)  # the entry up to which the record stood when the run was made
    start_level_m: Number | None = None
    start_pa: Number | None = None
    start_c: Number | None = None
    program: Literal["planned", "as_held"] = "planned"
    until_s: float = Field(gt=0.0, le=LONGEST_RUN_S)
    actions: tuple[Act, ...] = Field(max_length=2000)
    digest: str = Field(max_length=64)
    note: str = Field(default="", max_length=500)


class ReadBack(_Body):
    """What a keypad showed under a code on reading back. device: the id of its family; via: the link it came over, if not by eye."""

    code: str = Field(max_length=16)
    typed: str = Field(max_length=40)
    device: str = Field(default="", max_length=40)
    via: str = Field(default="", max_length=120)


class FamilyTaken(_Body):
    """A controller family of somebody's own, as this station uses it: its file, and which revision it was."""

    family: str = Field(pattern=r"^[a-z0-9_]{1,40}$")
    revision: int = Field(ge=1, le=1_000_000)
    text: str = Field(min_length=1, max_length=600_000)


class WireSeen(_Body):
    """What was found at a group of terminals, dead or live. wants: what had to be there then."""

    device: str = Field(min_length=1, max_length=40)
    place: str = Field(min_length=1, max_length=60)
    phase: Literal["dead", "live"]
    found: Literal["ok", "fault"]
    seen: str = Field(max_length=200)
    wants: str = Field(max_length=200)


class Photo(_Body):
    """A picture of a group of terminals, or with the device `survey` of a section of it, as JPEG in base64."""

    device: str = Field(min_length=1, max_length=40)
    place: str = Field(min_length=1, max_length=60)
    text: str = Field(min_length=1, max_length=600_000, pattern=r"^[A-Za-z0-9+/]+={0,2}$")


class AsFound(_Body):
    """What a keypad showed under a code before the work began."""

    device: str = Field(min_length=1, max_length=40)
    code: str = Field(max_length=16)
    typed: str = Field(max_length=40)


class FactoryReset(_Body):
    """A device set back to what it shows when new. why: why nothing was noted before, where nothing was."""

    device: str = Field(min_length=1, max_length=40)
    why: str = Field(default="", max_length=500)


class Waiver(_Body):
    """Something between plan and devices that is left as it is, and why; an empty reason takes the waiver back."""

    about: str = Field(min_length=1, max_length=120)
    words: str = Field(max_length=500)
    reason: str = Field(max_length=500)


class Stored(_Body):
    """How a parameter set was stored, as shown by the device."""

    shown: str = Field(max_length=60)


class Observation(_Body):
    """What was seen of a proof, by whom it was judged how, and what had been expected in SI.

    settings: what it proves as it stood then, in SI. instrument: with what it was read, and when that was last checked.
    claim, must_see: what the plan decided beside numbers, and what had to be seen in words; missing in old records.
    """

    proof: str = Field(max_length=60)
    seen: str = Field(max_length=200)
    units: Literal["metric", "us"]
    method: Method
    note: str = Field(default="", max_length=1000)
    verdict: Literal["passed", "failed"]
    expected: Number | None
    settings: dict[Annotated[str, Field(max_length=60)], Number] = Field(default_factory=dict, max_length=60)
    instrument: str = Field(default="", max_length=200)
    witness: str = Field(default="", max_length=80)
    claim: str | None = Field(default=None, max_length=200)
    must_see: str = Field(default="", max_length=2000)


class OpenPoint(_Body):
    """Something left behind. temporary: something put in for the work that must come out again, and stays on every view until then."""

    text: str = Field(min_length=1, max_length=1000)
    temporary: Literal["jumper", "setting", "other"] | None = None


class PointClosed(_Body):
    """How an open point (by the number of its entry) was closed."""

    point: int = Field(ge=1)
    how: str = Field(min_length=1, max_length=1000)


class Signature(_Body):
    """Who signs, in which role, and to what."""

    name: str = Field(min_length=1, max_length=80)
    role: str = Field(min_length=1, max_length=80)
    statement: str = Field(max_length=1000)


BODIES: dict[Kind, type[_Body]] = {
    Kind.CREATED: Created,
    Kind.FACTS: FactsBody,
    Kind.CHOICES: ChoicesBody,
    Kind.DECLINED: Declined,
    Kind.DRAWDOWN: DrawdownBody,
    Kind.SCALING: ScalingBody,
    Kind.MOTOR: MotorBody,
    Kind.ENERGISING: EnergisingBody,
    Kind.TREND: TrendBody,
    Kind.HAND_SWEEP: HandSweepBody,
    Kind.STEP_TEST: StepTestBody,
    Kind.REHEARSAL: Rehearsal,
    Kind.FAMILY: FamilyTaken,
    Kind.WIRE: WireSeen,
    Kind.PHOTO: Photo,
    Kind.AS_FOUND: AsFound,
    Kind.RESET: FactoryReset,
    Kind.READ_BACK: ReadBack,
    Kind.WAIVER: Waiver,
    Kind.STORED: Stored,
    Kind.OBSERVATION: Observation,
    Kind.OPEN_POINT: OpenPoint,
    Kind.POINT_CLOSED: PointClosed,
    Kind.SIGNATURE: Signature,
}


OPEN = (Kind.CHOICES, Kind.REHEARSAL, Kind.STEP_TEST, Kind.READ_BACK, Kind.OPEN_POINT)  # fields came to these bodies later: older entries do without them


def checked_body(kind: Kind, body: dict[str, Any]) -> dict[str, Any]:
    """The body as plain JSON values, or a ValidationError naming the field."""
    checked = BODIES[kind].model_validate(body)
    return checked.model_dump(mode="json", exclude_unset=kind in OPEN)  # a sealed body must stay as it was
