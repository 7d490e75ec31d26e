"""What is asked of a transfer set. Heights are above one datum of the site, levels above the floor of their tank; pressures are gauge."""

from pydantic import Field

from goodbalance.core.balance.facts import Conditions, Facts, fact, section, words, yes_no
from goodbalance.core.balance.quantities import Quantity as Q
from goodbalance.core.physics.pipework import FrictionSchool
from goodbalance.core.protection.asked import ProtectionFacts
from goodbalance.core.protection.readings import ReadCurrent
from goodbalance.core.stations.shared.crew import Crew
from goodbalance.core.stations.shared.facts import (
    VisitFacts,
    hazen_williams_c,
    pipe_friction,
    sand_roughness_m,
    wave_speed_ms,
)
from goodbalance.core.stations.shared.pressure_sensor import PressureSensor
from goodbalance.core.stations.shared.pump_facts import CurvePoint, MotorOnTheLine, curve_table
from goodbalance.core.stations.shared.telemetry import Telemetry
from goodbalance.core.stations.transfer.names import MAX_PUMPS, MAX_TANKS
from goodbalance.core.stations.transfer.survey.control import Control
from goodbalance.core.stations.transfer.survey.source import SECOND, Source
from goodbalance.core.stations.transfer.survey.tanks import TankFacts, Tanks


class Line(Facts):
    """The pipe from the pumps to where it divides, what it stands, and what it loses."""

    length_m: float = fact("Length of the common line", Q.LENGTH, 0.5, 50000.0, usual=(3.0, 5000.0), hint="from the pumps to where it divides, or to the tank")
    diameter_m: float = fact("Inner diameter of the line", Q.SMALL_LENGTH, 0.008, 3.0, usual=(0.02, 0.5))
    friction: FrictionSchool = pipe_friction()
    hazen_williams_c: float | None = hazen_williams_c("line")
    sand_roughness_m: float | None = sand_roughness_m("line")
    minor_k: float = fact("Sum of fitting losses K", Q.RATIO, 0.0, 500.0, default=8.0, doubt=0.5)
    wave_ms: float = wave_speed_ms()
    lowest_m: float | None = fact("Lowest point of the line", Q.LENGTH, -1000.0, 5000.0, default=None, hint="where the weakest rating counts; empty: at the sensor")
    rating_pa: float = fact("Weakest rating of pipes and fittings", Q.PRESSURE, 1e5, 1e7, usual=(6e5, 25e5))
    relief_pa: float | None = fact("Relief valve opens at", Q.PRESSURE, 1e5, 1e7, default=None, hint="empty where there is none; read at the sensor's height")
    leak_m3s: float = fact("Leak of the closed line", Q.FLOW, 0.0, 0.1, usual=(0.0, 1e-4), default=0.0, hint="as the hold test showed; pipes, foot or check valve")
    leak_at_pa: float | None = fact("That leak was read at", Q.PRESSURE, 1e4, 1e7, default=None, hint="empty: at the highest running pressure")
    vessel_m3: float = fact("Pressure vessel on it", Q.VOLUME, 0.0, 100.0, default=0.0, hint="0 where there is none: this way of filling needs none")
    precharge_pa: float | None = fact("Its precharge", Q.PRESSURE, 0.0, 5e6, default=None, hint="empty: nine tenths of the standing column")
    check_valve: bool = yes_no("A check valve holds the water at each pump", default=True)
    density_kgm3: float | None = fact("Density of the liquid", Q.DENSITY, 600.0, 1600.0, default=None, hint="empty: water at its temperature; sea water about 1025")
    temperature_c: float = fact("Warmest water", Q.TEMPERATURE, 1.0, 90.0, usual=(4.0, 30.0), default=15.0)
    altitude_m: float = fact("Height above the sea", Q.LENGTH, -430.0, 5000.0, default=0.0)


class Pumping(Crew):
    """The pumps: alike, or the second with a source and a curve of its own."""

    count: int = fact("Pumps", Q.COUNT, 1, MAX_PUMPS, default=1)
    own_source: bool = yes_no(
        "Pump 2 draws from a source of its own, with a curve of its own", default=False, only_if=(("pumping.count", ("2",)),), hint="a bore beside a cistern"
    )
    starts_per_hour: float = fact("Starts allowed per hour", Q.STARTS, 0.5, 120.0, usual=(4.0, 30.0), typical=10.0, doubt=0.3)
    least_flow_m3s: float = fact("Least flow of a running pump (maker)", Q.FLOW, 0.0, 1.0, default=0.0, hint="under it water heats up in the pump")
    warm_k: float = fact("The water in a pump may warm by", Q.RATIO, 1.0, 80.0, usual=(5.0, 30.0), default=15.0, hint="kelvin, while its valve throttles; the maker's seal counts")
    curve: tuple[CurvePoint, ...] = curve_table()


class SecondPump(MotorOnTheLine):
    """Pump 2 where it is another: its curve and its plate."""

    curve: tuple[CurvePoint, ...] = curve_table()
    starts_per_hour: float = fact("Starts allowed per hour", Q.STARTS, 0.5, 120.0, usual=(4.0, 30.0), default=10.0)


class Sureness(Facts):
    """Doubt in the facts, as the half width within which 95 of 100 would lie."""

    head_share: float = fact("Heads of the pump curve", Q.PERCENT, 0.0, 0.5, usual=(0.005, 0.1), default=0.03)
    draw_share: float = fact("Draws", Q.PERCENT, 0.0, 0.9, usual=(0.02, 0.5), default=0.20)
    loss_share: float = fact("Losses of the pipes", Q.PERCENT, 0.0, 0.9, usual=(0.02, 0.5), default=0.15)


class AsFound(Facts):
    """What the set was set to before anything was changed."""

    stop_pressure: float | None = fact("Stop pressure, as found", Q.PRESSURE, 0.0, 1e7, default=None)
    restart_pressure: float | None = fact("Restart pressure, as found", Q.PRESSURE, 0.0, 1e7, default=None)
    restart_delay: float | None = fact("Restart delay, as found", Q.DURATION, 0.0, 7 * 86400.0, default=None)
    longest_run: float | None = fact("Longest run, as found", Q.DURATION, 0.0, 7 * 86400.0, default=None)
    start_1: float | None = fact("Start level of tank 1, as found", Q.LEVEL, 0.0, 50.0, default=None)
    stop_1: float | None = fact("Stop level of tank 1, as found", Q.LEVEL, 0.0, 50.0, default=None)
    source_stop_1: float | None = fact("Low-water stop of the source, as found", Q.LENGTH, -1000.0, 5000.0, default=None)
    notes: str = words("Readings and state as found", max_length=2000, long_text=True)


def _tank_if(number: int) -> Conditions:
    return (("tanks.count", tuple(str(count) for count in range(number, MAX_TANKS + 1))),)


class TransferSurvey(Facts):
    """All facts of a transfer set."""

    visit: VisitFacts = section("Visit and safe start", "Controls in OFF, isolate, lock, prove dead; somebody minds the water meanwhile.", default=VisitFacts())
    control: Control = section("Control", "How it knows that a tank is full.", default=Control())
    source: Source = section("Source", "What pump 1 draws from, and every pump unless one has a source of its own.")
    source_2: Source | None = section("Source of pump 2", "Its own.", only_if=SECOND, default=None)
    pumping: Pumping = section("Pumps")
    motor: MotorOnTheLine = section("Motors")
    second: SecondPump | None = section("Pump 2", "Its motor's plate, then its curve.", only_if=SECOND, default=None)
    line: Line = section("Line", "From the pumps to where it divides.")
    tanks: Tanks = section("What is wanted of the tanks", default=Tanks())
    tank_1: TankFacts = section("Tank 1", "Levels above its floor. Walk there: the valve's levels are read at the valve.")
    tank_2: TankFacts | None = section("Tank 2", only_if=_tank_if(2), default=None)
    tank_3: TankFacts | None = section("Tank 3", only_if=_tank_if(3), default=None)
    sensor: PressureSensor = section("Pressure sensor", "At the pump, behind its check valve.")
    telemetry: Telemetry = section("Telemetry", "Who is called when something is wrong.", default=Telemetry())
    protection: ProtectionFacts = section("Motors and their supply", "How motors start, what they stand, what watches their load.", default=ProtectionFacts())
    sureness: Sureness = section("How sure the facts are", "Half the width within which 95 of 100 would lie.", default=Sureness())
    as_found: AsFound = section("As found", "Write down what is set now, before changing anything.", default=AsFound())

    clamped: tuple[ReadCurrent, ...] = Field(default=())  # not asked: read with a clamp meter, pump by pump

    @property
    def all_tanks(self) -> tuple[TankFacts, ...]:
        """The tanks that are there, tank 1 first."""
        return tuple(tank for tank in (self.tank_1, self.tank_2, self.tank_3)[: self.tanks.count] if tank is not None)

    @property
    def sources(self) -> tuple[Source, ...]:
        """The sources, that of pump 1 first."""
        return (self.source,) if self.source_2 is None or not self.pumping.own_source else (self.source, self.source_2)

    def tank_name(self, number: int) -> str:
        """What people call a tank, 1 for the first."""
        return self.all_tanks[number - 1].name.strip() or (f"tank {number}" if self.tanks.count > 1 else "the tank")

    def as_found_of(self, setting_id: str) -> float | None:
        """The value found for a setting, or None where none was noted."""
        return getattr(self.as_found, setting_id, None)
