"""Scenes that prove a transfer plan on the bench: how it is brought to where something can be seen."""

from goodbalance.core.balance.plan import Plan
from goodbalance.core.protection.names import Restart, Watching
from goodbalance.core.rehearsal.engine import TimedAction
from goodbalance.core.rehearsal.proving import HAND, OFF, Look, Scene
from goodbalance.core.stations.shared.held import Held
from goodbalance.core.stations.transfer.bench.rehearse import TransferBench
from goodbalance.core.stations.transfer.controller.numbers import Numbers
from goodbalance.core.stations.transfer.names import Act, AnyAct, Level, TankFault
from goodbalance.core.stations.transfer.names import SettingId as S
from goodbalance.core.stations.transfer.plant.hydraulics import hydraulics
from goodbalance.core.stations.transfer.survey.choices import TransferChoices
from goodbalance.core.stations.transfer.survey.survey import TransferSurvey

Shown = tuple[Scene, Look[TransferBench]]
SETTLES_S = 30.0  # until a line is at rest
STARTING = "Pumps start by themselves: keep hands and clothes away."
PRESSED = "Stored pressure: open valves slowly, stand aside."
SHOCK = "Lethal voltage: nothing inside is touched for this test."
FLOOD = "Water runs out: lead it to a drain."
HEAT = "Keep it short: against a closed valve the water in the pump heats up."
HEIGHT = "At the tank: ladder, edge, closed space. Not alone, not without a permit where it needs one."
DRINKING = "Drinking water: clean hands and tools, close the hatch, flush and sample as local rules ask."
LINE, TANKS, SOURCE, SHARE, LIMITS = "The line", "At the tanks", "The source", "Sharing the work", "Limits and failures"
MORE = 3.0  # times what all pumps bring
AT_ONCE_S = 5.0  # what happens at once, filter and scans counted


def act(at_s: float, kind: AnyAct, value: float, target: str = "") -> TimedAction:
    """A timed action. [s, SI]"""
    return TimedAction(at_s, kind, target, value)


class Scenes:
    """What every proof of one set builds its scene of. n: what its devices hold; wanted: the plan."""

    def __init__(self, survey: TransferSurvey, choices: TransferChoices, held: Held[Numbers], wanted: Plan) -> None:
        self.survey, self.choices, self.n, self.wanted = survey, choices, held.program, wanted
        self.hyd = hydraulics(survey)
        self.full_m = min(wanted.value(Level.STOP.of(1), survey.tank_1.closes_m), survey.tank_1.overflow_m)
        self.low_m = max(survey.tank_1.outlet_m, self._calls_m() - 0.02)
        self.delay_s = wanted.value(S.RESTART_DELAY, 0.0) if survey.control.by_pressure else 0.0

    def _calls_m(self) -> float:
        """The level of tank 1 at which water is surely wanted: its start, or where its valve stands wide open."""
        tank = self.survey.tank_1
        opened = tank.reopens_m - tank.throttles_m
        return min(opened, self.wanted.value(Level.START.of(1), opened))

    @property
    def open_all(self) -> tuple[TimedAction, ...]:
        """Every inlet held open, so that filling goes on."""
        return tuple(act(0.0, TankFault.STUCK_OPEN, 1.0, str(number)) for number in range(1, self.survey.tanks.count + 1))

    @property
    def nobody_draws(self) -> TimedAction:
        """No user draws."""
        return act(0.0, Act.DRAW, 0.0)

    def calling(self, name: str, until_s: float, *actions: TimedAction) -> Scene:
        """Tank 1 stands low and its inlet stays open; start is pressed where a delay would count. [s]"""
        pressed = (act(1.0, Act.START, 1.0),) if self.survey.control.by_pressure else ()
        low = [act(0.0, Act.LEVEL, self.low_m, "1")]
        return self._scene(name, until_s, *self.open_all, self.nobody_draws, *low, *pressed, *actions)

    def power_back(self, cut_s: float, away_s: float) -> tuple[tuple[TimedAction, ...], float]:
        """The supply goes and comes back, and reset is pressed where pumps wait for a person; with when they may run again. [s]"""
        lets_s = cut_s + away_s + self.wanted.value(Watching.BACK, 0.0) + 1.0
        reset = (act(lets_s, Act.RESET, 1.0),) if self.choices.protection.power_return is Restart.BY_HAND else ()
        return (act(cut_s, Act.POWER, 0.0), act(cut_s + away_s, Act.POWER, 1.0), *reset), lets_s

    def _scene(self, name: str, until_s: float, *actions: TimedAction) -> Scene:
        """From full tanks; what is done stands in order of time, whoever does it."""
        return Scene(name, self.full_m, tuple(sorted(actions, key=lambda each: each.at_s)), until_s)

    @property
    def all_drawn(self) -> TimedAction:
        """More is drawn than comes, so that no tank is ever full."""
        mean = min(tank.mean_m3s for tank in self.survey.all_tanks)
        return act(2.0, Act.DRAW, MORE * self.hyd.most_rate_m3s / mean if mean > 0.0 else 0.0)

    def refilled(self, until_s: float, times: float = 1.0) -> tuple[TimedAction, ...]:
        """Every source filled up again and again, so that none runs out meanwhile. times: what all pumps bring. [s]"""
        found: list[TimedAction] = []
        for number, source in enumerate(self.survey.sources, 1):
            falls = times * self.hyd.most_rate_m3s - source.inflow_m3s
            every_s = until_s if not source.area_m2 or falls <= 0.0 else max(until_s / 500.0, 0.3 * source.area_m2 * (source.high_m - source.low_m) / falls)
            found += [act(3.0 + every_s * k, Act.SOURCE, source.high_m, str(number)) for k in range(int(until_s / every_s) + 1)]
        return tuple(found)

    def full(self, name: str, until_s: float, *actions: TimedAction) -> Scene:
        """Every tank full, nobody draws. [s]"""
        return self._scene(name, until_s, self.nobody_draws, *actions)

    def in_hand(self, pump: str, name: str, until_s: float, *actions: TimedAction) -> Scene:
        """One pump in HAND, the others in OFF, every inlet held open. [s]"""
        hands = tuple(act(0.0, Act.SWITCH, HAND if str(number) == pump else OFF, str(number)) for number in range(1, self.survey.pumping.count + 1))
        return self._scene(name, until_s, *self.open_all, self.nobody_draws, *hands, *actions)
