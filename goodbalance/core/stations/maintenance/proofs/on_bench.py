"""What the bench can show of the proofs of a maintenance pump. What needs licensed people, or a look, stays with them."""

from functools import cached_property

from goodbalance.core.balance.plan import Plan
from goodbalance.core.balance.proof import Proof
from goodbalance.core.protection.monitor import supply_of
from goodbalance.core.protection.names import Restart, SupplyFault
from goodbalance.core.rehearsal.engine import TimedAction, rehearse
from goodbalance.core.rehearsal.proving import HAND, BenchProof, Look, Scene, prove_scenes
from goodbalance.core.rehearsal.troubles import Trouble
from goodbalance.core.stations.maintenance.bench import looks
from goodbalance.core.stations.maintenance.bench.looks import MaintenanceRun
from goodbalance.core.stations.maintenance.bench.put_on import maintenance_bench
from goodbalance.core.stations.maintenance.bench.rehearse import MaintenanceBench
from goodbalance.core.stations.maintenance.bench.signs import signs
from goodbalance.core.stations.maintenance.controller.numbers import Numbers, numbers_of
from goodbalance.core.stations.maintenance.names import Act, Alarm, AnyAct, Check, SetFault, State
from goodbalance.core.stations.maintenance.names import SettingId as S
from goodbalance.core.stations.maintenance.plant.hydraulics import hydraulics
from goodbalance.core.stations.maintenance.plant.motors import duties
from goodbalance.core.stations.maintenance.proofs.listed import MOTORS, least_binds, proofs
from goodbalance.core.stations.maintenance.survey.choices import MaintenanceChoices
from goodbalance.core.stations.maintenance.survey.survey import MaintenanceSurvey
from goodbalance.core.stations.shared.held import Held
from goodbalance.core.stations.shared.motor_scenes import hand_shown
from goodbalance.core.stations.shared.supply_scenes import supply_shown

Shown = tuple[Scene, Look[MaintenanceBench]]
SETTLES_S, AT_ONCE_S = 20.0, 0.01
SLOW_S, CLIMBS_S = 120.0, 600.0  # a bleed by the drop from stop to start; a bleed closed by the drop
STEPS = 60


def prove_on_bench(
    survey: MaintenanceSurvey, choices: MaintenanceChoices, plan: Plan, held: Held[Numbers] | None = None, only: frozenset[str] | None = None, broken: Trouble | None = None
) -> tuple[BenchProof, ...]:
    """Play every scene and judge the proofs that the bench can show. What needs a person is left out.

    held: as read back from the device, so that one wrong number at a keypad fails its proof.
    only: the proofs asked for, by id; all where it is None. broken: a part that is broken before every scene begins.
    """
    held = held or Held(plan, numbers_of(survey, choices, plan))
    made = _Scenes(survey, choices, held, plan)
    return prove_scenes(
        proofs(survey, choices, plan), made.of, lambda start: maintenance_bench(survey, choices, held.plan, start, held.program), only, signs, broken
    )


def scenes(survey: MaintenanceSurvey, choices: MaintenanceChoices, plan: Plan) -> dict[str, Scene]:
    """What is done for each proof that the bench can show, by its id."""
    made = _Scenes(survey, choices, Held(plan, numbers_of(survey, choices, plan)), plan)
    return {proof.id: shown[0] for proof in proofs(survey, choices, plan) if (shown := made.of(proof)) is not None}


def act(at_s: float, kind: AnyAct, value: float, target: str = "") -> TimedAction:
    """A timed action. [s, SI]"""
    return TimedAction(at_s, kind, target, value)


class _Scenes:
    """How each proof is brought to where it can be seen, and how it is read. n: what the device holds; wanted: the plan."""

    def __init__(self, survey: MaintenanceSurvey, choices: MaintenanceChoices, held: Held[Numbers], wanted: Plan) -> None:
        self.survey, self.choices, self.held, self.n, self.wanted = survey, choices, held, held.program, wanted
        self.hyd = hydraulics(survey)
        self.stop_pa, self.start_pa = wanted.value(S.STOP_PRESSURE, 0.0), wanted.value(S.START_PRESSURE, 0.0)
        self.rest_pa = min(self.stop_pa, self.hyd.shut_off_pa(False))
        self.least_s, self.delay_s = wanted.value(S.LEAST_RUN, 0.0), wanted.value(S.ON_DELAY, 0.0)

    def of(self, proof: Proof) -> Shown | None:
        """The scene of a proof and what to look at; None where the bench cannot show it."""
        check = Check(proof.check)
        if check in MOTORS:
            return hand_shown(proof, MOTORS, self.wanted, duties(self.survey)[0], self.survey.protection, self.in_hand)
        if check in (Check.SUPPLY, Check.SWAPPED):
            return supply_shown(proof, self.wanted, supply_of(duties(self.survey)).plate_v, self.in_hand, 10.0)
        scene = _SHOWN.get(check)
        return None if scene is None else scene(self)

    # scenes

    def in_hand(self, name: str, until_s: float, acts: tuple[TimedAction, ...]) -> Scene:
        """The pump in HAND, bled so that it works. [s]"""
        return Scene(name, self.rest_pa, (act(0.0, Act.BLEED, self.works_m3s), act(0.0, Act.SWITCH, HAND, "1"), *acts), until_s)

    @property
    def works_m3s(self) -> float:
        """A bleed at which the pump works in the middle of what it must hold."""
        middle_pa = 0.5 * (self.start_pa + self.stop_pa)
        supply_pa = 0.5 * (self.hyd.supply_pa(False) + self.hyd.supply_pa(True))
        gives = self.hyd.gives_m3s(middle_pa, supply_pa)
        return max(0.0, gives / max(1e-9, self.hyd.leaks_m3s(middle_pa, 1.0)) - self.survey.line.leak_m3s)

    @property
    def drop_m3s(self) -> float:
        """A bleed by the drop: from the stop to the start in two minutes, and never so fast that the main pump is reached while the delay counts."""
        volume_m3 = (self.rest_pa - self.start_pa) * self.hyd.stores_m3pa(0.5 * (self.rest_pa + self.start_pa))
        room_pa = max(1e3, self.start_pa - max(self.n.mains_pa))
        in_time = room_pa * self.hyd.stores_m3pa(self.start_pa) / (4.0 * (self.delay_s + self.survey.sensor.reacts_s + 1.0))
        return min(max(volume_m3, 1e-9) / SLOW_S, in_time)

    def bled(self, name: str, until_s: float, *more: TimedAction) -> Scene:
        """At rest, bled by the drop. [s]"""
        return Scene(name, self.rest_pa, (act(0.0, Act.BLEED, self.drop_m3s), *more), until_s)

    @property
    def bleeds_s(self) -> float:
        """So long a bleed by the drop takes from rest to the start, and a tenth more. [s]"""
        return 1.1 * self.hyd.sags_s(self.rest_pa, self.start_pa, self.drop_m3s + self.survey.line.leak_m3s) + self.delay_s + SETTLES_S

    # what is read off them

    def starts(self) -> Shown:
        return self.bled("bled by the drop", self.bleeds_s + 30.0), lambda run: looks.at_pa(looks.enters(run, State.WAIT) or looks.first_start(run))

    @cached_property
    def begins_s(self) -> float:
        """When it starts, bled by the drop: a person sees it and opens the bleed. Tried on a bench of its own. [s]"""
        bench = maintenance_bench(self.survey, self.choices, self.held.plan, self.rest_pa, self.n)
        run = rehearse(bench, (act(0.0, Act.BLEED, self.drop_m3s),), self.bleeds_s + 60.0)
        started = looks.first_start(run)
        return self.bleeds_s if started is None else started.at_s

    def working(self, name: str, until_s: float, *acts: TimedAction) -> Scene:
        """Bled by the drop until it starts, then as much as it brings. [s]"""
        return self.bled(name, until_s, act(self.begins_s + AT_ONCE_S, Act.BLEED, self.works_m3s), *acts)

    def stops(self) -> Shown:
        """It works against a bleed that is closed by the drop until it stops."""
        begins_s = self.begins_s + self.least_s + self.n.least_run + SETTLES_S
        over_pa = max(2e4, 0.35 * (self.hyd.shut_off_pa(False) - self.stop_pa))
        full, least_m3s = self.works_m3s, max(0.0, self._against(self.stop_pa + over_pa))
        acts = [act(begins_s + CLIMBS_S * k / STEPS, Act.BLEED, full + (least_m3s - full) * k / STEPS) for k in range(STEPS + 1)]
        scene = self.working("a bleed closed by the drop", begins_s + 2.0 * CLIMBS_S, *acts)
        return scene, lambda run: looks.at_pa(looks.first_stop(run, begins_s))

    def _against(self, pressure_pa: float) -> float:
        """The bleed that keeps the running pump at a pressure. [Pa, m3/s]"""
        supply_pa = 0.5 * (self.hyd.supply_pa(False) + self.hyd.supply_pa(True))
        return self.hyd.gives_m3s(pressure_pa, supply_pa) / max(1e-9, self.hyd.leaks_m3s(pressure_pa, 1.0)) - self.survey.line.leak_m3s

    def delay(self) -> Shown:
        scene = self.bled("bled by the drop", self.bleeds_s + 60.0)
        return scene, lambda run: 0.0 if looks.enters(run, State.WAIT) is None and looks.first_start(run) else looks.between_s(looks.enters(run, State.WAIT), looks.first_start(run))

    def least(self) -> Shown:
        """The bleed is shut as soon as it runs: it is known when, for nothing else moves."""
        shut_s = self.begins_s + AT_ONCE_S
        scene = self.bled("bled until it starts", shut_s + self.least_s * 3.0 + self.n.least_run + 60.0, act(shut_s, Act.BLEED, 0.0))

        def look(run: MaintenanceRun) -> float | bool | None:
            ran_s = looks.between_s(looks.first_start(run), looks.first_stop(run))
            return ran_s if least_binds(self.survey, self.wanted) else ran_s is not None and ran_s >= self.least_s - 1.0

        return scene, look

    def long(self) -> Shown:
        until_s = self.begins_s + 1.2 * self.wanted.value(S.LONG_RUN, 0.0) + 120.0
        scene = self.working("bled as much as it brings", until_s)
        return scene, lambda run: looks.between_s(looks.first_start(run), looks.alarm(run, Alarm.LONG))

    def out(self) -> Shown:
        shut_s = self.begins_s + AT_ONCE_S
        scene = self.bled("a full cycle", shut_s + self.least_s * 1.5 + 120.0, act(shut_s, Act.BLEED, 0.0))
        return scene, lambda run: looks.main_out(run) and looks.first_start(run) is not None and looks.first_stop(run) is not None

    def holds(self) -> Shown:
        """In a quarter of an hour it sags no further than the permitted leak makes it."""
        scene, look_s = Scene("a quarter of an hour at rest", self.rest_pa, (), 900.0), 900.0
        least_s = self.hyd.sags_s(self.rest_pa, self.start_pa, self.survey.line.permitted_m3s * 1.05)

        def look(run: MaintenanceRun) -> bool:
            began = looks.enters(run, State.WAIT)
            return (began is None or began.at_s >= min(least_s, look_s)) and looks.main_out(run)

        return scene, look

    def sensor_failure(self) -> Shown:
        scene = Scene("a wire of the sensor off", self.rest_pa, (act(10.0, SetFault.LOOP_OPEN, 1.0), act(30.0, SetFault.LOOP_OPEN, 0.0)), 60.0)

        def look(run: MaintenanceRun) -> bool:
            begun = looks.first_start(run, 10.0)
            return looks.alarm(run, Alarm.SENSOR) is not None and (begun is None or begun.at_s > 30.0)

        return scene, look

    def phase(self) -> Shown:
        scene = self.in_hand("a fuse taken out", 60.0, (act(20.0, SupplyFault.PHASE, 1.0),))

        def look(run: MaintenanceRun) -> bool:
            stopped = looks.first_stop(run, 20.0 - 1e-6)
            return stopped is not None and stopped.at_s < 40.0 and looks.alarm(run, Alarm.PHASE) is not None

        return scene, look

    def returned(self) -> Shown:
        """The line stands under its start when the supply comes back. The main pump's own supply is not touched."""
        back_s, reset_s, by_hand = 3.0, 30.0, self.choices.protection.power_return is Restart.BY_HAND
        acts = (act(0.0, Act.POWER, 0.0), act(back_s, Act.POWER, 1.0), act(reset_s, Act.RESET, 1.0))
        under_pa = self.start_pa - 0.1 * max(0.0, self.start_pa - max(self.n.mains_pa))
        scene = Scene("the supply away and back", max(under_pa, self.hyd.supply_pa(True)), acts, reset_s + self.delay_s + 60.0)

        def look(run: MaintenanceRun) -> bool:
            begun = looks.first_start(run, back_s - 1e-6)
            if by_hand:  # a line that leaks may have called the main pump by then: nothing else is left to start
                return begun is None or begun.at_s >= reset_s
            return begun is not None and begun.at_s < reset_s

        return scene, look


_SHOWN = {
    Check.STARTS: _Scenes.starts, Check.STOPS: _Scenes.stops, Check.ON_DELAY: _Scenes.delay, Check.LEAST_RUN: _Scenes.least, Check.LONG_RUN: _Scenes.long, Check.OUT: _Scenes.out,
    Check.HOLDS: _Scenes.holds, Check.SENSOR_FAILURE: _Scenes.sensor_failure, Check.PHASE: _Scenes.phase, Check.POWER_RETURN: _Scenes.returned,
}  # fmt: skip
