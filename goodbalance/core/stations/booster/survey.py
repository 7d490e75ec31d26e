"""What is asked of a booster set. Heights are above one datum of the site; pressures are gauge."""

from enum import StrEnum

from goodbalance.core.balance.facts import Facts, choice, fact, section, yes_no
from goodbalance.core.balance.quantities import Quantity as Q
from goodbalance.core.physics.pipework import FrictionSchool
from goodbalance.core.stations.common_facts import VisitFacts, hazen_williams_c, pipe_friction, sand_roughness_m

MAX_PUMPS = 5
CURVE_ROWS = 6


class SupplyKind(StrEnum):
    FLOODED = "flooded"
    TOWN_MAIN = "town_main"
    SUCTION_LIFT = "suction_lift"


class Supply(Facts):
    """Where the water comes from."""

    kind: SupplyKind = choice(
        "Supply",
        SupplyKind,
        {
            "flooded": "Tank above the pumps",
            "town_main": "Town main",
            "suction_lift": "Suction lift, with a foot valve",
        },
        default=SupplyKind.FLOODED,
    )
    low_pa: float = fact(
        "Lowest pressure at the pump suction", Q.PRESSURE, -95e3, 2e6, usual=(-60e3, 6e5),
        hint="while all pumps run; under the air pressure with a minus",
    )  # fmt: skip
    high_pa: float = fact("Highest pressure at the pump suction", Q.PRESSURE, -95e3, 2e6, usual=(-60e3, 8e5))


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
    minor_k: float = fact("Sum of fitting losses K", Q.RATIO, 0.0, 500.0, default=10.0)


class Demand(Facts):
    """How much is drawn."""

    least_m3s: float = fact("Smallest flow worth running a pump for", Q.FLOW, 1e-6, 1.0, hint="one tap, one shower")
    mean_m3s: float = fact("Mean flow while water is drawn", Q.FLOW, 1e-6, 5.0)
    design_m3s: float = fact("Design flow", Q.FLOW, 1e-6, 10.0, hint="the largest that must be supplied")


class CurvePoint(Facts):
    """One point of a pump's curve at full speed."""

    flow_m3s: float | None = fact("Flow", Q.FLOW, 0.0, 10.0, default=None)
    head_m: float | None = fact("Head", Q.HEAD, 0.0, 800.0, default=None)
    npsh_m: float | None = fact("NPSH required", Q.HEAD, 0.0, 50.0, default=None)


class Pumping(Facts):
    """The pumps, all alike."""

    count: int = fact("Pumps", Q.COUNT, 1, MAX_PUMPS, default=2)
    standby: bool = yes_no("Last pump is standby", default=False)
    drives: bool = yes_no("Pumps have speed drives", default=True)
    rated_hz: float = fact("Motor frequency at full speed", Q.FREQUENCY, 20.0, 120.0, default=50.0)
    least_hz: float = fact("Least frequency the motor's maker allows", Q.FREQUENCY, 5.0, 100.0, default=20.0)
    starts_per_hour: float = fact("Starts allowed per hour", Q.STARTS, 0.5, 120.0, usual=(6.0, 40.0))
    curve: tuple[CurvePoint, ...] = section(
        "Pump curve at full speed", "Three or more points, from no flow on; leave the rest empty.", rows=CURVE_ROWS
    )

    @property
    def duty_count(self) -> int:
        """Pumps that share the work: all but a standby."""
        return self.count - 1 if self.standby and self.count > 1 else self.count


class Vessel(Facts):
    """The pressure tank, if there is one."""

    volume_m3: float = fact("Volume of the pressure tank", Q.VOLUME, 0.0, 100.0, hint="0 where there is none")
    rating_pa: float = fact(
        "Weakest pressure rating",
        Q.PRESSURE,
        1e5,
        1e7,
        usual=(6e5, 25e5),
        hint="of pipes, vessel, fittings; relief valve",
    )


class PressureSensor(Facts):
    """What reads the discharge pressure."""

    range_pa: float = fact("Range", Q.PRESSURE, 1e5, 1e7, usual=(4e5, 25e5))
    noise_pa: float = fact(
        "Wobble of the reading", Q.PRESSURE, 0.0, 5e5, default=5e3, hint="half the spread while the flow is steady"
    )
    counts: int = fact("Counts of the controller's input", Q.COUNT, 100, 16_777_216, default=4000)


class BoosterSurvey(Facts):
    """All facts of a booster set."""

    visit: VisitFacts = section(
        "Visit and safe start", "Controls in OFF or HAND, isolate, prove dead.", default=VisitFacts()
    )
    supply: Supply = section("Supply")
    outlets: Outlets = section("Outlets and pipes", "Heights above one datum of the site.")
    demand: Demand = section("Demand")
    pumping: Pumping = section("Pumps")
    vessel: Vessel = section("Tank and ratings")
    sensor: PressureSensor = section("Discharge sensor")
