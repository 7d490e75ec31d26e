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
