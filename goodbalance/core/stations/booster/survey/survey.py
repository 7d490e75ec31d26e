"""What is asked of a booster set. Heights are above one datum of the site; pressures are gauge."""

from pydantic import Field

from goodbalance.core.balance.facts import Facts, fact, section, words, yes_no
from goodbalance.core.balance.quantities import Quantity as Q
from goodbalance.core.physics.pipework import FrictionSchool
from goodbalance.core.protection.asked import ProtectionFacts
from goodbalance.core.protection.readings import ReadCurrent
from goodbalance.core.stations.booster.survey.control import (
    DRIVEN,
    Control,
    ControlKind,
    PressureSensor,
    RemoteSensor,
    SuctionBy,
    SuctionSensor,
    SuctionSwitch,
)
from goodbalance.core.stations.booster.survey.supply import Supply, SupplyKind
from goodbalance.core.stations.shared.crew import Crew
from goodbalance.core.stations.shared.facts import (
    VisitFacts,
    hazen_williams_c,
    pipe_friction,
    sand_roughness_m,
    wave_speed_ms,
)
from goodbalance.core.stations.shared.pump_facts import CurvePoint, MotorPlate, curve_table
from goodbalance.core.stations.shared.telemetry import Telemetry

MAX_PUMPS = 5
HOURS = 24


class Outlets(Facts):
    """What has to be supplied, and how high it lies."""

    sensor_m: float = fact("Height of the discharge sensor", Q.LENGTH, -500.0, 5000.0)
    worst_m: float = fact("Height of the worst outlet", Q.LENGTH, -500.0, 5000.0, hint="the hardest to supply")
    lowest_m: float = fact("Height of the lowest outlet", Q.LENGTH, -500.0, 5000.0)
    top_m: float = fact(
        "Highest point of the pipes", Q.LENGTH, -500.0, 5000.0, hint="the standing column reaches up to it"
    )
    residual_pa: float = fact("Pressure wanted at the worst outlet", Q.PRESSURE, 0.0, 2e6, usual=(5e4, 4e5))
    permitted_pa: float = fact("Pressure permitted at the lowest outlet", Q.PRESSURE, 5e4, 4e6, usual=(3e5, 10e5))
    length_m: float = fact("Length of pipe to the worst outlet", Q.LENGTH, 0.5, 20000.0, usual=(5.0, 2000.0))
    diameter_m: float = fact("Inner diameter of that pipe", Q.SMALL_LENGTH, 0.008, 2.0, usual=(0.015, 0.4))
    friction: FrictionSchool = pipe_friction()
    hazen_williams_c: float | None = hazen_williams_c("outlets")
    sand_roughness_m: float | None = sand_roughness_m("outlets")
    minor_k: float = fact("Sum of fitting losses K", Q.RATIO, 0.0, 500.0, default=10.0, doubt=0.5)
    wave_ms: float = wave_speed_ms()


class HourDemand(Facts):
    """Demand in one hour of a day."""

    flow_m3s: float | None = fact("Demand", Q.FLOW, 0.0, 10.0, default=None)


class Demand(Facts):
    """How much is drawn."""

    least_m3s: float = fact("Smallest flow worth running a pump for", Q.FLOW, 1e-6, 1.0, hint="one tap, one shower")
    mean_m3s: float = fact("Mean flow while water is drawn", Q.FLOW, 1e-6, 5.0)
    design_m3s: float = fact("Design flow", Q.FLOW, 1e-6, 10.0, hint="the largest that must be supplied")
    flush_m3s: float | None = fact(
        "Fire or flushing flow on top", Q.FLOW, 0.0, 10.0, default=None,
        hint="leave empty where there is none; fire systems belong to licensed people",
    )  # fmt: skip
    hourly: bool = yes_no("Known hour by hour", default=False, hint="energy is reckoned over it")
    hours: tuple[HourDemand, ...] = section(
        "Demand in each hour of a usual day", "From midnight on.", rows=HOURS,
        only_if=(("demand.hourly", ("yes",)),), default=(),
    )  # fmt: skip


class Pumping(Crew):
    """The pumps, all alike."""

    count: int = fact("Pumps", Q.COUNT, 1, MAX_PUMPS, default=2)
    check_valves: bool = yes_no(
        "Check valve on each pump's discharge", default=True, hint="without one a set never stops cleanly"
    )
    starts_per_hour: float = fact("Starts allowed per hour", Q.STARTS, 0.5, 120.0, usual=(6.0, 40.0), typical=15.0, doubt=0.3)
    least_flow_m3s: float = fact(
        "Least flow of a running pump (maker)",
        Q.FLOW,
        0.0,
        1.0,
        default=0.0,
        hint="under it water heats up in the pump",
    )
    best_flow_m3s: float | None = fact(
        "Flow of best efficiency of a pump (maker)", Q.FLOW, 1e-6, 10.0, default=None,
        hint="empty: worked out where the curve has powers",
    )  # fmt: skip
    most_flow_m3s: float | None = fact(
        "Largest flow of a pump (maker)", Q.FLOW, 1e-6, 10.0, default=None, hint="empty: the last point of its curve"
    )
    curve: tuple[CurvePoint, ...] = curve_table()


class Motor(MotorPlate):
    """The nameplate of a motor, all alike, and what a drive may do with it."""

    rated_hz: float = fact("Frequency at full speed", Q.FREQUENCY, 20.0, 120.0, default=50.0)
    rated_rpm: float = fact("Speed on the nameplate", Q.ROTATION, 200.0, 12000.0, default=2900.0)
    least_hz: float = fact(
        "Least frequency the maker allows", Q.FREQUENCY, 0.0, 100.0, default=20.0, only_if=DRIVEN
    )  # fmt: skip
    ramp_s: float = fact(
        "Shortest ramp from rest to full speed", Q.TIME, 0.2, 60.0, usual=(0.5, 10.0), default=3.0,
        hint="that the drive takes without tripping", only_if=DRIVEN,
    )  # fmt: skip
    drive_efficiency: float = fact(
        "Efficiency of a drive", Q.PERCENT, 0.7, 1.0, usual=(0.9, 0.985), default=0.96, only_if=DRIVEN,
        hint="what the supply gives and the motor does not get is heat in the drive",
    )  # fmt: skip
    generator: bool = yes_no("A generator takes over when the mains fail", default=False)
    generator_va: float | None = fact(
        "Generator, what it carries without end", Q.APPARENT_POWER, 500.0, 5e6, only_if=(("motor.generator", ("yes",)),)
    )
    start_factor: float = fact(
        "Current of a start, over nameplate", Q.RATIO, 1.0, 10.0, default=1.5,
        hint="about 1.5 with a drive, 6 straight on line", only_if=(("motor.generator", ("yes",)),),
    )  # fmt: skip


class Vessel(Facts):
    """The pressure tank, if there is one, and what holds the pressure."""

    volume_m3: float = fact("Volume of the pressure tank", Q.VOLUME, 0.0, 100.0, hint="0 where there is none")
    precharge_found_pa: float | None = fact("Precharge as found, water side empty", Q.PRESSURE, 0.0, 5e6, default=None)
    height_m: float | None = fact(
        "Height of the tank", Q.LENGTH, -500.0, 5000.0, default=None, hint="empty: at the discharge sensor"
    )
    tank_rating_pa: float | None = fact(
        "Rating of the tank", Q.PRESSURE, 1e5, 1e7, usual=(6e5, 25e5), default=None, hint="empty: no weaker than the rest"
    )
    rating_pa: float = fact(
        "Weakest rating of pipes, pumps and fittings", Q.PRESSURE, 1e5, 1e7, usual=(6e5, 25e5),
        hint="it counts at the lowest of them, where the column above adds",
    )  # fmt: skip
    relief_pa: float | None = fact(
        "Relief valve opens at", Q.PRESSURE, 1e5, 1e7, default=None, hint="empty where there is none"
    )
    relief_m: float | None = fact(
        "Height of the relief valve", Q.LENGTH, -500.0, 5000.0, default=None, hint="empty: at the discharge sensor"
    )


class Sureness(Facts):
    """Doubt in the facts, as the half width within which 95 of 100 would lie."""

    head_share: float = fact("Heads of the pump curve", Q.PERCENT, 0.0, 0.5, usual=(0.005, 0.1), default=0.03)
    demand_share: float = fact("Demands", Q.PERCENT, 0.0, 0.9, usual=(0.02, 0.5), default=0.15)
    loss_share: float = fact("Losses of the pipes", Q.PERCENT, 0.0, 0.9, usual=(0.02, 0.5), default=0.15)
    reading_pa: float = fact("Pressure reading", Q.PRESSURE, 0.0, 2e5, usual=(5e2, 3e4), default=3e3)


class AsFound(Facts):
    """What the set was set to before anything was changed."""

    set_pressure: float | None = fact("Set pressure, as found", Q.PRESSURE, 0.0, 5e6, default=None)
    restart: float | None = fact("Restart pressure, as found", Q.PRESSURE, 0.0, 5e6, default=None)
    cut_in: float | None = fact("Cut-in pressure, as found", Q.PRESSURE, 0.0, 5e6, default=None)
    cut_out: float | None = fact("Cut-out pressure, as found", Q.PRESSURE, 0.0, 5e6, default=None)
    high_stop: float | None = fact("High-pressure stop, as found", Q.PRESSURE, 0.0, 1e7, default=None)
    notes: str = words("Readings and state as found", max_length=2000, long_text=True)


class LoopPoint(Facts):
    """A process of first order with dead time: speed (% of full) to reading (% of the sensor's range)."""

    gain: float
    time_s: float = Field(gt=0.0)
    dead_s: float = Field(ge=0.0)


class MeasuredLoop(LoopPoint):
    """The process as a step test found it, at a flow and pump count; region: what its fit leaves open."""

    region: tuple[LoopPoint, ...] = ()
    flow_m3s: float = Field(ge=0.0)
    pumps: int = Field(ge=1)


class BoosterSurvey(Facts):
    """All facts of a booster set."""

    visit: VisitFacts = section(
        "Visit and safe start", "Controls in OFF, isolate, lock, prove dead; somebody minds the water meanwhile.", default=VisitFacts()
    )
    control: Control = section("Control", "How the pumps are made to hold the pressure.", default=Control())
    supply: Supply = section("Supply", "At the inlet of the set.")
    outlets: Outlets = section("Outlets and pipes", "Heights above one datum of the site.")
    demand: Demand = section("Demand")
    pumping: Pumping = section("Pumps")
    motor: Motor = section("Motors and power")
    vessel: Vessel = section("Tank and ratings")
    sensor: PressureSensor = section("Discharge sensor")
    suction_sensor: SuctionSensor = section(
        "Suction sensor", "Read its range off the label: a stop it cannot read never comes.",
        only_if=(("control.suction_by", ("sensor",)),), default=SuctionSensor(),
    )  # fmt: skip
    suction_switch: SuctionSwitch = section(
        "Suction switch or float", "What lets go when water runs low, and how its contact is built.",
        only_if=(("control.suction_by", ("switch", "float")),), default=SuctionSwitch(),
    )  # fmt: skip
    remote: RemoteSensor | None = section(
        "Remote sensor", "At the far end, so that losses need not be guessed.",
        only_if=(("control.remote", ("yes",)),), default=None,
    )  # fmt: skip
    telemetry: Telemetry = section("Telemetry", "Who is called when something is wrong.", default=Telemetry())
    protection: ProtectionFacts = section("Motors and their supply", "How motors start, what they stand, what watches their load.", default=ProtectionFacts())
    sureness: Sureness = section(
        "How sure the facts are", "Half the width within which 95 of 100 would lie.", default=Sureness()
    )
    as_found: AsFound = section("As found", "Write down what is set now, before changing anything.", default=AsFound())

    clamped: tuple[ReadCurrent, ...] = Field(default=())  # not asked: read with a clamp meter, pump by pump
    measured: MeasuredLoop | None = Field(default=None)  # not asked: taken from the step test that is reckoned with

    @property
    def has_drives(self) -> bool:
        """Whether speeds can be set."""
        return self.control.kind in (ControlKind.CONSTANT, ControlKind.FIXED)

    @property
    def own_switches(self) -> bool:
        """Whether each pump is called by a pressure switch of its own."""
        return self.control.own_switches and self.control.kind is ControlKind.ON_OFF and self.pumping.count > 1

    @property
    def switch_in_tank(self) -> bool:
        """Whether a float or level switch in the tank tells of lack of water."""
        return self.control.suction_by is SuctionBy.FLOAT and self.supply.kind is not SupplyKind.TOWN_MAIN

    @property
    def holds_constant(self) -> bool:
        """Whether drives hold the pressure."""
        return self.control.kind is ControlKind.CONSTANT

    def as_found_of(self, setting_id: str) -> float | None:
        """The value found for a setting, or None where none was noted."""
        return self.vessel.precharge_found_pa if setting_id == "precharge" else getattr(self.as_found, setting_id, None)
