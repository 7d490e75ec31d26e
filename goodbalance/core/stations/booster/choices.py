"""What the person decides for a booster set: pressures and speeds, schools of practice, and the numbers of the rules."""

from enum import StrEnum

from pydantic import Field

from goodbalance.core.balance.facts import Facts, choice, fact, section
from goodbalance.core.balance.quantities import Quantity as Q


class TankSchool(StrEnum):
    STARTS = "starts"
    LEAST_RUN = "least_run"


class Schools(Facts):
    """Where practitioners differ. The first answer is the default; the label says why."""

    tank: TankSchool = choice(
        "The tank is sized by",
        TankSchool,
        {
            "starts": "Starts per hour (default: it is what wears the motor)",
            "least_run": "A least run at full rate, however seldom it starts",
        },
        default=TankSchool.STARTS,
    )


class Rules(Facts):
    """Numbers of the rules of thumb. Defaults are ours; local codes and the makers come first."""

    regulation_pa: float = fact("Regulation error to allow for", Q.PRESSURE, 0.0, 3e5, usual=(5e3, 5e4), default=10e3)
    column_margin_pa: float = fact("Margin above the standing column", Q.PRESSURE, 0.0, 3e5, default=20e3)
    rating_share: float = fact("Share of a rating that may be used", Q.PERCENT, 0.3, 1.0, default=0.9)
    overshoot_pa: float = fact("Overshoot to allow for", Q.PRESSURE, 0.0, 1e6, usual=(2e4, 2e5), default=50e3)
    hysteresis_pa: float = fact("Least step between stop and reset", Q.PRESSURE, 1e3, 5e5, default=20e3)
    npsh_margin_m: float = fact("NPSH margin", Q.HEAD, 0.0, 10.0, default=0.5)
    speed_margin_share: float = fact("Least step between two speeds", Q.PERCENT, 0.001, 0.2, default=0.01)
    staging_share: float = fact("Flow to spare after dropping a pump", Q.PERCENT, 0.0, 0.5, default=0.10)
    least_run_s: float = fact("Least run at full rate", Q.TIME, 5.0, 600.0, default=60.0)


class BoosterChoices(Facts):
    """All decisions. chosen holds, in SI, only the settings a person has set; the rest stay recommended."""

    schools: Schools = section("Schools", default=Schools())
    rules: Rules = section("Rules", default=Rules())
    chosen: dict[str, float] = Field(default_factory=dict)
    step_pa: float = Field(default=1e3, gt=0.0)  # one step of the controller's display
