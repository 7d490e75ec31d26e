"""Set pressures by the week's clock, and the limits within which a person or somebody outside may move the set pressure."""

from goodbalance.core.balance.window import Bound
from goodbalance.core.stations.booster.names import SCHEDULED
from goodbalance.core.stations.booster.names import SettingId as S
from goodbalance.core.stations.booster.survey.control import OutsideSet
from goodbalance.core.stations.booster.windows.making import Windows
from goodbalance.core.stations.booster.windows.pressures import Pressures
from goodbalance.core.stations.shared.week import Days

DAYS = {
    Days.ALL: "every day", Days.WORKDAYS: "Monday to Friday", Days.WEEKEND: "Saturday and Sunday", Days.MONDAY: "Mondays", Days.TUESDAY: "Tuesdays",
    Days.WEDNESDAY: "Wednesdays", Days.THURSDAY: "Thursdays", Days.FRIDAY: "Fridays", Days.SATURDAY: "Saturdays", Days.SUNDAY: "Sundays",
}  # fmt: skip


class SetValues(Windows):
    """Everything that may stand in the place of the set pressure; made after it and the restart. pressures: the room that made those."""

    def __init__(self, pressures: Pressures) -> None:
        super().__init__(pressures.survey, pressures.choices, pressures.so_far)
        self.pressures = pressures

    def make_all(self) -> None:
        """The schedule where there is one; the limits where anybody can move the set pressure."""
        if not self.survey.holds_constant:
            return
        begins = self.choices.schedule.begins
        for setting_id, (days, hour, wanted_pa) in zip(SCHEDULED, begins):
            self._scheduled(setting_id, days, hour, wanted_pa)
        control = self.survey.control
        if begins or control.direct_keys or control.outside is not OutsideSet.NONE:
            self._lowest()
            self._highest()

    def _above(self) -> tuple[Bound, ...]:
        """What keeps any set pressure from going higher."""
        made = self.pressures
        return (made.at_the_lowest_outlet(), made.what_the_pumps_can(), *self.under_the_rating(), self.in_sight_of_the_sensor())

    def _scheduled(self, setting_id: S, days: Days, hour: int, wanted_pa: float) -> None:
        full = wanted_pa >= self.survey.outlets.residual_pa
        flow, when = (self.survey.demand.design_m3s, "at design flow") if full else (self.survey.demand.mean_m3s, "at mean flow")
        lower = (
            self.supplies_the_worst(flow, when, wanted_pa),
            self.step_above(S.RESTART, "restart pressure", "In these hours it never falls asleep.", self.band_pa()),
        )
        proof = f"Set the clock to just before {hour:02d} h, {DAYS[days]}, and wait: the pressure must go to this. Set it right afterwards."
        labels = (f"Set pressure from {hour:02d} h, {DAYS[days]}", "scheduled setpoint")
        self.make(setting_id, labels, lower, self._above(), 0.25, proof)

    def _asked(self) -> list[S]:
        """Settings that the set is to hold at some time by its own plan."""
        return [one for one in (S.SET_PRESSURE, *SCHEDULED) if one in self.so_far]

    def _lowest(self) -> None:
        lower = (
            self.supplies_the_worst(self.survey.demand.least_m3s, "at the smallest flow", self.pressures.least_residual_pa()),
            self.step_above(S.RESTART, "restart pressure", "Asked for so little it wakes at its own set pressure and never sleeps.", self.band_pa()),
        )
        least = min(self._asked(), key=self.so_far.__getitem__)
        upper = (self.step_below(least, "the lowest pressure of the plan", "What the plan wants itself could not be asked for.", 0.0),)
        proof = "Ask for less than this, by key or from outside: the value in force stands here."
        self.make(S.LOWEST_SET, ("Lowest set pressure that may be asked for", "setpoint low limit"), lower, upper, 0.5, proof)

    def _highest(self) -> None:
        most = max(self._asked(), key=self.so_far.__getitem__)
        lower = (self.step_above(most, "the highest pressure of the plan", "What the plan wants itself could not be asked for.", 0.0),)
        proof = "Ask for more than this, by key or from outside: the value in force stands here."
        self.make(S.HIGHEST_SET, ("Highest set pressure that may be asked for", "setpoint high limit"), lower, self._above(), 0.15, proof)
