"""Proving a booster's plan on the bench: each scene is played, and each proof is judged by what happened in it.

Bench proofs prove the settings and the logic; wiring, sensors and pumps are proved on site.
"""

import math
from collections.abc import Callable

from goodbalance.core.balance.plan import Plan
from goodbalance.core.balance.proof import Proof
from goodbalance.core.control.rotation import Alternation
from goodbalance.core.control.trips import Beyond
from goodbalance.core.protection.names import SupplyFault, Watching
from goodbalance.core.rehearsal.proving import HAND, OFF, BenchProof, Scene, prove_scenes
from goodbalance.core.rehearsal.troubles import Trouble
from goodbalance.core.stations.booster.bench import looks
from goodbalance.core.stations.booster.bench.looks import BoosterRun
from goodbalance.core.stations.booster.bench.put_on import booster_bench
from goodbalance.core.stations.booster.bench.signs import signs
from goodbalance.core.stations.booster.controller.numbers import Numbers, numbers_of
from goodbalance.core.stations.booster.names import Act, Alarm, Check, Mode, PumpFault, SetFault, Stop
from goodbalance.core.stations.booster.names import SettingId as S
from goodbalance.core.stations.booster.proofs import (
    crew,
    drives,
    each_pump,
    lack_of_water,
    motors,
    own_switches,
    set_values,
    supply,
    tries,
)
from goodbalance.core.stations.booster.proofs.listed import CYCLES, proofs
from goodbalance.core.stations.booster.proofs.scenes import CALM_S, Scenes, Shown, act
from goodbalance.core.stations.booster.survey.choices import (
    BoosterChoices,
    FillEnd,
    NoFlowBy,
    OnFailure,
    PrimeBy,
    RunOut,
)
from goodbalance.core.stations.booster.survey.survey import BoosterSurvey
from goodbalance.core.stations.booster.windows.switched import flow_switch_m3s
from goodbalance.core.stations.shared.held import Held

FAR_SHARE, STEP_SQUARE = 0.75, 0.01  # how far under the high stop a hand begins, of it; by how much a step lifts the square of the speed
BEGINS_S, AWAY_S, WITHIN_S = 2.0, 1.0, 3500.0  # by then a pump has begun once the supply is back; for how long that is away; starts are counted within an hour
ONE_SHARE = 0.85  # of what one pump gives at its cut-in: so much it holds there


def prove_on_bench(
    survey: BoosterSurvey,
    choices: BoosterChoices,
    plan: Plan,
    held: Held[Numbers] | None = None,
    only: frozenset[str] | None = None,
    broken: Trouble | None = None,
) -> tuple[BenchProof, ...]:
    """Play every scene and judge the proofs that the bench can show. What needs a person is left out.

    held: as read back from the devices, so that one wrong number at a keypad fails its proof.
    only: the proofs asked for, by id; all where it is None. broken: a part that is broken before every scene begins.
    """
    held = held or Held(plan, numbers_of(survey, choices, plan))
    scenes = _Scenes(survey, choices, held, plan)
    return prove_scenes(
        proofs(survey, choices, plan), scenes.of,
        lambda start: booster_bench(survey, choices, held.plan, start, held.program), only, signs, broken,
    )  # fmt: skip


def scenes(survey: BoosterSurvey, choices: BoosterChoices, plan: Plan) -> dict[str, Scene]:
    """What is done for each proof that the bench can show, by its id."""
    made = _Scenes(survey, choices, Held(plan, numbers_of(survey, choices, plan)), plan)
    return {proof.id: shown[0] for proof in proofs(survey, choices, plan) if (shown := made.of(proof)) is not None}


class _Scenes(Scenes):
    """How to read each proof off its scene."""

    def of(self, proof: Proof) -> Shown | None:
        """The scene of a proof and what to look at; None where the bench cannot show it."""
        if proof.check == Check.BROKEN_WIRE:
            return self._wire_off(proof.of)
        if proof.check == Check.CLOSED and proof.of:
            return None  # what puts the set to rest is set out of reach: by a person
        if proof.of and proof.check in own_switches.CHECKS:
            return own_switches.shown(self, proof)
        if proof.check in supply.CHECKS:
            return supply.shown(self, proof)
        if proof.check in motors.CHECKS:
            return motors.shown(self, proof)
        if proof.check in crew.CHECKS:
            return crew.shown(self, proof)
        if proof.check == Check.EACH_PUMP:
            return each_pump.shown(self, proof)
        if proof.check in drives.CHECKS:
            return drives.shown(self, proof)
        if proof.check in set_values.CHECKS:
            return set_values.shown(self, proof)
        if proof.check in lack_of_water.CHECKS:
            return lack_of_water.shown(self, proof)
        if proof.check in tries.CHECKS:
            return tries.shown(self, proof)
        scene = _SHOWN.get(Check(proof.check))
        return None if scene is None else scene(self)

    # at rest and at work

    def _stays_stopped(self) -> Shown:
        return self.scene("at rest", 300.0, start_pa=self.n.set_pressure), lambda run: not looks.started(run)

    def _holds(self) -> Shown:
        may_rest = self.n.no_flow is NoFlowBy.BUMP  # for a moment, to feel whether anybody draws
        return self.calm(), lambda run: looks.pressure_at_end(run) if may_rest or looks.asleep_s(run, 1.0) is None else None

    def _dip(self) -> Shown:
        acts = (act(1.0, Act.OUTLETS, self.tap), act(self.alone_s, Act.OUTLETS, self.mean))
        return self.scene("outlets opened at once", self.alone_s + 40.0, *acts), looks.lowest

    def _rise(self) -> Shown:
        acts = (act(1.0, Act.OUTLETS, self.mean), act(CALM_S + self.calls_s, Act.OUTLETS, self.tap))
        return self.scene("outlets closed at once", CALM_S + self.calls_s + 40.0, *acts), looks.highest

    def _sleeps(self) -> Shown:
        closed_s = self.closed_s
        if self.n.no_flow is NoFlowBy.FLOW:
            return self.closing(), lambda run: looks.rest_after_flow_s(run, closed_s, flow_switch_m3s(self.survey), True)
        if self.n.no_flow is NoFlowBy.BUMP:
            return self.closing(), lambda run: looks.rest_after_s(run, closed_s)
        planned = self.wanted.value(S.SLEEP_SPEED, self.n.sleep_speed)
        return self.closing(), lambda run: looks.rest_after_speed_s(run, planned, closed_s)

    def _boost(self) -> Shown:
        rest_pa = self.n.no_flow_pressure or self.n.set_pressure
        return self.closing(), lambda run: looks.minus(looks.asleep_pa(run), rest_pa)

    def _stays_asleep(self) -> Shown:
        scene = self.closing()
        longer = Scene("asleep for ten minutes", scene.start, scene.actions, scene.until_s + 600.0)

        def rests(run: BoosterRun) -> bool:
            at_s = looks.asleep_s(run, self.closed_s)
            return at_s is not None and not looks.started(run, at_s)

        return longer, rests

    def _wakes(self) -> Shown:
        share, falls_s = self.gently(self.start_pa, self.n.restart)
        scene = self.scene("one tap a little", 60.0 + 2.0 * falls_s, act(1.0, Act.OUTLETS, share))
        return scene, lambda run: looks.wakes_pa(run)

    def _night(self) -> Shown:
        acts = (act(1.0, Act.OUTLETS, self.tap), act(30.0, Act.NIGHT, 1.0))  # the clock comes to its hour
        return self.scene("night by the clock", 30.0 + 2.0 * CALM_S, *acts), looks.pressure_at_end

    def _setback(self) -> Shown:
        return self.scene("one tap open", 2.0 * CALM_S, act(1.0, Act.OUTLETS, self.tap)), looks.pressure_at_end

    def _remote(self) -> Shown | None:
        remote = self.survey.remote
        if remote is None:
            return None
        return self.calm(), lambda run: run.bench.plant.remote_pa(remote.height_m)

    def _starts(self) -> Shown:
        # twenty minutes at half the smallest flow, where the set starts most often
        allowed = self.survey.pumping.starts_per_hour
        scene = self.scene("a tap a little open for twenty minutes", 1200.0, act(1.0, Act.OUTLETS, 0.5 * self.tap))
        return scene, lambda run: 3.0 * max(run.bench.starts) <= allowed

    # on and off

    def _cut_in(self) -> Shown:
        start_pa = self.n.cut_in + 1.5e4
        share, falls_s = self.gently(start_pa, self.n.cut_in)
        scene = self.scene("water drawn slowly", 60.0 + 2.0 * falls_s, act(1.0, Act.OUTLETS, share), start_pa=start_pa)
        return scene, lambda run: looks.starts_pa(run)

    def _cut_out(self) -> Shown:
        acts = (act(1.0, Act.OUTLETS, self.mean), act(CALM_S, Act.OUTLETS, 0.0))
        return self.scene("outlets closed", CALM_S + 100.0 + 2.0 * self.store_s, *acts), lambda run: looks.stops_pa(run, CALM_S)

    def _flow_stop(self) -> Shown:
        acts = (act(1.0, Act.OUTLETS, self.mean), act(CALM_S, Act.OUTLETS, 0.0))
        scene = self.scene("outlets closed", CALM_S + self.n.flow_delay + 120.0 + 4.0 * self.store_s, *acts)
        return scene, lambda run: looks.rest_after_flow_s(run, CALM_S, flow_switch_m3s(self.survey), False)

    def _fixed_speed(self) -> Shown:
        scene = self.scene("mean flow", 30.0, act(1.0, Act.OUTLETS, self.mean), start_pa=self.n.cut_in - 1e3)
        return scene, looks.speed_at_end

    # sharing

    def _joins(self) -> Shown:
        if self.survey.holds_constant:
            return self.opening(), looks.speed_when_second_joins
        scene = self.scene(
            "outlets wide open", 30.0 + self.n.join_delay * 2.0, act(0.0, Act.OUTLETS, 2.0), start_pa=self.n.cut_in - 1e3
        )
        return scene, looks.second_after_s

    def _leaves(self) -> Shown:
        return self.easing(), lambda run: looks.speed_when_one_leaves(run, 2.0 * CALM_S + self.calls_s)

    def _no_hunting(self) -> Shown:
        return self.easing(), lambda run: looks.not_called_back(run, 2.0 * CALM_S + self.calls_s)

    def _alternation(self) -> Shown:
        share = self.mean
        if self.choices.schools.alternation is Alternation.EACH_STOP:  # the turn passes with each pump that stops: draw for one
            share = min(share, max(self.tap, 0.4 / self.survey.pumping.duty_count))
        draw_s, rest_s = 40.0 + 2.0 * self.store_s * self.mean / share, self.wait_s + self.alone_s
        if not self.survey.holds_constant:
            rest_s = (
                60.0 + self.n.least_run + (self.n.flow_delay if self.n.flow_delay < 1e6 else 0.0) + 4.0 * self.store_s
            )
        acts, at_s = [], 1.0
        for _ in range(CYCLES):
            acts += [act(at_s, Act.OUTLETS, share), act(at_s + draw_s, Act.OUTLETS, 0.0)]
            at_s += draw_s + rest_s
        return self.scene("drawn and closed", at_s, *acts), lambda run: looks.leads(run)[:CYCLES]

    def _lead(self) -> Shown:
        """Who leads by hours, by the clock, or always."""
        scene = self._alternation()[0]
        rule = self.choices.schools.alternation
        if rule is Alternation.FIXED:
            return scene, lambda run: looks.leads(run)[:CYCLES] == (1,) * CYCLES
        if rule is Alternation.RUN_HOURS:  # after one cycle the others have run less
            return scene, lambda run: len(set(looks.leads(run)[:2])) == 2
        cycle_s = scene.until_s / CYCLES  # the clock is set on while the second cycle draws
        on = act(cycle_s * 1.0 + 5.0, Act.CLOCK, self.choices.rules.clock_period_s / 3600.0)
        acts = tuple(sorted((*scene.actions, on), key=lambda act: act.at_s))
        clock = Scene("drawn and closed, the clock set on", scene.start, acts, scene.until_s)
        return clock, lambda run: looks.leads(run)[:CYCLES] == (1, 1, 2)

    def _closed(self) -> Shown:
        acts = (
            act(1.0, Act.OUTLETS, self.mean), act(CALM_S, SetFault.FLOW_STUCK, 1.0), act(self.alone_s, Act.OUTLETS, 0.0)
        )  # fmt: skip
        leaves_s = self.n.leave_delay * (self.survey.pumping.duty_count - 1)  # until one pump is left
        until_s = self.alone_s + leaves_s + self.n.closed_delay + 60.0 + 4.0 * self.store_s
        scene = self.scene("flow switch held, outlets closed", until_s, *acts)
        return scene, lambda run: looks.closed_for_s(run, self.alone_s, self.survey.holds_constant)

    def _takeover(self) -> Shown:
        """Drawn so much that one pump holds it; with switches of their own until the pressure has fallen to the next."""
        calls_pa, share, longer_s = self.lowest_call_pa, self.mean, 0.0
        if self.n.switches:
            gives_m3s = self.hyd.flow_at(1.0, self.hyd.added_m(calls_pa, self.hyd.suction_low_pa))
            share, longer_s = min(share, ONE_SHARE * self.opened(gives_m3s, calls_pa)), 3.0 * self.store_s * self.mean / share
        acts = (act(1.0, Act.OUTLETS, share), act(CALM_S, PumpFault.TRIP, 1.0, "1"))
        scene = self.scene("the lead trips", 2.0 * CALM_S + self.calls_s + longer_s, *acts)
        held_pa = min(self.n.set_pressure, calls_pa) if not self.survey.holds_constant else self.n.restart
        return (
            scene,
            lambda run: (
                (bool(looks.running_at_end(run)) or looks.started(run, CALM_S - 1.0))  # a switched set may rest again
                and 0 not in looks.running_at_end(run)
                and (looks.pressure_at_end(run) or 0.0) >= held_pa
            ),
        )

    def _emergency(self) -> Shown:
        acts = (act(1.0, Act.OUTLETS, self.mean), act(CALM_S, Act.GENERATOR, 1.0), act(CALM_S + 1.0, Act.OUTLETS, 2.0))
        scene = self.scene("on the generator, wide open", CALM_S + 40.0 + self.calls_s, *acts)
        return scene, lambda run: 1 <= looks.most_running(run, CALM_S) <= self.wanted.value(S.EMERGENCY_PUMPS, 0.0)

    def _emergency_pressure(self) -> Shown:
        held_pa = self.n.emergency_pressure or self.n.set_pressure
        carried_m3s = ONE_SHARE * self.hyd.flow_at(min(1.0, self.n.join_speed), self.hyd.added_m(held_pa, self.supply_pa))
        acts = (act(0.0, Act.GENERATOR, 1.0), act(1.0, Act.OUTLETS, min(self.mean, self.opened(carried_m3s, held_pa))))
        return self.scene("on the generator, one pump carries it", self.alone_s + self.calls_s, *acts), looks.pressure_at_end

    # limits

    def _wire_off(self, of: str) -> Shown:
        fault = SupplyFault.PHASE if of == "phase" else SetFault.SUCTION_WIRE
        delay_s = 0.0 if of == "phase" else self.n.low_suction_delay
        scene = self.scene(f"a wire of the {of} off", CALM_S + delay_s + 15.0, act(1.0, Act.OUTLETS, self.mean), act(CALM_S, fault, 1.0))
        return scene, lambda run: not looks.running_at_end(run)

    def _high(self) -> Shown | None:
        reached_pa = self.hyd.delivered_pa(0.0, 1, self.hyd.suction_high_pa)
        if reached_pa < self.n.high_stop + 5e3:
            return None  # the pump alone does not reach it: shown on site by lowering the limit
        supplied_pa = self.hyd.suction_high_pa
        square = max(0.16, (FAR_SHARE * self.n.high_stop - supplied_pa) / (reached_pa - supplied_pa))  # of the speed: so goes the pressure
        count = math.ceil((1.0 - square) / STEP_SQUARE)
        acts = [
            act(0.0, Act.SUCTION, supplied_pa),
            act(0.0, Act.OUTLETS, 0.1 * self.tap),  # a drain
            act(1.0, Act.HAND_SPEED, math.sqrt(square)),
            act(2.0, Act.SWITCH, HAND, "1"),
        ]
        acts += [act(6.0 + step * 2.0, Act.HAND_SPEED, math.sqrt(min(1.0, square + STEP_SQUARE * step))) for step in range(count + 1)]  # slowly, as by hand
        until_s = 300.0 + 10.0 * self.store_s  # a tank takes long to fill where the pump gives little
        return self.scene("one pump in HAND, closed", until_s, *acts), lambda run: looks.stop_pa(run, Stop.HIGH)

    def _burst(self) -> Shown | None:
        if self.choices.schools.prime_by is PrimeBy.PRESSURE:
            return None  # pumps are given up first where the pressure falls further: by a person, who opens no more than that
        until_s = CALM_S + self.n.burst_delay + self.calls_s + 60.0
        # supplied so well that lack of water does not come first
        enough_pa = self.hyd.suction_high_pa + self.hyd.suction_loss_pa(2.0 * self.hyd.most_m3s * self.survey.pumping.count)
        acts = (act(1.0, Act.OUTLETS, self.mean), act(CALM_S, Act.SUCTION, enough_pa), act(CALM_S, Act.OUTLETS, 2.0), act(CALM_S, SetFault.BURST, 1.0))
        slows = self.choices.schools.run_out is RunOut.SLOW
        return self.scene("a pipe bursts", until_s, *acts), lambda run: looks.ended_after_flat_out_s(run, slows)

    def _starts_alarm(self) -> Shown | None:
        """The supply goes and comes back twice more than pump 1 may start, the others in OFF, with more drawn than it gives."""
        if self.n.waits_after:
            return None  # each reset counts anew
        locks = self.choices.schools.many_starts is Beyond.STOPS
        limit, runs_s = math.floor(self.wanted.value(S.STARTS_ALARM, 0.0) + 1e-6), self.wanted.value(Watching.BACK, 0.0) + self.wanted.value(S.POWER_DELAY, 0.0) + BEGINS_S
        enough_pa = self.hyd.suction_high_pa + self.hyd.suction_loss_pa(2.0 * self.hyd.most_m3s)
        acts = [act(0.0, Act.POWER, 0.0), act(0.0, Act.SUCTION, enough_pa), act(0.0, Act.OUTLETS, 2.0)]
        acts += [act(0.0, Act.SWITCH, OFF, str(pump)) for pump in range(2, self.survey.pumping.count + 1)]
        at_s, every_s = self.drains_s, runs_s + AWAY_S
        if (limit + 2) * every_s > WITHIN_S:
            return None  # the first starts would be forgotten
        for _ in range(limit + 2):
            acts += [act(at_s, Act.POWER, 1.0), act(at_s + runs_s, Act.POWER, 0.0)]
            at_s += every_s
        return self.scene("supply away and back, again and again", at_s, *acts), lambda run: looks.starts_let_pass(run, locks) == limit

    def _sensor_failure(self) -> Shown:
        scene = self.scene("sensor unplugged", CALM_S + 15.0, act(1.0, Act.OUTLETS, self.mean), act(CALM_S, SetFault.LOOP_OPEN, 1.0))
        one = self.choices.schools.sensor_failure is OnFailure.RUN_DUTY
        if self.n.switches:  # they go on by themselves, and may all be open just then
            return scene, lambda run: looks.alarm_s(run, Alarm.SENSOR) is not None and (Stop.SENSOR in run.bench.logic.stops) is not one
        return scene, lambda run: looks.alarm_s(run, Alarm.SENSOR) is not None and bool(looks.running_at_end(run)) is one

    def _remote_failure(self) -> Shown:
        until_s = CALM_S + self.calls_s + 60.0
        scene = self.scene("remote unplugged", until_s, act(1.0, Act.OUTLETS, self.mean), act(CALM_S, SetFault.REMOTE_LOST, 1.0))
        band_pa = 2.0 * self.n.band_pa
        return (
            scene,
            lambda run: (
                looks.alarm_s(run, Alarm.REMOTE) is not None
                and abs((looks.pressure_at_end(run) or 0.0) - self.n.set_pressure) <= band_pa
            ),
        )

    def _slow_fill(self) -> Shown:
        return self.scene("pipes drained", min(self.n.fill_timeout, 1200.0), act(1.0, Act.DRAIN, 1.0)), looks.speed_while_filling

    def _fill_ends(self) -> Shown:
        """Pipes that never fill, watched until the fill time is over and before a burst would be told."""
        acts = (act(1.0, Act.DRAIN, 1.0), act(1.0, Act.OUTLETS, 2.0), act(1.0, SetFault.BURST, 1.0))
        stops = self.choices.schools.fill_end is FillEnd.STOP

        def look(run: BoosterRun) -> bool:
            stopped = looks.stop_at(run, Stop.FILL) is not None
            if stops:
                return stopped and not run.bench.running
            return not stopped and looks.speed_while_filling(run) is not None and run.bench.logic.mode is not Mode.FILLING

        return self.scene("pipes that never fill", self.n.fill_timeout + 10.0, *acts), look


_SHOWN: dict[Check, Callable[[_Scenes], Shown | None]] = {
    Check.STAYS_STOPPED: _Scenes._stays_stopped,
    Check.HOLDS: _Scenes._holds,
    Check.DIP: _Scenes._dip,
    Check.RISE: _Scenes._rise,
    Check.SLEEPS: _Scenes._sleeps,
    Check.BOOST: _Scenes._boost,
    Check.STAYS_ASLEEP: _Scenes._stays_asleep,
    Check.WAKES: _Scenes._wakes,
    Check.NIGHT: _Scenes._night,
    Check.SETBACK: _Scenes._setback,
    Check.REMOTE: _Scenes._remote,
    Check.STARTS: _Scenes._starts,
    Check.CUT_IN: _Scenes._cut_in,
    Check.FLOW_STOP: _Scenes._flow_stop,
    Check.CUT_OUT: _Scenes._cut_out,
    Check.FIXED_SPEED: _Scenes._fixed_speed,
    Check.JOINS: _Scenes._joins,
    Check.LEAVES: _Scenes._leaves,
    Check.NO_HUNTING: _Scenes._no_hunting,
    Check.TAKEOVER: _Scenes._takeover,
    Check.EMERGENCY: _Scenes._emergency,
    Check.EMERGENCY_PRESSURE: _Scenes._emergency_pressure,
    Check.LEAD: _Scenes._lead,
    Check.HIGH: _Scenes._high,
    Check.BURST: _Scenes._burst,
    Check.STARTS_ALARM: _Scenes._starts_alarm,
    Check.CLOSED: _Scenes._closed,
    Check.SENSOR_FAILURE: _Scenes._sensor_failure,
    Check.REMOTE_FAILURE: _Scenes._remote_failure,
    Check.SLOW_FILL: _Scenes._slow_fill,
    Check.FILL_ENDS: _Scenes._fill_ends,
    Check.ALTERNATION: _Scenes._alternation,
}
