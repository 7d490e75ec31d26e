"""What is asked of a lift station. Heights are above the well floor."""

from dataclasses import replace
from enum import StrEnum

from pydantic import Field

from goodbalance.core.balance.facts import Facts, choice, fact, section, words, yes_no
from goodbalance.core.balance.quantities import Quantity as Q
from goodbalance.core.physics.pipework import FrictionSchool
from goodbalance.core.protection.asked import ProtectionFacts
from goodbalance.core.protection.readings import ReadCurrent
from goodbalance.core.stations.lift.survey.level_sensor import LevelSensor
from goodbalance.core.stations.lift.survey.pump import Pump
from goodbalance.core.stations.lift.survey.sensing import (
    MAX_PUMPS,
    Control,
    ControlKind,
    Drives,
    RelayNumbers,
    Sureness,
)
from goodbalance.core.stations.lift.survey.team import Inputs, Team
from goodbalance.core.stations.shared.crew import Crew
from goodbalance.core.stations.shared.facts import (
    LoopBudget,
    Permits,
    VisitFacts,
    hazen_williams_c,
    permits,
    pipe_friction,
    sand_roughness_m,
    wave_speed_ms,
)
from goodbalance.core.stations.shared.telemetry import Telemetry

TABLE_ROWS = 12
HOURS = 24


class Arrangement(StrEnum):
    """How the pumps are grouped."""

    ONE_GROUP = "one_group"
    SMALL_FIRST = "small_first"
    TWO_PAIRS = "two_pairs"


class WellShape(StrEnum):
    """The shape of the well."""

    CIRCLE = "circle"
    RECTANGLE = "rectangle"
    BENCHED = "benched"
    TABLE = "table"


class Entry(StrEnum):
    """Whether somebody must go into the well, and may."""

    NOT_NEEDED = "not_needed"
    PERMIT_HELD = "permit_held"
    NO_ENTRY = "no_entry"


class Visit(VisitFacts):
    """The visit and the safe start, and whether somebody must go into the well."""

    entry: Entry = choice(
        "Entry into the well",
        Entry,
        {
            "not_needed": "Not needed, work from above",
            "permit_held": "Permit held, gas tested, attendant present",
            "no_entry": "Needed, but no permit: do not enter",
        },
        default=Entry.NOT_NEEDED,
    )


class TablePoint(Facts):
    """One line of a level and volume table."""

    level_m: float | None = fact("Level", Q.LEVEL, 0.0, 60.0, default=None)
    volume_m3: float | None = fact("Volume", Q.VOLUME, 0.0, 100_000.0, default=None)


_ROUND = (("well.shape", ("circle", "benched")),)
_BENCHED = (("well.shape", ("benched",)),)
_RECTANGLE = (("well.shape", ("rectangle",)),)


class WetWell(Facts):
    """Shape and depth of the well, and where the pumps draw."""

    shape: WellShape = choice(
        "Shape",
        WellShape,
        {
            "circle": "Round",
            "rectangle": "Rectangular",
            "benched": "Round with sloped benching at the floor",
            "table": "By a table of level and volume",
        },
        default=WellShape.CIRCLE,
    )
    diameter_m: float | None = fact("Inside diameter", Q.LENGTH, 0.3, 40.0, usual=(0.8, 12.0), only_if=_ROUND)
    floor_diameter_m: float | None = fact(
        "Diameter of the flat floor", Q.LENGTH, 0.1, 40.0, usual=(0.3, 8.0), only_if=_BENCHED
    )
    benching_m: float | None = fact("Height of the benching", Q.LEVEL, 0.05, 10.0, usual=(0.2, 2.0), only_if=_BENCHED)
    length_m: float | None = fact("Inside length", Q.LENGTH, 0.3, 100.0, usual=(0.8, 25.0), only_if=_RECTANGLE)
    width_m: float | None = fact("Inside width", Q.LENGTH, 0.3, 100.0, usual=(0.8, 25.0), only_if=_RECTANGLE)
    depth_m: float = fact("Depth, floor to cover", Q.LEVEL, 0.3, 60.0, usual=(1.5, 15.0))
    intake_m: float = fact(
        "Pump intake above floor", Q.LEVEL, 0.0, 10.0, usual=(0.03, 1.0), hint="the lowest point at which the pump draws",
        typical=0.15, doubt=0.4,
    )  # fmt: skip
    lost_share: float = fact(
        "Volume taken up by pumps, rails and solids", Q.PERCENT, 0.0, 0.5, usual=(0.0, 0.2), default=0.0
    )
    second_area_m2: float | None = fact(
        "Area of a second well joined to it", Q.AREA, 0.05, 5000.0, default=None, hint="leave empty where there is none"
    )
    joined_above_m: float | None = fact(
        "Both are one above", Q.LEVEL, 0.0, 60.0, default=None, hint="invert of the joining pipe, or the sill between them that keeps the last water back"
    )
    table: tuple[TablePoint, ...] = section(
        "Level and volume", "From the floor up; the first line may be the floor itself.", rows=TABLE_ROWS,
        only_if=(("well.shape", ("table",)),), default=(),
    )  # fmt: skip


class Inlet(Facts):
    """Where water comes in and where it spills."""

    invert_m: float = fact(
        "Inlet invert above floor", Q.LEVEL, 0.1, 60.0, usual=(0.8, 12.0), hint="lowest point of the incoming pipe"
    )
    overflow_m: float = fact(
        "Overflow level above floor",
        Q.LEVEL,
        0.1,
        60.0,
        usual=(1.0, 14.0),
        hint="lowest level at which water leaves the wrong way",
    )
    sewer_storage: bool = yes_no(
        "Incoming sewer may be used for storage", default=False, hint="only when the sewer was designed for it"
    )


class HourFlow(Facts):
    """Inflow in one hour of the day."""

    flow_m3s: float = fact("Inflow", Q.FLOW, 0.0, 10.0)


class Inflow(Facts):
    """How much comes in."""

    min_m3s: float = fact("Lowest inflow", Q.FLOW, 0.0, 5.0, usual=(0.00005, 0.3), hint="night flow")
    mean_m3s: float = fact("Mean inflow", Q.FLOW, 1e-6, 5.0, usual=(0.0001, 0.5))
    peak_m3s: float = fact("Peak inflow", Q.FLOW, 1e-6, 10.0, usual=(0.0003, 1.0), hint="storm, or the design peak")
    hourly: bool = yes_no("Known hour by hour", default=False, hint="a trend of levels can fill it in")
    hours: tuple[HourFlow, ...] = section(
        "Inflow in each hour of a dry day", "From midnight on; the bench runs its days by it.", rows=HOURS,
        only_if=(("inflow.hourly", ("yes",)),), default=(),
    )  # fmt: skip


class RisingMain(Facts):
    """The pipe from the pumps to the outlet."""

    outlet_m: float = fact(
        "Outlet level above well floor",
        Q.LEVEL,
        -50.0,
        300.0,
        usual=(1.0, 80.0),
        hint="highest point the water must reach",
    )
    length_m: float = fact("Length of main", Q.LENGTH, 0.5, 50000.0, usual=(3.0, 6000.0))
    diameter_m: float = fact("Inner diameter of main", Q.SMALL_LENGTH, 0.02, 3.0, usual=(0.04, 0.8))
    friction: FrictionSchool = pipe_friction()
    hazen_williams_c: float | None = hazen_williams_c("main")
    sand_roughness_m: float | None = sand_roughness_m("main")
    minor_k: float = fact(
        "Sum of fitting losses K",
        Q.RATIO,
        0.0,
        500.0,
        usual=(0.5, 60.0),
        default=10.0,
        doubt=0.5,
        hint="bends, check valve, gate valve, outlet",
    )
    temperature_c: float = fact("Warmest water", Q.TEMPERATURE, 1.0, 60.0, usual=(5.0, 25.0), default=16.0)
    altitude_m: float = fact("Height above the sea", Q.LENGTH, -430.0, 5000.0, default=0.0)
    wave_ms: float = wave_speed_ms()
    rating_pa: float | None = fact(
        "Pressure the main is rated for", Q.PRESSURE, 1e5, 1e7, usual=(6e5, 25e5), default=None,
        hint="empty where it is not known",
    )  # fmt: skip


class Pumping(Crew):
    """How many pumps, and whether they are alike."""

    count: int = fact("Pumps", Q.COUNT, 1, MAX_PUMPS, default=2)
    twins: bool = yes_no("All pumps alike", default=True, hint="asks for one pump only")
    arrangement: Arrangement = choice(
        "Pumps work as",
        Arrangement,
        {
            "one_group": "One group: duty and assists take turns",
            "small_first": "Pump 1 is small and comes first; the others take turns above it",
            "two_pairs": "Two pairs: everyday (1 and 2) and storm (the others)",
        },
        default=Arrangement.ONE_GROUP,
    )
    first_rests: bool = yes_no(
        "The first ones rest while the others run",
        default=True,
        only_if=(("pumping.arrangement", ("small_first", "two_pairs")),),
    )

    @property
    def first_group(self) -> int:
        """Pumps that form a group of their own and are called first; 0 where all are one group."""
        size = {Arrangement.SMALL_FIRST: 1, Arrangement.TWO_PAIRS: 2}.get(self.arrangement, 0)
        return size if size < self.duty_count else 0


class Demands(Facts):
    """What the owner and the crew need."""

    starts_per_hour: float = fact(
        "Starts permitted per hour and pump",
        Q.STARTS,
        0.5,
        60.0,
        usual=(4.0, 20.0),
        hint="the lower of what the maker and the site allow counts",
        typical=8.0,
    )
    response_s: float = fact("Crew's response time after an alarm", Q.DURATION, 0.0, 172800.0, usual=(300.0, 28800.0), typical=7200.0, doubt=0.5)
    low_float: bool = yes_no(
        "Separate low-level float stops the pumps", default=False, hint="independent of the level sensor"
    )
    low_float_permits: Permits = permits("That float's contact", (("demands.low_float", ("yes",)),))


class AsFound(Facts):
    """What the station was set to before anything was changed."""

    stop_m: float | None = fact("Stop level, as found", Q.LEVEL, 0.0, 60.0, default=None)
    start_1_m: float | None = fact("Duty start level, as found", Q.LEVEL, 0.0, 60.0, default=None)
    start_2_m: float | None = fact("Assist start level, as found", Q.LEVEL, 0.0, 60.0, default=None)
    high_alarm_m: float | None = fact("High alarm level, as found", Q.LEVEL, 0.0, 60.0, default=None)
    low_alarm_m: float | None = fact("Low alarm level, as found", Q.LEVEL, 0.0, 60.0, default=None)
    low_cut_out_m: float | None = fact("Low-level cut-out, as found", Q.LEVEL, 0.0, 60.0, default=None)
    notes: str = words("Readings and state as found", max_length=2000, long_text=True)


def _pump_asked_if(number: int) -> tuple[tuple[str, tuple[str, ...]], ...]:
    counts = tuple(str(count) for count in range(number, MAX_PUMPS + 1))
    return (("pumping.twins", ("no",)), ("pumping.count", counts))


_SENSOR = (("control.level_by", ("sensor", "sensor_and_floats")),)
_RELAYS = (("control.kind", ("relays_to_panel", "relays_alone")), *_SENSOR)


class LiftSurvey(Facts):
    """All facts of a lift station."""

    visit: Visit = section(
        "Visit and safe start",
        "Before touching anything: controls in OFF, isolate, lock, prove dead; somebody minds the water meanwhile.",
    )
    well: WetWell = section("Wet well", "Heights are above the well floor.")
    inlet: Inlet = section("Inlet and overflow")
    inflow: Inflow = section("Inflow")
    main: RisingMain = section("Rising main")
    pumping: Pumping = section("Pumps")
    pump_1: Pump = section("Pump 1", "Three or more points of the maker's curve, then the nameplate.")
    pump_2: Pump | None = section("Pump 2", only_if=_pump_asked_if(2), default=None)
    pump_3: Pump | None = section("Pump 3", only_if=_pump_asked_if(3), default=None)
    pump_4: Pump | None = section("Pump 4", only_if=_pump_asked_if(4), default=None)
    control: Control = section("Control", "Who decides, and what it sees.", default=Control())
    sensor: LevelSensor | None = section(
        "Level sensor", "What the controller will read.", only_if=_SENSOR, default=None
    )
    relays: RelayNumbers = section(
        "Relay numbers", "Only where wires already lead to certain relays; an empty one takes the next free, from the floor up.",
        only_if=_RELAYS, default=RelayNumbers(),
    )  # fmt: skip
    drives: Drives = section("Drives", default=Drives())
    team: Team = section(
        "Drives that decide by themselves", "Each is typed by itself; the one that leads decides for all.",
        only_if=(("control.kind", ("drives_alone",)),), default=Team(),
    )  # fmt: skip
    telemetry: Telemetry = section("Telemetry", "Who is called when something is wrong.", default=Telemetry())
    demands: Demands = section("Demands")
    protection: ProtectionFacts = section("Motors and their supply", "How motors start, what they stand, what watches their load.", default=ProtectionFacts())
    sureness: Sureness = section(
        "How sure the facts are", "Half the width within which 95 of 100 would lie.", default=Sureness()
    )
    as_found: AsFound = section("As found", "Write down what is set now, before changing anything.")

    clamped: tuple[ReadCurrent, ...] = Field(default=())  # not asked: read with a clamp meter, pump by pump

    @property
    def pumps(self) -> tuple[Pump, ...]:
        """The pumps in their order; twins are the first pump repeated."""
        if self.pumping.twins:
            return (self.pump_1,) * self.pumping.count
        asked = (self.pump_1, self.pump_2, self.pump_3, self.pump_4)
        return tuple(pump for pump in asked[: self.pumping.count] if pump is not None)

    @property
    def level_budget(self) -> LoopBudget:
        """What the loop of the level sensor has and needs; looped through the inputs of a team of drives it passes all of them."""
        budget = LoopBudget() if self.sensor is None else self.sensor.budget
        looped = self.control.kind is ControlKind.DRIVES_ALONE and self.team.inputs is Inputs.LOOPED
        if not looped or budget.second_ohm is None:
            return budget
        return replace(budget, second_ohm=budget.second_ohm * (self.pumping.count - 1))

    def as_found_of(self, setting_id: str) -> float | None:
        """The level found for a setting, or None where none was noted."""
        return getattr(self.as_found, f"{setting_id}_m", None)
