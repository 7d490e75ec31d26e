"""Proving a transfer plan on the bench: each scene is played, and each proof is judged by what happened in it.

Bench proofs prove the settings and the logic; wiring, sensors and pumps are proved on site.
"""

from goodbalance.core.balance.plan import Plan
from goodbalance.core.balance.proof import Proof
from goodbalance.core.control.rotation import Alternation
from goodbalance.core.protection.monitor import supply_of
from goodbalance.core.protection.names import Restart, SupplyFault, Watching
from goodbalance.core.rehearsal.engine import TimedAction
from goodbalance.core.rehearsal.proving import HAND, OFF, BenchProof, Scene, prove_scenes
from goodbalance.core.rehearsal.troubles import Trouble
from goodbalance.core.stations.shared.crew_proofs import duty_off, most_at_once, stands_in
from goodbalance.core.stations.shared.held import Held
from goodbalance.core.stations.shared.motor_scenes import hand_shown
from goodbalance.core.stations.shared.supply_scenes import supply_shown
from goodbalance.core.stations.transfer.bench import looks
from goodbalance.core.stations.transfer.bench.looks import TransferRun
from goodbalance.core.stations.transfer.bench.put_on import transfer_bench
from goodbalance.core.stations.transfer.bench.signs import signs
from goodbalance.core.stations.transfer.controller.numbers import Numbers, numbers_of
from goodbalance.core.stations.transfer.names import Act, Alarm, Check, Hold, Level, SetFault, TankFault
from goodbalance.core.stations.transfer.names import SettingId as S
from goodbalance.core.stations.transfer.plant.motors import duties
from goodbalance.core.stations.transfer.proofs import by_levels, by_pressure
from goodbalance.core.stations.transfer.proofs.listed import CYCLES, MOTORS, proofs
from goodbalance.core.stations.transfer.proofs.scenes import SETTLES_S, Scenes, Shown, act
from goodbalance.core.stations.transfer.survey.choices import TransferChoices
from goodbalance.core.stations.transfer.survey.survey import TransferSurvey

WORKS_S = 120.0  # of honest filling before something is broken
AT_REST_S, SHUT_S = 60.0, 30.0  # until every reading stands; until a line between closed valves is under pressure
STEP_M = 0.01
GUSHES = 5.0  # times what pumps bring: through an open line they give more


def prove_on_bench(
    survey: TransferSurvey, choices: TransferChoices, plan: Plan, held: Held[Numbers] | None = None, only: frozenset[str] | None = None, broken: Trouble | None = None
) -> tuple[BenchProof, ...]:
    """Play every scene and judge the proofs that the bench can show. What needs a person is left out.

    held: as read back from the devices, so that one wrong number at a keypad fails its proof.
    only: the proofs asked for, by id; all where it is None. broken: a part that is broken before every scene begins.
    """
    held = held or Held(plan, numbers_of(survey, choices, plan))
    made = _Scenes(survey, choices, held, plan)
    return prove_scenes(
        proofs(survey, choices, plan), made.of, lambda start: transfer_bench(survey, choices, held.plan, start, held.program), only, signs, broken
    )


def scenes(survey: TransferSurvey, choices: TransferChoices, plan: Plan) -> dict[str, Scene]:
    """What is done for each proof that the bench can show, by its id."""
    made = _Scenes(survey, choices, Held(plan, numbers_of(survey, choices, plan)), plan)
    return {proof.id: shown[0] for proof in proofs(survey, choices, plan) if (shown := made.of(proof)) is not None}


class _Scenes(Scenes):
    """How to read each proof off its scene."""

    def of(self, proof: Proof) -> Shown | None:
        """The scene of a proof and what to look at; None where the bench cannot show it."""
        check = Check(proof.check)
        if check in by_pressure.CHECKS:
            return by_pressure.shown(self, proof)
        if check in by_levels.CHECKS:
            return by_levels.shown(self, proof)
        if check in MOTORS:
            duty = next(each for each in duties(self.survey) if int(proof.of) in each.pumps)
            return hand_shown(proof, MOTORS, self.wanted, duty, self.survey.protection, lambda name, until_s, acts: self.in_hand(proof.of, name, until_s, *acts))
        if check in (Check.SUPPLY, Check.SWAPPED):
            return supply_shown(proof, self.wanted, supply_of(duties(self.survey)).plate_v, lambda name, until_s, acts: self.in_hand("1", name, until_s, *acts), 10.0)
        scene = _SHOWN.get(check)
        return None if scene is None else scene(self, proof)

    # line and tanks

    def _free(self, proof: Proof) -> Shown:
        low = [act(0.0, Act.LEVEL, tank.outlet_m, str(number)) for number, tank in enumerate(self.survey.all_tanks, 1)]
        off = [act(0.0, Act.SWITCH, OFF, str(pump)) for pump in range(1, self.survey.pumping.count + 1)]
        return self.full("every inlet open, all pumps off", AT_REST_S, *low, *self.open_all, *off), lambda run: run.seen_at(AT_REST_S).read_pa

    def _each_pump(self, proof: Proof) -> Shown:
        shut = [act(0.0, TankFault.STUCK_SHUT, 1.0, str(number)) for number in range(2, self.survey.tanks.count + 1)]
        hands = [act(0.0, Act.SWITCH, HAND if str(number) == proof.of else OFF, str(number)) for number in range(1, self.survey.pumping.count + 1)]
        opened = act(0.0, TankFault.STUCK_OPEN, 1.0, "1")
        middle = [act(0.0, Act.SOURCE, (source.low_m + source.high_m) / 2.0, str(number)) for number, source in enumerate(self.survey.sources, 1)]
        low = act(0.0, Act.LEVEL, self.survey.tank_1.outlet_m, "1")
        return self.full(f"pump {proof.of} alone in HAND", 60.0, *shut, opened, low, *middle, *hands), lambda run: run.bench.pressure_pa

    def _shut_off(self, proof: Proof) -> Shown:
        """Every inlet open until the line is down, then shut; the pump in HAND against them."""
        number, low = range(1, self.survey.tanks.count + 1), [act(0.0, Act.LEVEL, tank.outlet_m, str(one)) for one, tank in enumerate(self.survey.all_tanks, 1)]
        middle = [act(0.0, Act.SOURCE, (source.low_m + source.high_m) / 2.0, str(one)) for one, source in enumerate(self.survey.sources, 1)]
        off = [act(0.0, Act.SWITCH, OFF, str(pump)) for pump in range(1, self.survey.pumping.count + 1)]
        shut = [act(AT_REST_S, kind, on, str(one)) for one in number for kind, on in ((TankFault.STUCK_OPEN, 0.0), (TankFault.STUCK_SHUT, 1.0))]
        scene = self.full(f"pump {proof.of} in HAND against closed valves", AT_REST_S + SHUT_S, *self.open_all, *low, *middle, *off, *shut, act(AT_REST_S + 1.0, Act.SWITCH, HAND, proof.of))
        return scene, lambda run: looks.highest_pa(run, AT_REST_S + 1.0)

    def _closes(self, proof: Proof) -> Shown:
        """The tank fills to the end, every other one full; started again where the valve only follows the water."""
        tank, place = self.survey.all_tanks[int(proof.of) - 1], int(proof.of) - 1
        begins_m = max(tank.outlet_m, tank.reopens_m - tank.throttles_m - 0.05)
        fills_s = 6.0 * tank.volume_m3(begins_m, tank.closes_m) / self.hyd.alone_m3s(place) + 10.0 * tank.closing_s + 600.0
        acts = (act(0.0, Act.LEVEL, begins_m, proof.of), act(1.0, Act.START, 1.0), *self.refilled(fills_s))
        return self.full(f"tank {proof.of} fills to the end", fills_s, *acts), lambda run: run.bench.plant.levels_m[place]

    # source

    def _source_steps(self, number: str) -> list[TimedAction]:
        """The level of a source down by steps from over its stop to under it, then up over where it gives back."""
        one = int(number)
        stop_m, back_m = self.wanted.value(Level.SOURCE_STOP.of(one), 0.0), self.wanted.value(Level.SOURCE_BACK.of(one), 0.0)
        every_s, at_s, acts = max(2.0, 1.5 * self.wanted.value(S.SOURCE_DELAY, 0.0)), SETTLES_S, []
        down = [stop_m + 0.06 - STEP_M * k for k in range(13)]
        up = [back_m - 0.06 + STEP_M * k for k in range(13)]
        for level in (*down, *up):
            acts.append(act(at_s, Act.SOURCE, level, number))
            at_s += every_s
        return acts

    def _of_its_pump(self, number: str) -> list[TimedAction]:
        """Only the pump on that source in AUTO."""
        pumps = self.hyd.pumps
        return [act(0.0, Act.SWITCH, OFF, str(pump + 1)) for pump in range(len(pumps)) if pumps[pump].source != int(number) - 1]

    def _source(self, proof: Proof) -> Shown:
        acts = self._source_steps(proof.of)
        scene = self.calling(f"source {proof.of} falls and rises", acts[-1].at_s + 60.0, *self._of_its_pump(proof.of), *acts)
        delay_s = self.n.source_delay

        def look(run: TransferRun) -> float | None:
            came = looks.alarm(run, Alarm.SOURCE, int(proof.of))
            return None if came is None else looks.stood_at(run, Act.SOURCE, "h", came.at_s - delay_s)

        return scene, look

    def _source_back(self, proof: Proof) -> Shown:
        acts = self._source_steps(proof.of)
        scene = self.calling(f"source {proof.of} falls and rises", acts[-1].at_s + 60.0, *self._of_its_pump(proof.of), *acts)

        def look(run: TransferRun) -> float | None:
            came = looks.alarm(run, Alarm.SOURCE, int(proof.of))
            gone = None if came is None else looks.freed(run, Hold.SOURCE, int(proof.of), came.at_s)
            return None if gone is None else looks.stood_at(run, Act.SOURCE, "h", gone.at_s)

        return scene, look

    def _source_delay(self, proof: Proof) -> Shown:
        scene = self.calling("the source is gone at once", SETTLES_S + 3.0 * proof.expected + 30.0, act(SETTLES_S, SetFault.DRY, 1.0))
        return scene, lambda run: None if (stop := looks.first_stop(run)) is None else stop.at_s - SETTLES_S

    def _source_wire(self, proof: Proof) -> Shown:
        scene = self.calling("a wire of the source off", SETTLES_S + 2.0 * self.wanted.value(S.SOURCE_DELAY, 0.0) + 20.0, act(SETTLES_S, SetFault.SOURCE_WIRE, 1.0))
        return scene, lambda run: bool(looks.starts(run)) and not run.bench.running and looks.alarm(run, Alarm.SOURCE, 1) is not None

    # sharing

    def _alternation(self, proof: Proof) -> Shown:
        scene = self._filled_again()
        return scene, lambda run: looks.leads(run)[:CYCLES]

    def _lead(self, proof: Proof) -> Shown:
        scene, rule = self._filled_again(), self.choices.schools.alternation
        if rule is Alternation.RUN_HOURS:
            return scene, lambda run: len(set(looks.leads(run)[:2])) == 2
        return scene, lambda run: looks.leads(run)[:CYCLES] == (1,) * CYCLES  # by the clock too: its time is not over

    def _filled_again(self) -> Scene:
        """Tank 1 emptied and filled as often as asked; the valve at the pumps ends each fill."""
        if not self.survey.control.by_pressure:
            start_m, stop_m = (self.wanted.value(level.of(1), 0.0) for level in (Level.START, Level.STOP))
            acts, at_s = [*self.open_all], 5.0
            for _ in range(CYCLES + 1):
                acts += [act(at_s, Act.LEVEL, max(0.0, start_m - 0.02), "1"), act(at_s + 40.0, Act.LEVEL, min(stop_m + 0.02, self.survey.tank_1.overflow_m), "1")]
                at_s += 80.0
            return self.full("tank 1 emptied and filled", at_s, *acts)
        acts, at_s = [], SETTLES_S
        for _ in range(CYCLES + 1):
            acts += [act(at_s, Act.THROTTLE, 1.0), act(at_s + 20.0, Act.THROTTLE, 0.0), act(at_s + 30.0, Act.START, 1.0)]
            at_s += 70.0
        return self.calling("filled, closed, and started again", at_s, *acts)

    def _every_call(self, name: str, *actions: TimedAction) -> Scene:
        """All that the plan can call is called: a tank under its assist start, or more drawn than comes for long enough."""
        duty = self.survey.pumping.duty_count
        until_s = 60.0 + (duty + 1) * (self.wanted.value(S.ASSIST_AFTER, 0.0) + self.wanted.value(S.START_GAP, 0.0) + 10.0)
        if self.survey.control.by_pressure:
            return self.calling(name, until_s, self.all_drawn, *self.refilled(until_s), *actions)
        low_m = max(0.0, self.wanted.value(Level.ASSIST.of(1), self.wanted.value(Level.START.of(1), 0.0)) - 0.05)
        return self.full(name, until_s, *self.open_all, act(0.0, Act.LEVEL, low_m, "1"), *self.refilled(until_s), *actions)

    def _most_at_once(self, proof: Proof) -> Shown:
        return self._every_call("all that can be called"), lambda run: most_at_once(run.events) == self.survey.pumping.duty_count

    def _standby(self, proof: Proof) -> Shown:
        crew = self.survey.pumping
        return self._every_call("every duty pump in OFF", *duty_off(crew, 0.0, Act.SWITCH)), lambda run: stands_in(crew, (event.pump - 1 for event in looks.starts(run)))

    def _assist_after(self, proof: Proof) -> Shown:
        until_s = 1.2 * proof.expected + 60.0
        scene = self.calling("one pump does not fill it", until_s, self.all_drawn, *self.refilled(until_s))
        return scene, lambda run: begun[1].at_s - begun[0].at_s if len(begun := looks.starts(run)) > 1 else None

    def _start_gap(self, proof: Proof) -> Shown:
        """The supply back with tank 1 under its assist start."""
        low_m = max(0.0, self.wanted.value(Level.ASSIST.of(1), 0.0) - 0.05)
        power, lets_s = self.power_back(60.0, 20.0)
        scene = self.full("power back with a low tank", lets_s + 3.0 * proof.expected + 60.0, *self.open_all, act(0.0, Act.LEVEL, low_m, "1"), *power)
        return scene, lambda run: begun[1].at_s - begun[0].at_s if len(begun := looks.starts(run, 79.0)) > 1 else None

    # limits

    def _sensor_failure(self, proof: Proof) -> Shown:
        scene = self.calling("a wire of the sensor off", SETTLES_S + 15.0, act(SETTLES_S, SetFault.LOOP_OPEN, 1.0))
        return scene, lambda run: bool(looks.starts(run)) and not run.bench.running and looks.alarm(run, Alarm.SENSOR) is not None

    def _burst(self, proof: Proof) -> Shown:
        ends_s = WORKS_S + 2.0 * self.wanted.value(S.LEAST_DELAY, 0.0) + 60.0
        scene = self.calling("honest filling, then the line bursts", ends_s, act(WORKS_S, SetFault.BURST, 1.0), self.all_drawn, *self.refilled(ends_s, GUSHES))
        return scene, lambda run: (came := looks.alarm(run, Alarm.BURST)) is not None and came.at_s > WORKS_S and not run.bench.running

    def _burst_delay(self, proof: Proof) -> Shown:
        ends_s = WORKS_S + 2.0 * proof.expected + 60.0
        scene = self.calling("honest filling, then the line bursts", ends_s, act(WORKS_S, SetFault.BURST, 1.0), self.all_drawn, *self.refilled(ends_s, GUSHES))
        return scene, lambda run: None if (came := looks.alarm(run, Alarm.BURST)) is None else came.at_s - WORKS_S

    def _longest_run(self, proof: Proof) -> Shown:
        until_s = 1.2 * proof.expected + 60.0
        scene = self.calling("every inlet held open, all of it drawn", until_s, self.all_drawn, *self.refilled(until_s))
        return scene, lambda run: looks.between_s(looks.first_start(run), looks.alarm(run, Alarm.LONG))

    # supply

    def _phase(self, proof: Proof) -> Shown:
        scene = self.calling("a phase is lost", SETTLES_S + 15.0, act(SETTLES_S, SupplyFault.PHASE, 1.0))
        return scene, lambda run: bool(looks.starts(run)) and not run.bench.running and looks.alarm(run, Alarm.PHASE) is not None

    def _power_return(self, proof: Proof) -> Shown:
        by_hand = self.choices.protection.power_return is Restart.BY_HAND
        back_s = SETTLES_S + 20.0
        reset_s = back_s + self.wanted.value(Watching.BACK, 0.0) + self.delay_s + 60.0
        acts = [act(SETTLES_S, Act.POWER, 0.0), act(back_s, Act.POWER, 1.0), *([act(reset_s, Act.RESET, 1.0)] if by_hand else [])]
        scene = self.calling("power lost and back", reset_s + 2.0 * self.delay_s + 120.0, *acts)

        def look(run: TransferRun) -> bool:
            begun = looks.first_start(run, back_s - 1e-6)
            return begun is not None and (begun.at_s >= reset_s) is by_hand

        return scene, look


_SHOWN = {
    Check.FREE: _Scenes._free, Check.EACH_PUMP: _Scenes._each_pump, Check.SHUT_OFF: _Scenes._shut_off, Check.CLOSES: _Scenes._closes, Check.SOURCE: _Scenes._source, Check.SOURCE_BACK: _Scenes._source_back,
    Check.SOURCE_DELAY: _Scenes._source_delay, Check.SOURCE_WIRE: _Scenes._source_wire, Check.ALTERNATION: _Scenes._alternation, Check.LEAD: _Scenes._lead,
    Check.MOST_AT_ONCE: _Scenes._most_at_once, Check.STANDBY: _Scenes._standby, Check.ASSIST_AFTER: _Scenes._assist_after, Check.START_GAP: _Scenes._start_gap, Check.SENSOR_FAILURE: _Scenes._sensor_failure, Check.BURST: _Scenes._burst,
    Check.BURST_DELAY: _Scenes._burst_delay, Check.LONGEST_RUN: _Scenes._longest_run, Check.PHASE: _Scenes._phase, Check.POWER_RETURN: _Scenes._power_return,
}  # fmt: skip
