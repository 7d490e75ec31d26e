"""The proofs a booster's plan needs, in the order they are made on site: tank and check valves, pressures, the set, limits."""

from goodbalance.core.balance.plan import Plan, Setting
from goodbalance.core.balance.proof import Answer, Proof
from goodbalance.core.balance.quantities import Quantity as Q
from goodbalance.core.control.rotation import Alternation
from goodbalance.core.control.trips import Beyond
from goodbalance.core.protection import proofs as protection
from goodbalance.core.stations.booster.names import Check
from goodbalance.core.stations.booster.names import SettingId as S
from goodbalance.core.stations.booster.plant.hydraulics import hydraulics
from goodbalance.core.stations.booster.plant.loop_model import compliance_m3pa
from goodbalance.core.stations.booster.plant.motors import duties
from goodbalance.core.stations.booster.proofs import crew, each_pump, lack_of_water, own_switches, supply, tries
from goodbalance.core.stations.booster.proofs.drives import drive_proofs
from goodbalance.core.stations.booster.proofs.scenes import (
    DRY,
    FLOOD,
    INTERLOCK,
    LIMITS,
    PRESSED,
    REST,
    SET,
    SHOCK,
    STARTING,
    WORK,
)
from goodbalance.core.stations.booster.proofs.set_values import set_value_proofs
from goodbalance.core.stations.booster.survey.choices import BoosterChoices, NoFlowBy, PrimeBy, RunOut, Sharing
from goodbalance.core.stations.booster.survey.control import ControlKind
from goodbalance.core.stations.booster.survey.survey import BoosterSurvey
from goodbalance.core.stations.booster.windows.held import held_pa
from goodbalance.core.stations.shared import telemetry

CYCLES = 3
TAKES_OVER = ("Another takes over and the pressure is held again.", "The next starts at the cut-in of its own switch, and the pressure is held there.")  # by switches of their own
LOST = ("One pump runs on at the fill speed and an alarm comes.", "The switches go on calling their pumps, and an alarm comes.")
_ALONE = "In AUTO, pump 1 alone, the others in OFF, an outlet open."
_LOST = {
    PrimeBy.POWER: ("One pump in HAND.", "Close its suction valve and take the time."),
    PrimeBy.FLOW: (_ALONE, "Open every outlet, close its suction valve, and take the time from where the gauge has fallen under the pressure at which pumps are called."),
    PrimeBy.PRESSURE: (_ALONE, "Open every outlet, close its suction valve, and take the time from where the gauge has fallen under the no-prime pressure, at full speed."),
}
GUARDS = protection.Checks(Check.OVERLOAD, Check.UNDERLOAD, Check.RETRIES, Check.TRIES, Check.AWAKE, Check.HOT, Check.CASING)


def proofs(survey: BoosterSurvey, choices: BoosterChoices, plan: Plan) -> tuple[Proof, ...]:
    """Every proof of this plan."""
    made = _Proofs(survey, choices, plan)
    made.at_rest()
    made.holding()
    made.found += set_value_proofs(survey, choices, plan, made.tolerance_pa)
    made.sharing()
    made.found += drive_proofs(survey, plan, choices.schools.sharing is Sharing.SERIAL, made.by_flow, choices.schools.long_run is Beyond.STOPS)
    made.limits()
    made.found += telemetry.proofs(survey.telemetry, Check.FAR_END, "a stop of the set", "Stop the set by lack of water: open its suction switch or sensor.")
    made.found += [*supply.proofs(survey, choices, plan), *tries.proofs(survey, choices, plan)]
    return (*made.found, *each_pump.proofs(survey, plan), *protection.proofs(GUARDS, plan, duties(survey), survey.protection))


class _Proofs:
    """Collects the proofs of one plan."""

    def __init__(self, survey: BoosterSurvey, choices: BoosterChoices, plan: Plan) -> None:
        self.survey, self.choices, self.plan = survey, choices, plan
        self.settings = {setting.id: setting for setting in plan.settings}
        self.tolerance_pa = max(2.0 * choices.step_pa, 3.0 * survey.sensor.noise_pa, choices.rules.regulation_pa)
        self.found: list[Proof] = []
        self.by_flow = (survey.holds_constant and choices.schools.no_flow is NoFlowBy.FLOW) or survey.control.kind is ControlKind.FLOW_STOP

    def _add(
        self, check: Check, title: str, group: str, before: str, cautions: tuple[str, ...], action: str, must_see: str, proves: tuple[str, ...] = (), decided: str = "",
    ) -> None:
        self.found.append(Proof(check, title, group, before, cautions, action, must_see, Answer.YES_NO, proves=proves, decided=decided))

    def _number(
        self, check: Check, setting_id: str, title: str, group: str, before: str, cautions: tuple[str, ...], action: str,
        must_see: str, value: float | None = None, tolerance: float | None = None, also: tuple[str, ...] = (), decided: str = "",
    ) -> None:  # fmt: skip
        setting: Setting | None = self.settings.get(setting_id)
        if setting is None:
            return
        expected, limit = setting.value if value is None else value, self.tolerance_pa if tolerance is None else tolerance
        self.found.append(
            Proof(
                check, title, group, before, cautions, action, must_see, Answer.NUMBER, expected, limit,
                setting.quantity if setting.quantity is not Q.DURATION else Q.TIME, proves=(setting_id, *(one for one in also if one in self.settings)), decided=decided,
            )
        )  # fmt: skip

    def at_rest(self) -> None:
        """What is shown before the first start."""
        self._number(
            Check.PRECHARGE, S.PRECHARGE, "Precharge of the tank", REST, "Tank isolated, its water side drained.", (PRESSED,),
            "Read the gas valve with a gauge.", "The gauge shows the precharge.",
        )  # fmt: skip
        self._add(
            Check.STAYS_STOPPED, "At rest the pressure stays", REST, "Every outlet closed, the set asleep or in OFF.", (STARTING,),
            "Watch the gauge for five minutes.",
            "The pressure stays. If it falls: check valve, tank or a leak, in this order.",
        )  # fmt: skip

    def holding(self) -> None:
        """How the pressure is held, and when the set rests and wakes."""
        if not self.survey.holds_constant:
            self._switched()
            return
        if self.survey.remote is None:
            self._number(
                Check.HOLDS, S.SET_PRESSURE, "The set pressure is held", WORK, "In AUTO, outlets open for about the mean flow.", (STARTING, FLOOD),
                "Read the gauge when it is calm.", "The pressure stands at the set pressure.", self._held_at_mean(),
            )  # fmt: skip
        set_pa = self.settings[S.SET_PRESSURE].value
        back_pa = set_pa - self.settings[S.NO_FLOW_PRESSURE].value if S.NO_FLOW_PRESSURE in self.settings else 0.0  # with one tap open it stands that much lower
        under = ", or no further under it than it is set back with one tap open" if back_pa > 0.0 else ""
        lowest_pa = self.settings[S.RESTART].value - back_pa - self._until_it_turns_pa()
        self._number(
            Check.DIP, S.RESTART, "Outlets opened at once: the dip", WORK, "In AUTO, one tap open.", (STARTING, FLOOD),
            "Open outlets up to the mean flow at once. Note the lowest pressure.", f"It stays above the restart pressure, but for what falls until a pump turns{under}; how deep it falls is written down.", *self._between(lowest_pa, set_pa),
        )  # fmt: skip
        self._number(
            Check.RISE, S.HIGH_STOP, "Outlets closed at once: the rise", WORK, "In AUTO, outlets open for the mean flow.", (STARTING, PRESSED),
            "Close all but one tap at once. Note the highest pressure.", "It stays under the high-pressure stop, and nothing trips.",
            *self._between(self.settings[S.RESTART].value, self.settings[S.HIGH_STOP].value - 2.0 * self.tolerance_pa),
        )  # fmt: skip
        self._sleeping()
        self._other_pressures()
        starts = self.survey.pumping.starts_per_hour
        self._add(
            Check.STARTS, f"No more than {starts:g} starts an hour", WORK, "One tap open a little, for an hour.", (STARTING,),
            "Count the starts.", f"{starts:g} or fewer starts of any pump.", (S.BOOST, S.SLEEP_DELAY),
        )  # fmt: skip

    def _until_it_turns_pa(self) -> float:
        """By how much the pressure falls at mean flow while a pump that was just called runs up; no more than a gauge may be off where no tank gives anything. [Pa]"""
        precharge_pa = self.settings[S.PRECHARGE].value if S.PRECHARGE in self.settings else 0.0
        gives_m3pa = compliance_m3pa(hydraulics(self.survey), self.settings[S.RESTART].value, precharge_pa)
        return min(self.tolerance_pa, self.survey.demand.mean_m3s * self.settings[S.RAMP].value / gives_m3pa)

    def _sleeping(self) -> None:
        if self.choices.schools.no_flow is NoFlowBy.SPEED:
            action = "Close every outlet. Watch the speed come down to the sleep speed and take the time from there."
        elif self.choices.schools.no_flow is NoFlowBy.FLOW:
            action = "Close every outlet. Take the time from the flow switch opening."
        else:
            action = "Close every outlet. Take the time until the pumps stand still to feel for flow."
        self._number(
            Check.SLEEPS, S.SLEEP_DELAY, "Outlets closed: it falls asleep", WORK, "In AUTO, outlets open for about the mean flow.", (STARTING,),
            action, "After the sleep delay it boosts, where it should, and stops.", *self._sleep_time(), also=(S.SLEEP_SPEED,),
        )  # fmt: skip
        action = "Read the gauge just after the pump has stopped; subtract the set pressure."
        self._number(Check.BOOST, S.BOOST, "Boost before sleep", WORK, "As before.", (STARTING,), action, "So much is stored.")
        self._add(
            Check.STAYS_ASLEEP, "It stays asleep", WORK, "Every outlet closed, the set asleep.", (STARTING,), "Wait ten minutes.", "No pump starts. If one does: check valve, tank or a leak.", (S.SLEEP_DELAY,),
        )  # fmt: skip
        self._number(
            Check.WAKES, S.RESTART, "One tap opened a little: it wakes", WORK, "Asleep, every outlet closed.", (STARTING,),
            "Open one tap so far that the gauge falls slowly.", "A pump starts when the gauge shows the restart pressure.",
        )  # fmt: skip

    def _other_pressures(self) -> None:
        """By night, with little flow, at the far end."""
        rules = self.choices.rules
        self._number(
            Check.NIGHT, S.NIGHT_PRESSURE, "Night set pressure by the clock", WORK, "In AUTO, one tap open.", (STARTING,),
            f"Set the clock to just before {rules.night_from_h} h and wait, then to just before {rules.night_to_h} h. Set it right afterwards.",
            f"At {rules.night_from_h} h the pressure goes to the night value, at {rules.night_to_h} h back.",
            value=self._night_at_least(),
        )  # fmt: skip
        self._number(
            Check.SETBACK, S.NO_FLOW_PRESSURE, "Little flow: less pressure", WORK, "In AUTO, one tap open.", (STARTING,),
            "Read the gauge when it is calm.", "The pressure stands near the one for no flow.",
            value=self._set_back_at_least(),
        )  # fmt: skip
        self._number(
            Check.REMOTE, S.REMOTE_PRESSURE, "The far end is held", WORK, "In AUTO, mean flow; somebody at the far gauge.", (STARTING,),
            "Read the far gauge.", "The far gauge shows the remote set pressure.",
        )  # fmt: skip

    def _sleep_time(self) -> tuple[float, float]:
        """The delay; with short stops it may be anywhere up to it."""
        delay_s = self.settings[S.SLEEP_DELAY].value
        if self.choices.schools.no_flow is NoFlowBy.BUMP:
            return delay_s / 2.0, delay_s / 2.0 + 15.0
        return delay_s, max(3.0, 0.2 * delay_s)

    def _join_speed(self) -> tuple[float, float]:
        """From the joining speed up to the most: the speed rises on while the delay counts."""
        join, most = self.settings[S.JOIN_SPEED].value, self.settings[S.MOST_SPEED].value
        return (join + most) / 2.0, (most - join) / 2.0 + 0.02

    def _leave_speed(self) -> tuple[float, float]:
        """Where one leaves; a regulating one beside full ones falls on while the delay counts."""
        leave = self.settings[S.LEAVE_SPEED].value
        if self.choices.schools.sharing is not Sharing.SERIAL:
            return leave, 0.04
        least = self.settings[S.LEAST_SPEED].value
        return (least + leave) / 2.0, (leave - least) / 2.0 + 0.02

    def _held_at_mean(self) -> float:
        """What is held at mean flow: with setback less than the set pressure."""
        values = {setting.id: setting.value for setting in self.plan.settings}
        return held_pa(self.survey, self.choices, values, self.survey.demand.mean_m3s)

    def _between(self, low: float, high: float) -> tuple[float, float]:
        """Middle and half width of what may be seen, with the tolerance of a gauge."""
        return (low + high) / 2.0, (high - low) / 2.0 + self.tolerance_pa

    def _night_at_least(self) -> float | None:
        night = self.settings.get(S.NIGHT_PRESSURE)
        at_least = self._set_back_at_least()
        return None if night is None else night.value if at_least is None else min(night.value, at_least)

    def _set_back_at_least(self) -> float | None:
        """With setback, what is held at the smallest flow."""
        if S.NO_FLOW_PRESSURE not in self.settings:
            return None
        values = {setting.id: setting.value for setting in self.plan.settings}
        return held_pa(self.survey, self.choices, values, self.survey.demand.least_m3s)

    def _switched(self) -> None:
        if self.survey.own_switches:
            self.found += own_switches.proofs(self.survey, self.plan, self.tolerance_pa)
            return
        self._number(
            Check.CUT_IN, S.CUT_IN, "It starts at cut-in", WORK, "In AUTO, at rest.", (STARTING, FLOOD),
            "Draw water slowly.", "A pump starts when the gauge shows this.",
        )  # fmt: skip
        if S.FLOW_DELAY in self.settings:
            self._number(
                Check.FLOW_STOP, S.FLOW_DELAY, "It stops when the flow ends", WORK, "In AUTO, one tap open.", (STARTING,),
                "Close every outlet and take the time.", "The pump stops after this and stays stopped.",
                tolerance=max(3.0, 0.2 * self.settings[S.FLOW_DELAY].value),
            )  # fmt: skip
        else:
            self._number(
                Check.CUT_OUT, S.CUT_OUT, "It stops at cut-out", WORK, "In AUTO, a pump runs.", (STARTING, PRESSED),
                "Close every outlet slowly.", "The pump stops when the gauge shows this, and stays stopped.",
            )  # fmt: skip
        if S.FIXED_SPEED in self.settings:
            seen = "It stands still at this."
            self._number(Check.FIXED_SPEED, S.FIXED_SPEED, "The fixed speed", WORK, "A pump runs in AUTO.", (STARTING,), "Read the speed in the display.", seen, tolerance=0.01)

    def sharing(self) -> None:
        """How pumps join, leave and take turns."""
        pumping, schools = self.survey.pumping, self.choices.schools
        duty = pumping.duty_count
        if duty > 1:
            if self.survey.holds_constant:
                self._number(
                    Check.JOINS, S.JOIN_SPEED, "The next pump joins", SET, "In AUTO, one pump runs.", (STARTING, FLOOD),
                    "Open outlets slowly. Note the speed just before the next pump starts.", "It joins at this speed or a little over, once.",
                    *self._join_speed(),
                )  # fmt: skip
                self._number(
                    Check.LEAVES, S.LEAVE_SPEED, "One pump leaves", SET, "In AUTO, two pumps run.", (STARTING,),
                    "Close outlets slowly. Note the speed when one leaves.", "It leaves at this speed or under.",
                    *self._leave_speed(),
                )  # fmt: skip
                self._add(
                    Check.NO_HUNTING, "It is not called back", SET, "Just after a pump has left, the flow kept.", (STARTING,),
                    "Watch for twice the join and leave delays.", "No pump joins again.", (S.LEAVE_SPEED, S.JOIN_SPEED),
                )  # fmt: skip
            elif S.JOIN_DELAY in self.settings:
                self._number(
                    Check.JOINS, S.JOIN_DELAY, "The next pump joins", SET, "In AUTO, one pump runs.", (STARTING, FLOOD),
                    "Open outlets until the pressure stays under cut-in; take the time.", "The next pump starts after this.",
                    tolerance=max(2.0, 0.25 * self.settings[S.JOIN_DELAY].value),
                )  # fmt: skip
            if schools.alternation in (Alternation.ALL_STOPPED, Alternation.EACH_STOP):
                draw = "Draw so little that one pump is enough, and close," if schools.alternation is Alternation.EACH_STOP else "Draw and close"
                self.found.append(
                    Proof(
                        Check.ALTERNATION, f"The lead changes over {CYCLES} cycles", SET, "All pumps in AUTO, at rest.", (STARTING,),
                        f"{draw} {CYCLES} times. Note which pump starts first in each.",
                        "Each cycle the next pump leads.", Answer.SEQUENCE, pumps=self.survey.pumping.turning_count, cycles=CYCLES,
                    )
                )  # fmt: skip
            else:
                self._lead(schools.alternation)
        if pumping.count > 1:
            self._add(
                Check.TAKEOVER, "Another pump takes over", SET, "In AUTO, one pump runs.", (STARTING, SHOCK),
                "Switch the running pump to OFF, or trip its drive.", TAKES_OVER[self.survey.own_switches],
            )  # fmt: skip
        self.found += crew.proofs(self.survey, self.plan)
        if S.EMERGENCY_PUMPS in self.settings:
            most = round(self.settings[S.EMERGENCY_PUMPS].value)
            pumps = f"{most} pumps" if most > 1 else "one pump"
            self._add(
                Check.EMERGENCY, f"On the generator no more than {pumps}", SET, "On the generator, outlets wide open.", (STARTING, FLOOD),
                "Count the pumps that run.", f"Never more than {pumps} at once.", (S.EMERGENCY_PUMPS,),
            )  # fmt: skip
            self._number(
                Check.EMERGENCY_PRESSURE, S.EMERGENCY_PRESSURE, "Pressure on the generator", SET, "On the generator; no more drawn than one pump carries.", (STARTING,),
                "Read the gauge when it is calm.", "The reduced pressure is held.",
            )  # fmt: skip

    def _lead(self, rule: Alternation) -> None:
        """Who leads where the turn does not pass at each stop."""
        hours = f"{self.choices.rules.clock_period_s / 3600.0:g} h"
        before = {
            Alternation.FIXED: (f"Draw and close {CYCLES} times. Note which pump starts first in each.", "Pump 1 starts first in every cycle."),
            Alternation.RUN_HOURS: ("Read the run hours, draw and close twice. Note which pump starts first.", "Each time the pump with the fewest hours starts first."),
            Alternation.CLOCK: (f"Draw and close twice, set the clock on by {hours}, draw and close twice again. Set it right afterwards.",
                                f"The same pump leads until {hours} have passed; after the next stop of all another one does."),
        }  # fmt: skip
        action, must_see = before[rule]
        self._add(Check.LEAD, "The right pump leads", SET, "All pumps in AUTO, at rest.", (STARTING,), action, must_see)

    def limits(self) -> None:
        """What stops pumps, and what tells people."""
        self.found += lack_of_water.proofs(self.survey, self.choices, self.plan, self.tolerance_pa)
        if self.survey.control.phase_monitor:
            self.found.append(lack_of_water.broken_wire("phase", "phase monitor's contact"))
        self._beyond_the_limits()
        self._failures()

    def _by_watch(self, timer: S, least_s: float) -> float:
        """What a hand and a watch can be off a timer; nothing where the plan has none. [s]"""
        return max(least_s, 0.3 * self.settings[timer].value) if timer in self.settings else 0.0

    def _beyond_the_limits(self) -> None:
        self._number(
            Check.HIGH, S.HIGH_STOP, "High pressure stops the set", LIMITS, "One pump in HAND, everything closed but a drain.", (PRESSED, INTERLOCK),
            "Raise the speed slowly, or lower the limit to the pressure and set it back.", "Every pump stops at it.",
        )  # fmt: skip
        slows = self.choices.schools.run_out is RunOut.SLOW and self.survey.holds_constant
        self._number(
            Check.BURST, S.BURST_DELAY, f"A burst {'lets one pump go on slowly' if slows else 'stops the set'}", LIMITS, "In AUTO; a hydrant or drain that takes more than the set gives.", (STARTING, FLOOD),
            f"Open it {'so far that the pressure stays over the no-prime pressure,' if S.NO_PRIME_PRESSURE in self.settings else 'wide'} and take the time from the moment every pump runs flat out.", f"{'All but one pump stop and that one slows down' if slows else 'The set stops'} after this, and it waits for a reset.",
            tolerance=self._by_watch(S.BURST_DELAY, 5.0), also=(S.BURST_STOP,), decided="slows" if slows else "stops",
        )  # fmt: skip
        before, action = _LOST[self.choices.schools.prime_by]
        self._number(
            Check.NO_PRIME, S.NO_PRIME_DELAY, "A pump without water is given up", LIMITS, before, (DRY,), action, "It is given up after this.",
            tolerance=self._by_watch(S.NO_PRIME_DELAY, 1.0), also=(S.NO_PRIME_LOAD, S.NO_PRIME_PRESSURE),
        )  # fmt: skip
        if self.by_flow:
            self._number(
                Check.CLOSED, S.CLOSED_DELAY, "A stuck flow switch does not boil the pump", LIMITS, "In AUTO, outlets open for about the mean flow.", (STARTING, INTERLOCK),
                "Hold the flow switch so that it tells of flow (note it), close every outlet; take the time from when one pump is left.",
                "The pump stops after this, and an alarm comes.", tolerance=self._by_watch(S.CLOSED_DELAY, 10.0), also=(S.CLOSED_LOAD,),
            )  # fmt: skip
        if S.STARTS_ALARM not in self.settings:
            return
        locks = self.choices.schools.many_starts is Beyond.STOPS
        self._add(
            Check.STARTS_ALARM, f"Too many starts {'lock a pump out' if locks else 'raise an alarm'}", LIMITS, "In AUTO, at rest; note the value that must go back.", (STARTING,),
            "Set the limit to 2 starts, draw and close until one pump starts for the third time. Set it back and read it back.", f"{'That pump is given up and the next takes over' if locks else 'The alarm comes'}; the value is back.", (S.STARTS_ALARM,), self.choices.schools.many_starts,
        )  # fmt: skip

    def _failures(self) -> None:
        if hydraulics(self.survey).signal.has_live_zero:  # a dead zero reads as no pressure: nothing can be shown
            goes_on = LOST[self.survey.own_switches] if self.choices.schools.sensor_failure == "run_duty" else "All pumps stop and an alarm comes."
            self._add(Check.SENSOR_FAILURE, "Sensor failure", LIMITS, "In AUTO, a pump runs.", (STARTING,), "Unplug the discharge sensor.", goes_on, decided=self.choices.schools.sensor_failure)
        if S.REMOTE_PRESSURE in self.settings:
            self._add(
                Check.REMOTE_FAILURE, "Remote sensor failure", LIMITS, "In AUTO, mean flow.", (STARTING,),
                "Unplug the remote sensor.", "The set goes on to its own set pressure, and an alarm comes.", (S.SET_PRESSURE,),
            )  # fmt: skip
        self._number(
            Check.SLOW_FILL, S.FILL_SPEED, "Empty pipes are filled slowly", LIMITS, "Pipes drained, air let out at the top.", (STARTING, PRESSED),
            "Switch to AUTO and read the speed while it fills.", "One pump, at this speed, until the fill pressure.", tolerance=0.02,
        )  # fmt: skip
        if S.FILL_TIMEOUT in self.settings:
            ends = "The set stops, an alarm comes, and it waits for a person." if self.choices.schools.fill_end == "stop" else "The set goes on and regulates."
            self._add(
                Check.FILL_ENDS, "A fill that takes too long ends", LIMITS, "Pipes drained, a drain wide open.", (STARTING, FLOOD),
                "Switch to AUTO and wait for the fill time; shut the drain after.", ends, (S.FILL_TIMEOUT,), self.choices.schools.fill_end,
            )  # fmt: skip
