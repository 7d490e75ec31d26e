"""The speeds of a booster set with drives in their windows: least speed, sleep, and when pumps join and leave."""

import math

from goodbalance.core.balance.plan import Finding, Setting, Severity, placed
from goodbalance.core.balance.quantities import Quantity as Q
from goodbalance.core.balance.trail import Term, Trail, given
from goodbalance.core.balance.window import Bound, Source, Window
from goodbalance.core.stations.booster.choices import BoosterChoices
from goodbalance.core.stations.booster.hydraulics import hydraulics
from goodbalance.core.stations.booster.survey import BoosterSurvey

STEP = 0.005
JOIN_HIGH = 0.98  # a pump that is called only at full speed comes too late


class Speeds:
    """Windows of every speed at one set pressure."""

    def __init__(self, survey: BoosterSurvey, choices: BoosterChoices, set_pa: float) -> None:
        self.survey, self.choices, self.rules, self.set_pa = survey, choices, choices.rules, set_pa
        self.hyd, self.duty = hydraulics(survey), survey.pumping.duty_count
        self.idle_low, self.idle_high = self.hyd.no_flow_speeds(set_pa)

    def settings(self) -> tuple[Setting, ...]:
        """Nothing without drives; staging only with two duty pumps or more."""
        if not self.survey.pumping.drives:
            return ()
        found = [self.sleep()]
        if self.duty > 1:
            join = self.join()
            found += [join, self.leave(join.value)]
        return tuple(found)

    def findings(self) -> tuple[Finding, ...]:
        """That speed cannot tell no flow, where it cannot."""
        if not self.survey.pumping.drives or not self.sleep().window.is_empty:
            return ()
        terms = (Term("low", "", self.idle_low, Q.PERCENT), Term("high", "", self.idle_high, Q.PERCENT))
        text = (
            "Speed cannot tell no flow: it holds the pressure at {low} to {high} without any, as the suction changes, and "
            "the smallest flow needs no more. Use a flow switch, power, or a short rise of pressure to find out."
        )
        return (Finding("speed_blind", Severity.CAUTION, "sleep_speed", text, terms),)

    def _placed(self, setting_id: str, labels: tuple[str, str], window: Window, lean: float, proof: str) -> Setting:
        chosen = self.choices.chosen.get(setting_id)
        return placed(setting_id, labels, Q.PERCENT, window, lean, STEP, chosen, proof, "speeds")

    def _idle_bound(self, harm: str) -> Bound:
        margin = self.rules.speed_margin_share
        terms = (
            Term(
                "i", "speed that holds the set pressure without flow, at the lowest suction", self.idle_high, Q.PERCENT
            ),
            Term("m", "least step between two speeds", margin, Q.PERCENT),
        )
        value = self.idle_high + margin
        trail = Trail(
            "n = i + m",
            terms,
            Term("n", "bound", value, Q.PERCENT),
            "n = sqrt(H / H0), affinity, over the range of suction",
        )
        return Bound(value, "speed without flow, at its highest", harm, Source.PHYSICS, trail)

    def sleep(self) -> Setting:
        least_m3s = self.survey.demand.least_m3s
        at_least = min(
            self.hyd.holding(self.set_pa, pa, least_m3s, 1).speed
            for pa in (self.survey.supply.low_pa, self.survey.supply.high_pa)
        )
        margin = self.rules.speed_margin_share
        terms = (
            Term("l", "speed at the smallest flow worth running for, at the highest suction", at_least, Q.PERCENT),
            Term("m", "least step between two speeds", margin, Q.PERCENT),
        )
        trail = Trail("n = l - m", terms, Term("n", "bound", at_least - margin, Q.PERCENT), "pump curve by affinity")
        upper = Bound(
            at_least - margin,
            "smallest flow worth running for",
            "It falls asleep while somebody still draws water, and wakes at once.",
            Source.PHYSICS,
            trail,
        )
        window = Window((self._idle_bound("It never sleeps: the pump stirs hot water all night."),), (upper,))
        proof = "Close every outlet: the pump must slow down to this, stop, and stay stopped."
        return self._placed("sleep_speed", ("Sleep speed", "no-flow speed"), window, 0.4, proof)

    def join(self) -> Setting:
        """Speed at which the running pumps call one more."""
        upper = Bound(
            JOIN_HIGH,
            "a little under full speed",
            "The pump comes when the pressure has already sagged.",
            Source.RULE,
            given("n", "a little under full speed", JOIN_HIGH, Q.PERCENT, "rule of thumb"),
        )
        window = Window((self._idle_bound("A second pump runs without any need."),), (upper,))
        return self._placed(
            "join_speed",
            ("A pump joins at", "stage-on speed"),
            window,
            0.85,
            "Open outlets slowly: the next pump must join at this speed.",
        )

    def leave(self, join: float) -> Setting:
        """Speed at which one pump less must do, without being called back at once."""
        supply = self.survey.supply
        values = []
        for suction_pa in (supply.low_pa, supply.high_pa):
            for pumps in range(2, self.duty + 1):
                carried = self._flow(join, pumps - 1, suction_pa) * (1.0 - self.rules.staging_share)
                values.append((self.hyd.holding(self.set_pa, suction_pa, carried, pumps).speed, pumps, carried))
        value, pumps, carried = min(values)
        terms = (
            Term(
                "Q",
                f"flow that {pumps - 1} of {pumps} pumps still carry at the joining speed, less what is to spare",
                carried,
                Q.FLOW,
            ),
            Term("s", f"speed at which {pumps} pumps give it", value, Q.PERCENT),
        )
        trail = Trail(
            "n = s",
            terms,
            Term("n", "bound", value, Q.PERCENT),
            "no hunting: what is left after dropping a pump carries the flow",
        )
        upper = Bound(
            value,
            "one pump less still carries the flow",
            "The pump is called back at once: the set hunts.",
            Source.PHYSICS,
            trail,
            "join_speed",
        )
        window = Window((self._idle_bound("Pumps never leave: they share a trickle and wear alike."),), (upper,))
        return self._placed(
            "leave_speed",
            ("A pump leaves at", "stage-off speed"),
            window,
            0.6,
            "Close outlets slowly: one pump must leave at this speed and not be called back.",
        )

    def _flow(self, speed: float, pumps: int, suction_pa: float) -> float:
        """Total flow that so many pumps give at a speed while the set pressure holds; 0 where they cannot reach it."""
        a, b, c = self.hyd.curve.coefficients
        rest = a * speed * speed - self.hyd.added_m(self.set_pa, suction_pa)
        if rest <= 0.0:
            return 0.0
        linear = b * speed
        if abs(c) < 1e-12:
            return pumps * (-rest / linear) if linear < 0.0 else 0.0
        return pumps * (-linear - math.sqrt(linear * linear - 4.0 * c * rest)) / (2.0 * c)
