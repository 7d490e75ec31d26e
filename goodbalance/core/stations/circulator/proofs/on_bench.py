"""What the bench can show of the proofs of a ring. What needs an ear, an owner or a look stays with them."""

import math
from functools import cached_property

from goodbalance.core.balance.plan import Plan
from goodbalance.core.balance.proof import Proof
from goodbalance.core.rehearsal.engine import TimedAction
from goodbalance.core.rehearsal.proving import HAND, OFF, BenchProof, Look, Scene, prove_scenes
from goodbalance.core.rehearsal.troubles import Trouble
from goodbalance.core.stations.circulator.bench import looks
from goodbalance.core.stations.circulator.bench.looks import RingRun
from goodbalance.core.stations.circulator.bench.put_on import ring_bench
from goodbalance.core.stations.circulator.bench.rehearse import RingBench
from goodbalance.core.stations.circulator.bench.signs import signs
from goodbalance.core.stations.circulator.controller.numbers import Numbers, numbers_of
from goodbalance.core.stations.circulator.names import Act, Alarm, AnyAct, Check, Harm, Mode, RingFault
from goodbalance.core.stations.circulator.names import SettingId as S
from goodbalance.core.stations.circulator.plant.equations import equations
from goodbalance.core.stations.circulator.proofs.listed import DRAW_S, proofs, recovers_s
from goodbalance.core.stations.circulator.survey.choices import CirculatorChoices, Wins
from goodbalance.core.stations.circulator.survey.hours import running
from goodbalance.core.stations.circulator.survey.survey import CirculatorSurvey
from goodbalance.core.stations.circulator.windows.consequences import at_rest
from goodbalance.core.stations.shared.held import Held
from goodbalance.core.stations.shared.week import DAY_S, WEEK_S, rests, runs_at

Shown = tuple[Scene, Look[RingBench]]
COLD_C = 20.0  # a ring that has rested for long
SPARE, LEAST_S, MOST_S, STEERED = 1.6, 1800.0, 30.0 * 3600.0, 9.0  # over the time water takes; at least and at most; times as long where a return is held
CREEPS_S = 1800.0


def prove_on_bench(
    survey: CirculatorSurvey, choices: CirculatorChoices, plan: Plan, held: Held[Numbers] | None = None, only: frozenset[str] | None = None, broken: Trouble | None = None
) -> tuple[BenchProof, ...]:
    """Play every scene and judge the proofs that the bench can show. What needs a person is left out.

    held: as read back from the device, so that one wrong number at a keypad fails its proof.
    only: the proofs asked for, by id; all where it is None. broken: a part that is broken before every scene begins.
    """
    held = held or Held(plan, numbers_of(survey, choices, plan))
    made = _Scenes(survey, choices, plan)
    return prove_scenes(proofs(survey, choices, plan), made.of, lambda start: ring_bench(survey, choices, held.plan, start, held.program), only, signs, broken)


def scenes(survey: CirculatorSurvey, choices: CirculatorChoices, plan: Plan) -> dict[str, Scene]:
    """What is done for each proof that the bench can show, by its id."""
    made = _Scenes(survey, choices, plan)
    return {proof.id: shown[0] for proof in proofs(survey, choices, plan) if (shown := made.of(proof)) is not None}


def act(at_s: float, kind: AnyAct, value: float, target: str = "") -> TimedAction:
    """A timed action. [s, SI]"""
    return TimedAction(at_s, kind, target, value)


class _Scenes:
    """How each proof is brought to where it can be seen, and how it is read, by what the plan wants."""

    def __init__(self, survey: CirculatorSurvey, choices: CirculatorChoices, plan: Plan) -> None:
        self.survey, self.choices, self.plan, self.eq = survey, choices, plan, equations(survey)
        self.flow_c = self.eq.flow_c

    def of(self, proof: Proof) -> Shown | None:
        """The scene of a proof and what to look at; None where the bench cannot show it."""
        check = Check(proof.check)
        if check in _OF_BRANCH:
            return _OF_BRANCH[check](self, int(proof.of))
        if check is Check.STAT:
            return self.thermostat(proof.of)
        scene = _SHOWN.get(check)
        return None if scene is None else scene(self)

    # how long water takes

    @cached_property
    def settles_s(self) -> float:
        """Until nothing changes any more, running from hot."""
        runs = at_rest(self.survey, self.choices, self.plan)
        flows = [flow for flow in runs.running.branches_m3s if flow > 0.0]
        if not flows:
            return LEAST_S
        ways = [(pipe.there.fills_m3 + pipe.back.fills_m3) / flow for pipe, flow in zip(self.eq.pipes, runs.running.branches_m3s) if flow > 0.0]
        ends = (self.eq.there.fills_m3 + (0.0 if self.eq.back is None else self.eq.back.fills_m3)) / sum(flows)
        once = SPARE * (max(ways) + ends) + LEAST_S
        return min(MOST_S, once * (STEERED if self.choices.schools.mode is Mode.RETURN else 1.0))

    def hot(self, name: str, more_s: float = 0.0, *acts: TimedAction) -> Scene:
        """In HAND from hot until nothing changes, and a little more. [s]"""
        return Scene(name, self.flow_c, (act(0.0, Act.SWITCH, HAND, "1"), *acts), self.settles_s + more_s)

    # branches and taps

    def valve(self, number: int) -> Shown:
        """What the valve lets through, back in turns."""
        return self.hot("running until nothing changes"), lambda run: self.eq.turns_of(run.bench.plant.kvs[number - 1])

    def end(self, number: int) -> Shown:
        return self.hot("running until nothing changes"), lambda run: run.bench.plant.returns[number - 1].end_c()

    def wait(self, number: int) -> Shown:
        scene = self.hot(f"tap {number} opened alone", DRAW_S, act(self.settles_s, Act.TAP, self.survey.branches[number - 1].tap_m3s, str(number)))
        return scene, lambda run: looks.passed(run, f"tap_{number}")

    def cold(self, number: int) -> Shown:
        scene = self.hot(f"cold tap {number} opened alone", DRAW_S, act(self.settles_s, Act.COLD_TAP, self.survey.branches[number - 1].tap_m3s, str(number)))
        return scene, lambda run: looks.passed(run, f"cold_{number}")

    # the pump

    def mixed(self) -> Shown:
        return self.hot("half an hour without a draw", CREEPS_S), lambda run: run.bench.plant.out_c

    def flow(self) -> Shown:
        return self.hot("running until nothing changes"), lambda run: run.bench.plant.flows.running.flow_m3s

    def adds(self) -> Shown:
        return self.hot("running until nothing changes"), lambda run: run.bench.plant.flows.running.adds_pa

    def held_return(self) -> Shown:
        return self.hot("running until nothing changes"), lambda run: run.bench.plant.back_c

    # hours

    @property
    def week(self) -> tuple[tuple[float, float], ...]:
        """When it runs by its clock, as planned."""
        return running(self.survey, self.choices, self.plan.value(S.LEAD, 0.0))

    def stops(self) -> Shown:
        """From before the first rest that begins and ends in the week to after it."""
        begin, end = next(((begin, end) for begin, end in rests(self.week) if end < WEEK_S), rests(self.week)[0])
        ran_s = next((since for since, until in self.week if until == begin), -1.0)  # through these hours it must run
        scene = Scene("through its first rest", self.flow_c, (), end + 600.0)

        def look(run: RingRun) -> bool:
            stopped, again = looks.first_stop(run, ran_s), looks.first_start(run, begin)
            return stopped is not None and abs(stopped.at_s - begin) <= 60.0 and again is not None and abs(again.at_s - end) <= 60.0

        return scene, look

    @cached_property
    def comes(self) -> tuple[float, float] | None:
        """The first warm time that a rest comes before and whose lead fits: when it begins by plan, and when it must be warm. [s]"""
        lead = self.plan.value(S.LEAD, 0.0)
        for day in range(7):
            for period in sorted(self.survey.use.wanted, key=lambda each: each.from_s):
                at_s = day * DAY_S + period.from_s
                if day in period.days.numbers and period.from_s >= lead and period.lasts_s > 0.0 and not runs_at(self.week, at_s - lead - 60.0):
                    return at_s - lead, at_s
        return None

    def starts(self) -> Shown | None:
        if self.comes is None:
            return None
        begins, warm = self.comes
        scene = Scene("until the first warm time", COLD_C, (), warm + 600.0)

        rested = max((begin - turn for begin, end in rests(self.week) for turn in (0.0, WEEK_S) if begin - turn < begins <= end - turn + 60.0), default=begins - 60.0)

        def look(run: RingRun) -> float | None:
            started = looks.first_start(run, rested + 1.0)
            return None if started is None else warm - started.at_s

        return scene, look

    def in_time(self) -> Shown | None:
        """A person feels the pipe at every farthest tap when the warm time begins."""
        if self.comes is None:
            return None
        hot_c = self.flow_c - 15.0 if self.survey.heats else self.survey.use.hot_c
        return Scene("until the warm time begins", COLD_C, (), self.comes[1]), lambda run: all(plug.end_c() >= hot_c for plug in run.bench.plant.outs)

    def clock(self) -> Shown:
        acts = (act(60.0, Act.POWER, 0.0), act(960.0, Act.POWER, 1.0))
        scene = Scene("the supply away for a quarter of an hour", self.flow_c, acts, 1800.0)
        keeps = self.survey.control.clock_backup
        return scene, lambda run: (looks.alarm(run, Alarm.CLOCK) is None) is keeps and (abs(run.bench.logic.clock_off_s) < 1.0) is keeps

    # limits

    def backflow(self) -> Shown:
        """The pump in OFF, a tap opened: nothing comes up the return."""
        tap = self.survey.branches[-1].tap_m3s
        scene = Scene("a tap opened while the pump is off", self.flow_c, (act(0.0, Act.SWITCH, OFF, "1"), act(60.0, Act.TAP, tap, str(len(self.eq.pipes)))), 360.0)
        return scene, lambda run: looks.harm(run, Harm.CROSSES) is None

    def heat(self) -> Shown:
        """A long draw, and time to make it good."""
        lasts = recovers_s(self.survey)
        acts = (act(0.0, Act.SWITCH, HAND, "1"), act(60.0, Act.TAP, self.survey.branches[0].tap_m3s, "1"), act(60.0 + DRAW_S, Act.TAP, 0.0, "1"))
        scene = Scene("a long draw made good", self.flow_c, acts, 60.0 + DRAW_S + lasts)
        return scene, lambda run: run.bench.plant.store_c >= self.survey.heat.set_c - 2.0

    def lit(self) -> Shown:
        return self.hot("running until nothing changes"), lambda run: looks.harm(run, Harm.UNLIT) is None and run.bench.plant.lit

    @property
    def within_s(self) -> float:
        """A time of the week in its hours, a minute in. [s]"""
        begin = self.week[0][0] if self.week else 0.0
        return begin + 60.0

    def contact(self) -> Shown:
        at_s = self.within_s
        scene = Scene("the building's contact closes and opens", self.flow_c, (act(at_s, Act.OUTSIDE, 1.0), act(at_s + 300.0, Act.OUTSIDE, 0.0)), at_s + 600.0)
        either = self.choices.schools.wins is Wins.EITHER

        def look(run: RingRun) -> bool:
            started, stopped = looks.first_start(run, -1.0), looks.first_stop(run, at_s + 1.0)
            if either:
                return started is not None and stopped is None  # its own clock goes on asking
            return started is not None and abs(started.at_s - at_s) < 5.0 and stopped is not None and abs(stopped.at_s - at_s - 300.0) < 5.0

        return scene, look

    def button(self) -> Shown:
        lasts, at_s = self.plan.value(S.BUTTON_RUN, 0.0), self._quiet_s()
        scene = Scene("a push", self.flow_c, (act(at_s, Act.BUTTON, 1.0),), at_s + 2.0 * lasts + 120.0)
        return scene, lambda run: looks.between_s(looks.first_start(run, at_s - 1.0), looks.first_stop(run, at_s))

    def _quiet_s(self) -> float:
        """When a push is what counts: in its hours, or outside them where either may ask. [s]"""
        if self.choices.schools.wins is not Wins.EITHER:
            return self.within_s
        return next((begin + 60.0 for begin, _ in rests(self.week)), 60.0)

    def thermostat(self, of: str) -> Shown | None:
        """It runs from cool to its stop, and rests to its start, within its hours."""
        if self.choices.schools.wins is Wins.EITHER:
            return None
        at_s, settles = self.within_s, self.settles_s
        begin, end = (self.week[0] if self.week else (0.0, WEEK_S))
        if of == "stop":
            start_c, until_s = COLD_C, min(end - 60.0, at_s + 2.0 * settles)
            return Scene("from cool to its stop", start_c, (), until_s), lambda run: looks.at_c(looks.first_stop(run))
        until_s = min(end - 60.0, begin + 12.0 * 3600.0)
        scene = Scene("from its stop to its start", self.flow_c, (), until_s)
        return scene, lambda run: looks.at_c(looks.first_start(run, begin + 1.0))

    def sensor(self) -> Shown:
        at_s = self.within_s
        asked = (act(at_s - 30.0, Act.OUTSIDE, 1.0), act(at_s - 30.0, Act.BUTTON, 1.0))
        scene = Scene("the sensor unplugged", self.flow_c, (*asked, act(at_s, RingFault.SENSOR, 1.0)), at_s + 20.0)
        return scene, lambda run: looks.alarm(run, Alarm.SENSOR) is not None and bool(run.bench.running)

    def kick(self) -> Shown | None:
        """In its longest rest it turns for a moment."""
        every = self.plan.value(S.KICK_EVERY, math.inf)
        found = [(begin, end) for begin, end in rests(self.week) if end - begin > every + 600.0 and begin + every < WEEK_S]
        if not found or self.choices.schools.wins is Wins.EITHER:
            return None
        begin = found[0][0]
        scene = Scene("a long rest", self.flow_c, (), begin + every + 300.0)

        def look(run: RingRun) -> bool:
            turned = looks.first_start(run, begin + 1.0)
            return turned is not None and abs(turned.at_s - begin - every) < 120.0

        return scene, look


_OF_BRANCH = {Check.VALVE: _Scenes.valve, Check.RETURN: _Scenes.end, Check.WAIT: _Scenes.wait, Check.COLD: _Scenes.cold}
_SHOWN = {
    Check.MIXED: _Scenes.mixed, Check.FLOW: _Scenes.flow, Check.PRESSURE: _Scenes.adds, Check.MODE: _Scenes.held_return, Check.STOPS: _Scenes.stops, Check.STARTS: _Scenes.starts, Check.IN_TIME: _Scenes.in_time,
    Check.CLOCK: _Scenes.clock, Check.LIT: _Scenes.lit, Check.HEAT: _Scenes.heat, Check.BACKFLOW: _Scenes.backflow, Check.OUTSIDE: _Scenes.contact, Check.BUTTON: _Scenes.button, Check.SENSOR: _Scenes.sensor, Check.KICK: _Scenes.kick,
}  # fmt: skip
