"""What every room of a booster's settings shares: the survey as equations, and how bounds and settings are made."""

from collections.abc import Mapping

from goodbalance.core.balance.plan import TIMERS
from goodbalance.core.balance.quantities import Quantity as Q
from goodbalance.core.balance.window import RULE, Bound, Source
from goodbalance.core.stations.booster.names import CUT_INS, SettingId
from goodbalance.core.stations.booster.plant.hydraulics import hydraulics
from goodbalance.core.stations.booster.survey.choices import BoosterChoices, Rules
from goodbalance.core.stations.booster.survey.survey import BoosterSurvey
from goodbalance.core.stations.shared.making import Maker, bound, term

PRESSURES, LEVELS, SPEEDS, LOADS, LOOP, POWER = "pressures", "levels", "speeds", "loads", "loop", "power"  # groups, beside the timers
STEPS = {LEVELS: 0.01, SPEEDS: 0.005, TIMERS: 1.0, LOOP: 0.01, POWER: 1.0}


def last_cut_in(values: Mapping[str, float]) -> SettingId:
    """The lowest pressure at which pumps of a switched set are called: that of the last switch where each has its own."""
    return [one for one in CUT_INS if one in values][-1]


def least_join_s(rules: Rules) -> float:
    """The shortest time a switched pump waits for the one before it: a third of two honest starts. [s]"""
    return 2.0 * rules.prime_s / 3.0


class Windows(Maker):
    """Makes the settings of one survey and one set of choices; the rooms of settings build on it."""

    def __init__(self, survey: BoosterSurvey, choices: BoosterChoices, so_far: dict[str, float] | None = None) -> None:
        super().__init__(choices.chosen, {PRESSURES: choices.step_pa, **STEPS}, so_far)
        self.survey, self.choices, self.rules, self.schools = survey, choices, choices.rules, choices.schools
        self.hyd = hydraulics(survey)
        self.duty = survey.pumping.duty_count
        self.wobble_pa = max(3.0 * survey.sensor.noise_pa, 5.0 * survey.sensor.range_pa / survey.sensor.counts)

    def make(
        self, setting_id: SettingId, labels: tuple[str, str], lower: tuple[Bound, ...], upper: tuple[Bound, ...],
        lean: float, proof: str, group: str = PRESSURES, quantity: Q = Q.PRESSURE, step: float | None = None,
    ) -> float:  # fmt: skip
        """The same as place, for a pressure unless said otherwise."""
        return self.place(setting_id, labels, lower, upper, lean, proof, group, quantity, step)

    def band_pa(self) -> float:
        """How far two pressures must differ: the larger of regulation error and three times the wobble."""
        return max(self.wobble_pa, self.rules.regulation_pa)

    # bounds that several settings share

    def supplies_the_worst(self, flow_m3s: float, when: str, residual_pa: float | None = None) -> Bound:
        """What the sensor reads when the worst outlet has its residual pressure: column, losses, residual."""
        outlets = self.survey.outlets
        column_pa = self.hyd.column_of(outlets.worst_m - outlets.sensor_m)
        loss_pa = self.hyd.column_of(self.hyd.pipe.loss_m(flow_m3s))
        rest_pa = outlets.residual_pa if residual_pa is None else residual_pa
        terms = (
            term("c", "column from sensor to worst outlet", column_pa),
            term("l", f"losses of the pipe {when}", loss_pa),
            term("r", "pressure wanted there", rest_pa),
        )
        words = (f"worst outlet {when}", "The worst outlet gets too little.")
        return bound("p = c + l + r", terms, column_pa + loss_pa + rest_pa, "survey", words)

    def above_the_column(self) -> Bound:
        """Over the standing column of the building, or the pressure never falls so low with every outlet shut."""
        margin_pa = max(self.rules.column_margin_pa, self.wobble_pa)
        terms = (
            term("c", "standing column from sensor to the highest point", self.hyd.column_pa),
            term("m", "margin by rule, or three times the wobble", margin_pa),
        )
        harm = "The column alone holds this pressure: it never falls so low, the set never starts again."
        return bound("p = c + m", terms, self.hyd.column_pa + margin_pa, "survey", ("standing column", harm))

    def under_the_rating(self) -> tuple[Bound, ...]:
        """Under the rating of each part at its own height, and under the relief valve where there is one."""
        share, found = self.rules.rating_share, []
        for part in self.hyd.parts:
            terms = (
                term("w", f"rating: {part.name}", part.rating_pa),
                term("s", "share of it that may be used", share, Q.RATIO),
                term("c", "column from the sensor down to it", part.down_pa),
            )
            words = (f"rating: {part.name}", "A vessel, pipe or fitting gives way.")
            value = part.rating_pa * share - part.down_pa
            found.append(bound("p = w · s - c", terms, value, "maker; share by rule", words, Source.MAKER))
        valve = self.hyd.relief
        if valve is not None:
            terms = (
                term("r", "relief valve opens", valve.rating_pa),
                term("c", "column from the sensor down to it", valve.down_pa),
                term("m", "margin: wobble", self.wobble_pa),
            )
            words = ("relief valve", "The relief valve opens and water runs to waste.")
            found.append(bound("p = r - c - m", terms, valve.at_sensor_pa - self.wobble_pa, "survey", words))
        return tuple(found)

    def in_sight_of_the_sensor(self) -> Bound:
        """Under the top of the sensor by its wobble, or the reading never gets so high."""
        range_pa = self.survey.sensor.range_pa
        terms = (term("r", "range of the sensor", range_pa), term("m", "margin: wobble", self.wobble_pa))
        words = ("range of the sensor", "The reading never gets so high: nothing happens.")
        return bound("p = r - m", terms, range_pa - self.wobble_pa, "sensor survey", words)

    def step_above(self, setting_id: SettingId, name: str, harm: str, step_pa: float | None = None) -> Bound:
        """A step above another setting's pressure."""
        step = self.rules.hysteresis_pa if step_pa is None else step_pa
        value = self.so_far[setting_id]
        terms = (term("s", name, value), term("h", "least step", step))
        return bound("p = s + h", terms, value + step, RULE, (f"{name} and a step", harm), Source.RULE, setting_id)

    def step_below(self, setting_id: SettingId, name: str, harm: str, step_pa: float | None = None) -> Bound:
        """A step under another setting's pressure."""
        step = self.rules.hysteresis_pa if step_pa is None else step_pa
        value = self.so_far[setting_id]
        terms = (term("s", name, value), term("h", "least step", step))
        return bound("p = s - h", terms, value - step, RULE, (f"{name} less a step", harm), Source.RULE, setting_id)
