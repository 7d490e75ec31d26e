"""What a kind of station gives to the six views. Survey and choices are its own types, and so is the program its devices run."""

from collections.abc import Mapping
from typing import Any, ClassVar, Protocol, TypeVar

from goodbalance.core.balance.facts import Facts
from goodbalance.core.balance.plan import Finding, Plan, Setting
from goodbalance.core.balance.proof import Proof
from goodbalance.core.balance.quantities import Quantity
from goodbalance.core.balance.trail import Otherwise
from goodbalance.core.physics.scaling_check import CheckedScaling
from goodbalance.core.physics.signals import Reading
from goodbalance.core.protection.asked import ProtectionFacts
from goodbalance.core.protection.duty import MotorDuty
from goodbalance.core.protection.readings import ReadCurrent
from goodbalance.core.record.history import History
from goodbalance.core.rehearsal.engine import Bench
from goodbalance.core.rehearsal.proving import BenchProof, Scene
from goodbalance.core.rehearsal.troubles import Lever, Sign, Trouble
from goodbalance.core.sheets.devices import DeviceValues
from goodbalance.core.sheets.entry_sheet import EntrySheet, KeypadValue, Scale
from goodbalance.core.sheets.profile import Display, Profile
from goodbalance.core.sheets.wiring import Joint
from goodbalance.core.stations.shared.choices import Choices
from goodbalance.core.stations.shared.held import Held
from goodbalance.core.stations.shared.live import Live

S = TypeVar("S", bound=Facts)
C = TypeVar("C", bound=Choices)
P = TypeVar("P")
C_contra = TypeVar("C_contra", bound=Choices, contravariant=True)
S_contra = TypeVar("S_contra", bound=Facts, contravariant=True)


class Instruments(Protocol[S_contra, C_contra]):
    """Its sensor: what it reads and how its reading is shown and checked."""

    def is_fitted(self, survey: S_contra) -> bool:
        """Whether there is a sensor."""

    def is_read(self, setting: Setting) -> bool:
        """Whether its sensor reads this setting."""

    def readings(self, survey: S_contra, value: float) -> Reading:
        """A value in SI as a meter in the loop and a display show it."""

    def allowed_error(self, choices: C_contra) -> float:
        """How far off a reading may be, a share of the span."""

    def check_scaling(self, survey: S_contra, body: Mapping[str, Any]) -> CheckedScaling:
        """A scaling check as noted, worked out."""


class Keypad(Protocol[S_contra, C_contra, P]):
    """The devices that are typed into.

    section: of the survey, asked beside the entry sheet too; empty where there is none. families: those that can be its controller.
    """

    section: ClassVar[str]
    families: ClassVar[tuple[str, ...]]

    def meanings(self) -> frozenset[str]:
        """Every meaning that something of this kind is typed under, {n} standing for a relay's or drive's number."""

    def family_of(self, answers: Mapping[str, str]) -> str:
        """The controller family that suits a survey, by its answers."""

    def companions_of(self, answers: Mapping[str, str]) -> tuple[str, ...]:
        """The families of devices set beside it."""

    def scale(self, survey: S_contra, profile: Profile, display: Display) -> Scale:
        """How the device shows levels or pressures."""

    def values(self, survey: S_contra, choices: C_contra, plan: Plan, display: Display) -> dict[str, KeypadValue]:
        """What the plan wants of every meaning a device may have a place for."""

    def recheck(self, survey: S_contra, choices: C_contra, sheet: EntrySheet) -> Plan:
        """The plan with the settings as the keypad holds them after rounding."""

    def held(self, survey: S_contra, choices: C_contra, device: DeviceValues, display: Display) -> Held[P]:
        """The plan and the program as the devices hold them, as planned where nobody looked, and what none of them carries."""


class Measuring(Protocol[S, C_contra]):
    """What is measured on site and reckoned with in the place of what the survey says."""

    def measured_of(self, survey: S, history: History) -> tuple[Any, ...]:
        """What was measured and fits the survey still."""

    def with_measured(self, survey: S, choices: C_contra, measured: tuple[Any, ...]) -> S:
        """The survey reckoned with."""

    def findings(self, survey: S, choices: C_contra, measured: tuple[Any, ...]) -> list[Finding]:
        """Where what was measured is clearly off what was reckoned."""


class Motored(Protocol[S]):
    """Motors whose currents are read on site."""

    def duties(self, survey: S) -> tuple[MotorDuty, ...]:
        """What they do, alike ones together, with what was read of them."""

    def water_side(self, survey: S) -> str:
        """What its water side needs before a pump may turn, as something to do."""

    def told(self, survey: S) -> tuple[str, str] | None:
        """Who must be told before the first energising, and again after it, as something to do; None where nobody must."""
        return None

    def provisional(self, survey: S) -> tuple[str, ...]:
        """The stops that must be in force before the first run, by their settings' ids, where the plan has them."""

    def protection(self, survey: S) -> ProtectionFacts:
        """What protects them, as the survey found it."""

    def has_floats(self, survey: S) -> bool:
        """Whether floats hang that could call a pump."""

    def with_readings(self, survey: S, readings: tuple[ReadCurrent, ...]) -> S:
        """The survey reckoned with."""


class Diagnosing(Protocol[S_contra, C_contra]):
    """What its bench lets be broken and seen, so that faults can be told apart."""

    def troubles(self, bench: Any) -> tuple[Trouble, ...]:
        """What can be broken of it, or left switched the wrong way."""

    def signs(self, bench: Any) -> tuple[Sign, ...]:
        """What a person in front of it can see now: always the same things, in the order in which they are asked."""

    def stories(self, survey: S_contra, choices: C_contra, plan: Plan) -> tuple[Scene, ...]:
        """What usually happens before somebody comes and looks."""

    def at_work(self, survey: S_contra, choices: C_contra, plan: Plan) -> Scene:
        """Pump 1 works, called in AUTO as in HAND, for as long as nothing happens."""

    def dangers(self, bench: Any) -> tuple[Trouble, ...]:
        """What can harm a running pump 1 or its station."""

    def levers(self, bench: Any) -> tuple[Lever, ...]:
        """What could start or stop a pump: what water, switches and hands can do."""


class StationKind(Protocol[S, C, P]):
    """One kind of station: what is asked, reckoned, run and proved. What not every kind has may be left out."""

    id: ClassVar[str]
    label: ClassVar[str]
    main: ClassVar[Quantity]  # what its sensor reads and its flags stand on
    start_name: ClassVar[str]  # the start state of a bench run, as the record names it
    groups: ClassVar[tuple[tuple[str, str], ...]]  # groups of settings in the order they are shown, each with its title
    upright: ClassVar[bool] = False  # whether the first group stands on heights: shown from the highest down
    recorded: ClassVar[Mapping[str, str]] = {}  # groups of settings that are another's, and how they are said to stand
    caution: ClassVar[str] = ""  # said on every view of it
    longest_run_s: ClassVar[float]  # that the bench runs in one go
    survey_model: type[S]
    choices_model: type[C]
    instruments: Instruments[S, C] | None = None
    keypad: Keypad[S, C, P] | None = None
    measuring: Measuring[S, C] | None = None
    motors: Motored[S] | None = None
    live: Live | None = None
    diagnosis: Diagnosing[S, C] | None = None
    declinable: ClassVar[Mapping[str, tuple[str, ...]]] = {}  # protections a job may decline, each with the settings that go with it
    harms_without: ClassVar[Mapping[str, str]] = {}  # what follows without a setting, where it is not what its window says
    wire_meanings: ClassVar[frozenset[str]] = frozenset()  # what its joints may be called, {n} standing for a number

    def plausibility(self, values: Mapping[str, Any]) -> list[Finding]:
        """What does not fit together in a survey, by its filled-in values in SI."""

    def reckon(self, survey: S, choices: C, explain_empty: bool = True) -> Plan:
        """The plan. explain_empty: with what would open empty windows, which takes a search."""

    def bench(self, survey: S, choices: C, plan: Plan, start: float | None = None, program: P | None = None) -> Bench:
        """The station at rest at a start state, run by a program; by default as the plan wants both."""

    def proofs(self, survey: S, choices: C, plan: Plan) -> tuple[Proof, ...]:
        """What must be proved, in the order it is made on site."""

    def prove_on_bench(
        self, survey: S, choices: C, plan: Plan, held: Held[P] | None = None, only: frozenset[str] | None = None, broken: Trouble | None = None
    ) -> tuple[BenchProof, ...]:
        """The proofs that the bench can show, judged. only: those asked for, by id; broken: what is broken before each scene begins."""

    def scenes(self, survey: S, choices: C, plan: Plan) -> Mapping[str, Scene]:
        """What is done for each proof that the bench can show, by its id."""
        return {}

    def not_declined(self, survey: S, choices: C, plan: Plan, setting_id: str) -> str:
        """Why a protection may not be declined here; empty where it may."""
        return "" if setting_id in self.declinable else "It is no protection that a job may do without."

    def joints(self, survey: S, choices: C, plan: Plan) -> tuple[Joint, ...]:
        """The wires of the plan, in the order they are walked."""
        return ()

    def otherwise(self, survey: S, plan: Plan, setting: Setting) -> Otherwise | None:
        """A setting as other controllers state it."""
        return None

    def chances(self, survey: S, choices: C, plan: Plan, unsure: Mapping[str, float] | None = None) -> dict[str, float]:
        """How likely each setting stays inside its window although the facts are not sure, by id.

        unsure: facts that nobody has measured and what is usual stands for, by path: how far off they may be, a share.
        """
        return {}

    def as_found(self, survey: S, setting_id: str) -> float | None:
        """What a setting stood at before the work, in SI."""
        return None

    def notes_as_found(self, survey: S) -> str:
        """What was noted of the station before the work."""
        return ""

    def cautions(self, survey: S, choices: C) -> tuple[str, ...]:
        """For the record and the door card."""
        return ()

    def by_clock(self, survey: S, choices: C) -> tuple[str, ...]:
        """What the controller's clock changes, in words."""
        return ()


AnyKind = StationKind[Any, Any, Any]

