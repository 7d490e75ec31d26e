"""Scenes that prove a booster's plan on the bench: how it is brought to where something can be seen."""

from goodbalance.core.balance.plan import Plan
from goodbalance.core.rehearsal.engine import TimedAction
from goodbalance.core.rehearsal.proving import OFF, Look, Scene
from goodbalance.core.stations.booster.bench.put_on import booster_bench
from goodbalance.core.stations.booster.bench.rehearse import BoosterBench
from goodbalance.core.stations.booster.controller.numbers import Numbers
from goodbalance.core.stations.booster.names import Act, AnyAct
from goodbalance.core.stations.booster.plant.hydraulics import hydraulics
from goodbalance.core.stations.booster.survey.choices import BoosterChoices, NoFlowBy
from goodbalance.core.stations.booster.survey.survey import BoosterSurvey
from goodbalance.core.stations.booster.windows.switched import stored_m3
from goodbalance.core.stations.shared.held import Held

Shown = tuple[Scene, Look[BoosterBench]]
CALM_S = 60.0  # until a flow is held calmly
STARTING = "Pumps start by themselves: keep hands and clothes away."
PRESSED = "Stored pressure: open valves slowly, stand aside."
SHOCK = "Lethal voltage and stored charge in the drive: nothing inside is touched for this test."
FLOOD = "Water runs out: lead it to a drain."
DRY = "Keep it short: a dry seal burns within seconds."
INTERLOCK = "Never bridge a contact to make a test pass; note every jumper until it is out."
REST, WORK, SET, LIMITS = "At rest", "Holding the pressure", "Sharing the work", "Limits and failures"
STEP_PA, TANK_STEP_PA, STEP_EVERY_S = 2e3, 2e2, 6.0  # how the suction is throttled, and the water of a tank lowered


def act(at_s: float, kind: AnyAct, value: float, target: str = "") -> TimedAction:
    """A timed action. [s, SI]"""
    return TimedAction(at_s, kind, target, value)


class Scenes:
    """What every proof of one set builds its scene of."""

    def __init__(self, survey: BoosterSurvey, choices: BoosterChoices, held: Held[Numbers], wanted: Plan) -> None:
        self.survey, self.choices, self.plan, self.n, self.wanted = survey, choices, held.plan, held.program, wanted
        self.hyd = hydraulics(survey)
        design = survey.demand.design_m3s
        self.tap, self.mean = survey.demand.least_m3s / design, survey.demand.mean_m3s / design
        self.start_pa = self.n.set_pressure if survey.holds_constant else self.n.cut_in + 1e3
        stored = stored_m3(survey, {setting.id: setting.value for setting in self.plan.settings})[0]
        self.store_s = stored / survey.demand.mean_m3s  # until the mean flow has emptied the tank
        self.wait_s = self.n.sleep_delay if self.n.sleep_delay < 1e6 else 30.0
        self.alone_s = CALM_S + self.n.leave_delay * 1.3 * survey.pumping.duty_count  # until one pump runs alone
        self.calls_s = self.n.join_delay * survey.pumping.duty_count + 20.0

    @property
    def drains_s(self) -> float:
        """Until outlets wide open have emptied the tank, with no pump running: they take half as much again as the design flow even then. [s]"""
        return 15.0 + self.store_s * self.mean / 1.5

    @property
    def supply_pa(self) -> float:
        """What stands before the pumps on the bench without flow: the middle of the supply. [Pa]"""
        return 0.5 * (self.hyd.source_pa(False) + self.hyd.source_pa(True))

    @property
    def lowest_call_pa(self) -> float:
        """The pressure at which the last pump of a switched set is called: of the one cut-in, or of the last of several. [Pa]"""
        return min([starts for starts, _ in self.n.switches], default=self.n.cut_in)

    def gently(self, from_pa: float, to_pa: float) -> tuple[float, float]:
        """How far to open outlets so that what is stored takes a minute at least to fall, and how long it takes. [share, s]"""
        zone = booster_bench(self.survey, self.choices, self.plan, from_pa, self.n).plant
        stored_m3 = zone.stored_m3(from_pa) - zone.stored_m3(to_pa)
        zone.open_share = 1.0
        wide_m3s = max(zone.drawn_m3s(from_pa), 1e-9)
        share = min(0.3 * self.tap, stored_m3 / 60.0 / wide_m3s)
        return share, stored_m3 / max(share * zone.drawn_m3s(to_pa), 1e-9)

    def opened(self, flow_m3s: float, at_pa: float) -> float:
        """How far to open outlets so that a flow passes at a pressure. A share of all of them, found by halving."""
        zone = booster_bench(self.survey, self.choices, self.plan, min(at_pa, self.hyd.weakest.at_sensor_pa), self.n).plant
        low, high = 0.0, 2.0
        for _ in range(40):
            zone.open_share = 0.5 * (low + high)
            low, high = (zone.open_share, high) if zone.drawn_m3s(at_pa) < flow_m3s else (low, zone.open_share)
        return high

    def scene(self, name: str, until_s: float, *actions: TimedAction, start_pa: float | None = None) -> Scene:
        """A scene that begins where the set rests, or at another pressure. [s, Pa]"""
        return Scene(name, self.start_pa if start_pa is None else start_pa, (*self._alone(), *actions), until_s)

    def asked(self, name: str, until_s: float, *actions: TimedAction) -> Scene:
        """A scene in which everybody who may asks for a pressure. [s]"""
        return Scene(name, self.start_pa, actions, until_s)

    def _alone(self) -> tuple[TimedAction, ...]:
        """Switched to local and the week's clock put off, where there is such a thing: nobody else asks for another pressure."""
        local = (act(0.0, Act.REMOTE, 0.0),) if self.n.asking.local_remote else ()
        return (*local, *((act(0.0, Act.WEEK, 0.0),) if self.n.asking.lines else ()))

    def calm(self) -> Scene:
        """Mean flow, until every pump too many has left."""
        until_s = self.alone_s + self.calls_s
        return self.scene("mean flow", until_s, act(1.0, Act.OUTLETS, self.mean))

    def closing(self) -> Scene:
        """Outlets closed while the set runs. Where short stops feel for flow it is woken just before: with little flow and
        a large tank it may rest meanwhile."""
        if self.n.no_flow is NoFlowBy.BUMP:
            acts = (act(1.0, Act.OUTLETS, self.tap), act(self.closed_s, Act.OUTLETS, 0.0))
            until_s = self.closed_s + 2.0 * self.wait_s + CALM_S
            return self.scene("every outlet closed", until_s, *acts, start_pa=self.n.restart)
        acts = (act(1.0, Act.OUTLETS, self.mean), act(self.closed_s, Act.OUTLETS, 0.0))  # with less it may rest before
        return self.scene("every outlet closed", 3.0 * self.alone_s + self.wait_s, *acts)

    @property
    def closed_s(self) -> float:
        """When the last outlet is closed in that scene."""
        return 0.6 * self.wait_s if self.n.no_flow is NoFlowBy.BUMP else self.alone_s

    def opening(self) -> Scene:
        """Outlets opened by small steps, each held until a pump could join."""
        every_s = max(15.0, self.n.join_delay * 1.5)
        acts = tuple(act(1.0 + k * every_s, Act.OUTLETS, 0.05 * (k + 1)) for k in range(20))
        return self.scene("outlets opened slowly", 20.0 * every_s + 30.0, *acts)

    def easing(self, longer_s: float = 0.0) -> Scene:
        """From design flow down by steps, until one pump has left."""
        begin_s, every_s = 2.0 * CALM_S + self.calls_s, self.n.leave_delay * 1.3 + 5.0
        acts = [act(1.0, Act.OUTLETS, self.tap), act(CALM_S, Act.OUTLETS, 1.0)]
        acts += [act(begin_s + k * every_s, Act.OUTLETS, 1.0 - 0.1 * (k + 1)) for k in range(10)]
        return self.scene("outlets closed slowly", begin_s + 10.0 * every_s + longer_s, *acts)

    @property
    def water_marks_pa(self) -> tuple[float, float]:
        """Where lack of water stops the set and where it comes back: suction at the pumps, or of a tank without losses. [Pa]"""
        switch = self.n.water
        return (self.n.low_suction_stop, self.n.low_suction_reset) if switch is None else (switch.stop_pa, switch.stop_pa + switch.band_pa)

    def throttled(self, held_s: float = 0.0) -> Scene:
        """Suction down by steps from where it works to well under the stop, held there, then up again. [s]"""
        stop_pa, back_pa = self.water_marks_pa
        in_tank = self.survey.switch_in_tank
        step_pa = TANK_STEP_PA if in_tank else STEP_PA
        high_pa = self.hyd.source_pa(False) if in_tank else self.hyd.suction_low_pa + 1e4
        low_pa = stop_pa - (10.0 * step_pa if in_tank else 1.5e4)
        down = [high_pa - k * step_pa for k in range(max(1, int((high_pa - low_pa) / step_pa) + 2))]
        up_to = max(back_pa + (10.0 * step_pa if in_tank else 2e4), high_pa)
        up = [down[-1] + k * step_pa for k in range(int((up_to - down[-1]) / step_pa) + 2)]
        off = [act(0.0, Act.SWITCH, OFF, str(pump)) for pump in range(1, self.survey.pumping.count + 1)]  # nothing is drawn: the suction is the water's height
        acts, at_s = off if in_tank else [act(1.0, Act.OUTLETS, self.mean)], CALM_S
        for number, pa in enumerate((*down, *up)):
            at_s += held_s if number == len(down) else 0.0
            acts.append(act(at_s, Act.SUCTION, pa))
            at_s += STEP_EVERY_S
        return self.scene("suction throttled and opened", at_s + 10.0, *acts)
