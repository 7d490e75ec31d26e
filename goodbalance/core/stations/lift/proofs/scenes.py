"""What every proof on the bench of a lift station builds its scene of."""

from goodbalance.core.balance.plan import Plan
from goodbalance.core.rehearsal.engine import TimedAction
from goodbalance.core.rehearsal.proving import Look, Scene
from goodbalance.core.stations.lift.bench.rehearse import LiftBench
from goodbalance.core.stations.lift.names import Act, Role
from goodbalance.core.stations.lift.names import SettingId as S
from goodbalance.core.stations.lift.plant.hydraulics import hydraulics
from goodbalance.core.stations.lift.survey.choices import Rules
from goodbalance.core.stations.lift.survey.survey import LiftSurvey

Shown = tuple[Scene, Look[LiftBench]]
BROKEN_AT_S = 60.0
CYCLES = 3


class Scenes:
    """One station with the levels, times and pumps that scenes are made of."""

    def __init__(self, survey: LiftSurvey, plan: Plan, rules: Rules) -> None:
        self.survey, self.plan, self.rules, self.hyd = survey, plan, rules, hydraulics(survey)
        self.start_m = plan.value(Role.START_1, 0.0)
        self.stop_m = plan.value(Role.STOP, max(0.0, self.start_m - survey.control.swing_m))
        last_m = max(setting.value for setting in plan.group("levels"))
        self.top_m = min(last_m + 0.15, survey.inlet.overflow_m - 0.02)
        self.gap_s = plan.value(S.START_GAP, 0.0)
        self.duty = range(self.hyd.duty_count)

    def running_scene(self, name: str, *actions: TimedAction, until_s: float = BROKEN_AT_S + 15.0) -> Scene:
        """At the duty start within seconds, so that a pump runs when the actions begin."""
        delay_s = self.plan.value(S.CALL_DELAY, 0.0)
        rises_m3s = 0.0006 * self.hyd.well.area_m2(self.start_m)  # a centimetre in 20 s, however weak the pump
        flow = TimedAction(0.0, Act.INFLOW, "", max(rises_m3s, self.hyd.strongest_m3s(1, self.stop_m) * 0.5))
        later = tuple(TimedAction(act.at_s + delay_s, act.kind, act.target, act.value) for act in actions)
        return Scene(name, max(0.0, self.start_m - 0.01), (flow, *later), until_s + delay_s)

    def cycles(self) -> Scene:
        """Full cycles, so many as are watched and two more, at an inflow that one pump takes at its slowest."""
        flow_m3s = self.hyd.strongest_m3s(1, self.stop_m) * 0.4
        least = self.plan.value(S.LEAST_SPEED, 1.0)
        if least < 1.0:  # drives that slow down on the way must still come to the stop
            slowest_m3s = min(self.hyd.point((pump,), self.stop_m, least).flow_m3s for pump in self.duty)
            flow_m3s = min(flow_m3s, 0.6 * slowest_m3s) or flow_m3s
        if self.plan.value(S.ASSIST_AFTER, 0.0):  # calm enough that the timer does not call the assist
            flow_m3s = min(flow_m3s, self.survey.inflow.mean_m3s)
        volume_m3 = self.hyd.well.volume_m3(self.start_m) - self.hyd.well.volume_m3(self.stop_m)
        rest_s = (
            self.plan.value(S.RUN_ON, 0.0) + self.plan.value(S.STOP_DELAY, 0.0) + self.plan.value(S.LEAST_REST, 0.0)
        )
        cycle_s = 2.0 * (volume_m3 / flow_m3s + volume_m3 / (flow_m3s * 0.8) + rest_s)
        flow = TimedAction(0.0, Act.INFLOW, "", flow_m3s)
        return Scene("full cycles", (self.stop_m + self.start_m) / 2.0, (flow,), cycle_s * (CYCLES + 2))
