"""What is asked of a maintenance pump's line. Heights are above one datum of the site; pressures are gauge, at the sensor's height unless said otherwise."""

from pydantic import Field

from goodbalance.core.balance.facts import Facts, fact, section, words, yes_no
from goodbalance.core.balance.quantities import Quantity as Q
from goodbalance.core.protection.asked import ProtectionFacts
from goodbalance.core.protection.readings import ReadCurrent
from goodbalance.core.stations.maintenance.names import LICENSED, MAX_MAINS
from goodbalance.core.stations.shared.facts import VisitFacts, wave_speed_ms
from goodbalance.core.stations.shared.pressure_sensor import PressureSensor
from goodbalance.core.stations.shared.pump_facts import CurvePoint, MotorOnTheLine, curve_table
from goodbalance.core.stations.shared.telemetry import Telemetry


class Authority(Facts):
    """Who answers for the fire system, and who was told."""

    licensed: str = words("Licensed person on site", max_length=80)
    rule: str = words("Rule in force, as its people name it", max_length=80)
    receiver_told: bool = yes_no("The alarm receiver was told, and who by is written", default=False)
    impaired: bool = yes_no("The impairment procedure of the owner is followed", default=False)
    notes: str = words("Who was told, when, and by whom", max_length=500, long_text=True)


class Suction(Facts):
    """What presses on the suction while nothing runs."""

    low_pa: float = fact("Lowest pressure of the supply at the sensor, nothing running", Q.PRESSURE, 0.0, 5e6, hint="from the main or the tank, by height to the sensor")
    high_pa: float = fact("Highest pressure of the supply at the sensor", Q.PRESSURE, 0.0, 5e6)


def _if_mains(number: int) -> tuple[tuple[str, tuple[str, ...]], ...]:
    return (("mains.count", tuple(str(count) for count in range(number, MAX_MAINS + 1))),)


class Mains(Facts):
    """The main pumps, which are not started from here."""

    count: int = fact("Main pumps", Q.COUNT, 1, MAX_MAINS, default=1)
    churn_pa: float = fact("What a main pump adds without flow (churn)", Q.PRESSURE, 1e4, 3e6, usual=(3e5, 15e5), hint="from its test sheet, as run by licensed people; the highest where they differ")
    start_1_pa: float | None = fact("Start of the first main pump, as set", Q.PRESSURE, 0.0, 5e6, default=None, hint="read by licensed people at its own controller; empty: not known")
    start_2_pa: float | None = fact("Start of the second, as set", Q.PRESSURE, 0.0, 5e6, default=None, only_if=_if_mains(2))
    start_3_pa: float | None = fact("Start of the third, as set", Q.PRESSURE, 0.0, 5e6, default=None, only_if=_if_mains(3))

    def start_pa(self, number: int) -> float | None:
        """As set, 1 for the first."""
        found: float | None = getattr(self, f"start_{number}_pa")
        return found if number <= self.count else None


class Line(Facts):
    """The line that is kept at pressure."""

    volume_m3: float = fact("Water in the line", Q.VOLUME, 0.005, 500.0, usual=(0.1, 50.0), hint="all pipes of the zones that hang on this pump")
    wave_ms: float = wave_speed_ms()
    air_m3: float = fact("Air caught in it, at no pressure", Q.VOLUME, 0.0, 20.0, default=0.0, hint="dry ends, high points; 0 for a line well vented")
    vessel_m3: float = fact("Small pressure vessel on it", Q.VOLUME, 0.0, 20.0, default=0.0, hint="0 where there is none")
    precharge_pa: float | None = fact("Its precharge", Q.PRESSURE, 0.0, 3e6, default=None, hint="empty: nine tenths of the start pressure by rule")
    lowest_m: float | None = fact("Lowest point of the line", Q.LENGTH, -500.0, 5000.0, default=None, hint="where the weakest rating counts; empty: at the sensor")
    rating_pa: float = fact("Weakest rating of pipes and fittings", Q.PRESSURE, 1e5, 1e7, usual=(10e5, 25e5))
    relief_pa: float | None = fact("Relief valve opens at", Q.PRESSURE, 1e5, 1e7, default=None, hint="at the sensor's height; empty where there is none")
    leak_m3s: float = fact("Leak of the closed line, as it is", Q.LEAK, 0.0, 0.01, usual=(0.0, 2e-5), default=0.0, hint="from the hold test, at the stop pressure")
    permitted_m3s: float = fact("Leak that the rule permits", Q.LEAK, 1e-7, 0.01, usual=(1e-6, 1e-4))
    sprinkler_m3s: float = fact("Smallest single sprinkler gives", Q.FLOW, 1e-5, 0.1, usual=(5e-4, 5e-3), hint="at the pressure of the next line")
    sprinkler_pa: float = fact("at", Q.PRESSURE, 1e4, 3e6, usual=(3e4, 10e5), default=1e5)
    sensing_valve: bool = yes_no("Its sensing line has a check valve with a small hole, and a test cock", default=True)
    temperature_c: float = fact("Water", Q.TEMPERATURE, 1.0, 60.0, usual=(4.0, 30.0), default=15.0)
    altitude_m: float = fact("Height above the sea", Q.LENGTH, -430.0, 5000.0, default=0.0)


class Pumping(Facts):
    """The maintenance pump."""

    starts_per_hour: float = fact("Starts allowed per hour", Q.STARTS, 0.5, 120.0, usual=(4.0, 30.0), typical=10.0, doubt=0.3)
    warm_k: float = fact("The water in the pump may warm by", Q.RATIO, 1.0, 80.0, usual=(5.0, 30.0), default=15.0, hint="kelvin, while the least run holds it against a closed line")
    check_valve: bool = yes_no("A check valve holds the line at the pump", default=True)
    curve: tuple[CurvePoint, ...] = curve_table()

    @property
    def count(self) -> int:
        """Maintenance pumps: one."""
        return 1


class Control(Facts):
    """What the maintenance pump's controller has beside its sensor."""

    phase_monitor: bool = yes_no("A phase monitor is wired in", default=False)


class Sureness(Facts):
    """Doubt in the facts, as the half width within which 95 of 100 would lie."""

    head_share: float = fact("Heads of the pump curve", Q.PERCENT, 0.0, 0.5, usual=(0.005, 0.1), default=0.03)
    suction_share: float = fact("Pressures of the supply", Q.PERCENT, 0.0, 0.5, usual=(0.01, 0.2), default=0.05)
    leak_share: float = fact("Leaks", Q.PERCENT, 0.0, 0.9, usual=(0.02, 0.5), default=0.30)


class AsFound(Facts):
    """What the pump was set to before anything was changed."""

    stop_pressure: float | None = fact("Stop pressure, as found", Q.PRESSURE, 0.0, 1e7, default=None)
    start_pressure: float | None = fact("Start pressure, as found", Q.PRESSURE, 0.0, 1e7, default=None)
    on_delay: float | None = fact("Start delay, as found", Q.TIME, 0.0, 3600.0, default=None)
    least_run: float | None = fact("Least run, as found", Q.TIME, 0.0, 7200.0, default=None)
    notes: str = words("Readings and state as found", max_length=2000, long_text=True)


class MaintenanceSurvey(Facts):
    """All facts of a maintenance pump's line."""

    visit: VisitFacts = section("Visit and safe start", "Controls in OFF, isolate, lock, prove dead; a fire system out of service is guarded by people.", default=VisitFacts())
    authority: Authority = section("Who answers for it", LICENSED, default=Authority())
    suction: Suction = section("Supply", "What stands on the suction side.")
    mains: Mains = section("Main pumps", "Not started from here. Their people read and set them.")
    line: Line = section("Line", "Stiff, closed, and never quite tight.")
    pumping: Pumping = section("Maintenance pump")
    motor: MotorOnTheLine = section("Motor")
    sensor: PressureSensor = section("Pressure sensor", "On its sensing line, at its own height.")
    control: Control = section("Control", default=Control())
    telemetry: Telemetry = section("Telemetry", "Who is called when something is wrong.", default=Telemetry())
    protection: ProtectionFacts = section("Motors and their supply", "How the motor starts, what it stands, what watches its load.", default=ProtectionFacts())
    sureness: Sureness = section("How sure the facts are", "Half the width within which 95 of 100 would lie.", default=Sureness())
    as_found: AsFound = section("As found", "Write down what is set now, before changing anything.", default=AsFound())

    clamped: tuple[ReadCurrent, ...] = Field(default=())  # not asked: read with a clamp meter

    def as_found_of(self, setting_id: str) -> float | None:
        """The value found for a setting, or None where none was noted."""
        return getattr(self.as_found, setting_id, None)
