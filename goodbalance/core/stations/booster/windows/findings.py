"""What is wrong with the plan of a booster set or needs a look."""

from goodbalance.core.balance.plan import Finding, Severity
from goodbalance.core.balance.quantities import Quantity as Q
from goodbalance.core.balance.trail import Term
from goodbalance.core.control.rotation import Alternation
from goodbalance.core.physics.signals import MA_4_20
from goodbalance.core.physics.surge import joukowsky_pa, pipe_period_s, slowing_ms2
from goodbalance.core.stations.booster.names import SettingId as S
from goodbalance.core.stations.booster.plant.hydraulics import BoosterHydraulics, hydraulics
from goodbalance.core.stations.booster.survey.choices import (
    BoosterChoices,
    FillEnd,
    NoFlowBy,
    OnFailure,
    PrimeBy,
    Reset,
)
from goodbalance.core.stations.booster.survey.control import ControlKind, OutsideSet, SuctionBy
from goodbalance.core.stations.booster.survey.supply import SupplyKind
from goodbalance.core.stations.booster.survey.survey import BoosterSurvey
from goodbalance.core.stations.booster.windows.held import carried_m3s, modes
from goodbalance.core.stations.booster.windows.making import last_cut_in
from goodbalance.core.stations.booster.windows.suction_dips import working_low_pa
from goodbalance.core.stations.shared import telemetry
from goodbalance.core.stations.shared.facts import Permits, controls_not_off, starved_loop
from goodbalance.core.stations.shared.making import term

SLAMS_MS2 = 2.5  # a column that slows down faster than this meets most check valves still open
QUICK_S = 0.5  # taps and solenoid valves close in about this


def findings(survey: BoosterSurvey, choices: BoosterChoices, values: dict[str, float]) -> tuple[Finding, ...]:
    """Every finding of this plan, room by room."""
    told = _Told(survey, choices, values)
    told.of_capacity()
    told.of_control()
    told.of_asking()
    told.of_filling()
    told.of_supply()
    told.of_pumps()
    told.of_pipes()
    told.found += telemetry.findings(survey.telemetry, False)
    return (*told.found, *controls_not_off(survey.visit.controls_off))


class _Told:
    """Collects the findings of one plan."""

    def __init__(self, survey: BoosterSurvey, choices: BoosterChoices, values: dict[str, float]) -> None:
        self.survey, self.choices, self.schools, self.values = survey, choices, choices.schools, values
        self.hyd: BoosterHydraulics = hydraulics(survey)
        self.held_pa = values.get(S.SET_PRESSURE, values.get(S.CUT_IN, 0.0))
        self.found: list[Finding] = []

    def say(self, code: str, severity: Severity, subject: str, text: str, *terms: Term) -> None:
        """Note a finding."""
        self.found.append(Finding(code, severity, subject, text, terms))

    def of_capacity(self) -> None:
        """Pumps that cannot give the design flow, or cavitate at it."""
        demand, pumping = self.survey.demand, self.survey.pumping
        holding = self.hyd.holding(self.held_pa, self.hyd.suction_low_pa, demand.design_m3s, pumping.duty_count)
        if holding.npsh_margin_m is not None and holding.npsh_margin_m < 0.0:
            text = "At design flow the pumps lack {lack} of NPSH at the lowest suction: they cavitate. Hold this flow by hand before anything else."
            self.say("npsh", Severity.STOP, "supply.low_pa", text, term("lack", "", -holding.npsh_margin_m, Q.HEAD))
        flush = demand.flush_m3s
        if flush and not self.hyd.holding(
            self.held_pa, self.hyd.suction_low_pa, demand.design_m3s + flush, pumping.duty_count
        ).feasible:
            text = "Design flow with {flush} of fire or flushing flow cannot be held. Fire systems are for licensed people."
            self.say("flush", Severity.CAUTION, "demand.flush_m3s", text, term("flush", "", flush, Q.FLOW))

    def of_control(self) -> None:
        """Kinds of control that do not fit the set."""
        schools, control, survey = self.schools, self.survey.control, self.survey
        constant = survey.holds_constant
        if schools.no_flow is NoFlowBy.FLOW and constant and not control.flow_switch:
            text = "A flow switch is to tell no flow, but none is fitted: it would never sleep."
            self.say("no_flow_switch", Severity.STOP, "schools.no_flow", text)
        if control.trickle and (control.kind is ControlKind.FLOW_STOP or schools.no_flow is NoFlowBy.FLOW):
            text = "A very small flow goes on all day: a flow switch never opens, the pump never stops. Stop it by pressure instead."
            self.say("trickle", Severity.STOP, "control.trickle", text)
        if control.kind is ControlKind.FLOW_STOP:
            shut_pa = self.hyd.shut_off_pa(high=True)
            drop_pa = self.hyd.column_of(survey.outlets.sensor_m - survey.outlets.lowest_m)
            if shut_pa + drop_pa > survey.outlets.permitted_pa:
                text = "Each time the flow ends the pump rises to its shut-off pressure: {p} at the lowest outlet, where {a} is permitted. Reduce it there, or stop by pressure."
                terms = (term("p", "", shut_pa + drop_pa), term("a", "", survey.outlets.permitted_pa))
                self.say("shut_off_over", Severity.STOP, "outlets.permitted_pa", text, *terms)
        if schools.sensor_failure is OnFailure.RUN_DUTY and survey.vessel.relief_pa is None:
            text = "A pump that runs on without a pressure sensor needs a relief valve; none is noted."
            self.say("blind_run", Severity.CAUTION, "schools.sensor_failure", text)
        if self.hyd.signal is not MA_4_20:
            text = "A signal that starts at zero cannot tell a broken wire from no pressure: all pumps would run up to full speed. No proof can show it stopping."
            self.say("dead_zero", Severity.CAUTION, "sensor.signal", text)
        if constant and schools.night and self.choices.rules.night_from_h == self.choices.rules.night_to_h:
            text = "Night begins and ends at the same hour: it never comes. Set both under Rules."
            self.say("night_empty", Severity.STOP, "rules.night_to_h", text)
        sensor = survey.sensor
        self.found += starved_loop("sensor.loop_supply_v", sensor.budget)
        if schools.no_flow is NoFlowBy.BUMP and constant and survey.vessel.volume_m3 <= 0.0:
            text = "Without a tank a short stop is felt at every tap. Use it only where that is no harm."
            self.say("bump_felt", Severity.CAUTION, "schools.no_flow", text)

    def of_asking(self) -> None:
        """What follows where anybody can move the set pressure."""
        control, schools = self.survey.control, self.schools
        if not self.survey.holds_constant:
            return
        if control.direct_keys:
            text = "Its keys change the set pressure without a code: sleeves, brooms and children press them. Within the two limits only; lock them where that is possible."
            self.say("direct_keys", Severity.CAUTION, "control.direct_keys", text)
        highest_pa = self.values.get(S.HIGHEST_SET)
        if highest_pa is None:
            return
        if schools.no_flow is NoFlowBy.SPEED and S.SLEEP_SPEED in self.values:
            idle = max(self.hyd.no_flow_speeds(highest_pa))
            if idle > self.values[S.SLEEP_SPEED]:
                text = "Asked for {p}, the pumps turn at {n} without flow, over the sleep speed of {s}: at the highest set pressure the set never sleeps. Tell no flow by a switch, or ask for less."
                terms = (term("p", "", highest_pa), term("n", "", idle, Q.PERCENT), term("s", "", self.values[S.SLEEP_SPEED], Q.PERCENT))
                self.say("sleep_at_highest", Severity.CAUTION, S.HIGHEST_SET, text, *terms)
        if control.outside is not OutsideSet.NONE and (control.outside_full_pa or 0.0) > highest_pa:
            ends = (term("f", "", control.outside_full_pa or 0.0), term("h", "", highest_pa))
            text = "The outside can ask for {f}; more than {h} is never in force. Whoever watches it there must know that the two differ."
            self.say("asked_beyond", Severity.NOTE, "control.outside_full_pa", text, *ends)
        if control.local_remote or self.choices.schedule.times:
            text = "All other proofs are made in local and with the week's clock put off; both go back before you leave."
            self.say("prove_in_local", Severity.NOTE, S.SET_PRESSURE, text)

    def of_filling(self) -> None:
        """A filling that cannot end."""
        if S.FILL_SPEED not in self.values:
            return
        mean_m3s, speed = self.survey.demand.mean_m3s, self.values[S.FILL_SPEED]
        fill_m = self.hyd.added_m(self.values[S.FILL_PRESSURE], self.hyd.suction_pa(mean_m3s))
        if self.hyd.speed(fill_m, mean_m3s, 1) <= speed:
            return
        stops = self.schools.fill_end is FillEnd.STOP
        after = "the set stops until somebody resets it" if stops else "users have little pressure until then"
        text = f"With taps open at mean flow the fill speed of {{n}} never reaches the fill pressure: after a power failure by day the fill timeout of {{t}} runs out, and {after}."
        terms = (term("n", "", speed, Q.PERCENT), term("t", "", self.values[S.FILL_TIMEOUT], Q.TIME))
        self.say("fill_by_day", Severity.CAUTION, S.FILL_SPEED, text, *terms)

    def _flow_of_prime(self) -> None:
        """A lost prime that is told by a part that is not there."""
        if self.schools.prime_by is PrimeBy.FLOW and not self.survey.control.sees_flow:
            text = "A lost prime is to be told by the flow switch, and none is fitted: take the power or the pressure, or fit one."
            self.say("no_switch_for_prime", Severity.STOP, "schools.prime_by", text)

    def of_supply(self) -> None:
        """A supply that is too low, or that its own demand pulls too low."""
        self._flow_of_prime()
        supply, control = self.survey.supply, self.survey.control
        by_sensor = control.suction_by is SuctionBy.SENSOR
        if supply.kind is SupplyKind.SUCTION_LIFT and not supply.foot_valve:
            text = "Without a foot valve the suction pipe empties at rest: pumps start dry."
            self.say("no_foot_valve", Severity.CAUTION, "supply.foot_valve", text)
        if control.suction_by is SuctionBy.NONE:
            text = "Nothing sees a lack of water at the suction: only the no-prime delay protects the seals."
            self.say("no_dry_protection", Severity.CAUTION, "control.suction_by", text)
        if control.suction_by is SuctionBy.NONE:
            return
        if not by_sensor and self.survey.suction_switch.permits is Permits.OPEN:
            text = "The suction switch is open while there is water: a broken wire is not noticed, and pumps run dry. Have it built the other way round where that is possible."
            self.say("switch_wire", Severity.CAUTION, "suction_switch.permits", text)
        if supply.kind is SupplyKind.TOWN_MAIN and supply.main_floor_pa is None:
            text = "What must stay in the main is not noted: {m} is taken, by rule. Ask its supplier; the local rule comes first."
            floor = term("m", "", self.choices.rules.main_floor_pa)
            self.say("main_floor_unknown", Severity.CAUTION, "supply.main_floor_pa", text, floor)
        if supply.kind is not SupplyKind.TOWN_MAIN and supply.outlet_m is None:
            text = (
                "The height of the tank's outlet is not noted: it is taken at the pump suction. Where it lies higher, air is drawn in before the low-suction stop."
                if supply.kind is SupplyKind.FLOODED
                else "The height of the foot valve is not noted: it is taken far enough under the lowest water. Where it lies higher, air is drawn in."
            )
            self.say("outlet_unknown", Severity.CAUTION, "supply.outlet_m", text)
        if supply.kind is SupplyKind.SUCTION_LIFT:
            sees = "the water in the tank says nothing of it" if self.survey.switch_in_tank else "the suction rises to nothing, and no low-suction stop sees it"
            text = f"Lost prime is not seen: {sees}. The no-prime delay does, by the pump's power; prove it."
            self.say("lost_prime", Severity.CAUTION, S.LOW_LEVEL_STOP if self.survey.switch_in_tank else S.LOW_SUCTION_STOP, text)
        if not by_sensor:
            self._chatters()
            return
        sensor = self.survey.suction_sensor
        if sensor.low_pa is None or sensor.high_pa is None:
            text = "The range of the suction sensor is not noted: whether it can read the low-suction stop is not known."
            self.say("suction_range_unknown", Severity.CAUTION, "suction_sensor.low_pa", text)

    def _chatters(self) -> None:
        """A switch in the pipe that turns back as soon as the pumps have stopped."""
        if self.survey.switch_in_tank or S.LOW_SUCTION_STOP not in self.values:
            return
        springs_pa = self.hyd.source_pa(False) - working_low_pa(self.survey, self.values)
        band_pa = self.survey.suction_switch.band_pa
        if band_pa <= springs_pa and self.schools.suction_reset is Reset.AUTOMATIC:
            text = "The suction springs back by {f} when the pumps stop, and the switch turns back over {b}: it starts into the same lack again and again. Let it wait and try, or take one with a wider band."
            self.say("switch_chatters", Severity.CAUTION, S.LOW_SUCTION_STOP, text, term("f", "", springs_pa), term("b", "", band_pa))

    def of_pumps(self) -> None:
        """Pumps that start too often or get too hot."""
        hyd, pumping = self.hyd, self.survey.pumping
        if not pumping.check_valves:
            text = "Without a check valve on each pump water runs back through it: the set does not stop cleanly, pumps turn backwards."
            self.say("no_check_valve", Severity.CAUTION, "pumping.check_valves", text)
        if self.survey.own_switches and self.schools.alternation not in (Alternation.ALL_STOPPED, Alternation.FIXED):
            text = "Pressure switches of their own know of no hours and no other pump: the turn passes by an alternating relay when all have stopped, or each switch keeps its pump."
            self.say("own_turn", Severity.STOP, "schools.alternation", text)
        if not hyd.curve.is_falling():
            text = "The pump curve rises somewhere: two flows for one head, and speed cannot tell them apart."
            self.say("curve_rising", Severity.CAUTION, "pumping.curve", text)
        if not hyd.knows_power:
            text = "No power curve was noted: power and energy are estimated from the nameplate."
            self.say("power_guessed", Severity.NOTE, "pumping.curve", text)
        most_w, at_m3s = hyd.most_motor_w
        if hyd.knows_power and most_w > hyd.rated_input_w * 1.001:
            text = "At {q} a motor takes {p}, more than the {r} of its nameplate: it overloads before the end of its curve. Limit the flow or the most speed, or ask the maker."
            terms = (term("q", "", at_m3s, Q.FLOW), term("p", "", most_w, Q.POWER), term("r", "", hyd.rated_input_w, Q.POWER))
            self.say("motor_overloads", Severity.CAUTION, "motor.rated_power_w", text, *terms)
        flow = self._run_out_m3s()
        if flow > hyd.most_m3s * 1.001:
            text = "One pump alone can run out to {q} at the highest supply, beyond its largest flow of {m}: while the next has not joined it cavitates and overloads."
            self.say("run_out", Severity.CAUTION, "pumping.curve", text, term("q", "", flow, Q.FLOW), term("m", "", hyd.most_m3s, Q.FLOW))  # fmt: skip

    def _run_out_m3s(self) -> float:
        """The most one pump can be made to give: at its most speed, the lowest pressure held, the highest supply."""
        hyd, source_pa = self.hyd, self.hyd.source_pa(True)
        if not self.survey.holds_constant:
            speed = self.values.get(S.FIXED_SPEED, 1.0)
            return hyd.flow_at(speed, hyd.added_m(self.values[last_cut_in(self.values)], source_pa))
        most, held = self.values[S.MOST_SPEED], modes(self.survey, self.choices, self.values)
        gives = max(carried_m3s(hyd, each, most, 1, source_pa) for each in held)
        return min(self.survey.demand.design_m3s, gives)

    def of_pipes(self) -> None:
        """Pipes that are too fast, or too weak."""
        hyd, outlets, design = self.hyd, self.survey.outlets, self.survey.demand.design_m3s
        velocity = hyd.pipe.velocity_ms(design)
        static_m = max(0.0, outlets.worst_m - outlets.sensor_m) + hyd.head_of(outlets.residual_pa)
        slowing = slowing_ms2(static_m, outlets.length_m, velocity, hyd.pipe.loss_m(design))
        if self.survey.pumping.check_valves and slowing > SLAMS_MS2 and self.survey.vessel.volume_m3 <= 0.0:
            text = "When the power fails the water in the pipe stops within {t} and comes back: a slow check valve slams. Fit spring-loaded ones, or a tank."
            self.say("check_valve_slams", Severity.CAUTION, "pumping.check_valves", text, term("t", "", velocity / slowing, Q.TIME))  # fmt: skip
        period_s = pipe_period_s(outlets.length_m, outlets.wave_ms)
        shock_pa, part = joukowsky_pa(hyd.density_kgm3, outlets.wave_ms, velocity), hyd.weakest
        if period_s > QUICK_S and self.held_pa + shock_pa > part.at_sensor_pa:
            text = "The pipe is so long that taps, valves and a power failure act within its period of {t}: a full stop adds up to {d}, over the {w} of the {part}. No quick valves; slow stops; ask for a surge study."
            terms = (term("t", "", period_s, Q.TIME), term("d", "", shock_pa), term("w", "", part.rating_pa))
            self.say("surge", Severity.CAUTION, "outlets.length_m", text.replace("{part}", part.name), *terms)
