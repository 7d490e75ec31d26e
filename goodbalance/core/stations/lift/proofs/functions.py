"""Proofs of what is not a level: floats behind a sensor, alarms and protections, timers."""

from dataclasses import replace

from goodbalance.core.balance.plan import Plan
from goodbalance.core.balance.proof import Answer, Proof
from goodbalance.core.balance.quantities import Quantity as Q
from goodbalance.core.control.contacts import Takes
from goodbalance.core.control.level_drive import OutsideLost
from goodbalance.core.control.trips import Beyond
from goodbalance.core.stations.lift.controller.guards import guards_of
from goodbalance.core.stations.lift.controller.logic import DOUBT_M
from goodbalance.core.stations.lift.names import Check, GuardContact, Outcome, Role, role_of
from goodbalance.core.stations.lift.names import SettingId as S
from goodbalance.core.stations.lift.plant.hydraulics import hydraulics
from goodbalance.core.stations.lift.survey.choices import (
    AlarmLamp,
    AlarmRelay,
    AlarmReset,
    AlarmSounder,
    LiftChoices,
    ManyStarts,
    OnSensorFailure,
    SealLeak,
)
from goodbalance.core.stations.lift.survey.level_sensor import LostEcho, SensorKind
from goodbalance.core.stations.lift.survey.sensing import ControlKind
from goodbalance.core.stations.lift.survey.survey import LiftSurvey
from goodbalance.core.stations.lift.survey.team import Inputs, LinkLost
from goodbalance.core.stations.lift.windows.float_ladder import is_alone

STOPPING = {GuardContact.LOW_FLOAT: "separate low-level float", GuardContact.PHASE: "phase monitor", GuardContact.RUN: "outside run contact"}
MOVING = "Pumps start without warning: stand clear, keep hands off rotating parts."
GAS = "Work from above. No entry into the well without permit, gas test and attendant."
SPILL = "Watch the overflow: stop the filling before it."
LIVE = "The panel is live: licensed people only, prove dead before touching a terminal."
RETURNS = "Nobody near the pumps: they start by themselves when the supply returns."

COUNTED = 0.5  # starts are counted, not measured
SPEED_SHARE = 0.015  # how far off a speed may be read
SEAL_SHARE = 0.15  # how far off the dial of a seal relay may be
OUTSIDE_SEEN = {
    OutsideLost.FULL: ("The drives go to full speed.", Outcome.FULL_SPEED),
    OutsideLost.HOLD: ("The drives keep the speed they had.", Outcome.SPEED_HELD),
    OutsideLost.LEAST: ("The drives go to their least speed.", Outcome.LEAST_SPEED),
}
FLOAT_DOES = {
    Role.LOW_ALARM: ("Turn this float down by its cable.", "The low alarm comes."),
    Role.STOP: ("With the sensor out and a pump running by floats, turn this float down.", "Every pump stops."),
    Role.START_1: (
        "With the sensor out, lift this float by its cable.",
        "The duty pump starts and runs on until the stop.",
    ),
    Role.START_2: ("With the sensor out and the duty pump running, lift this float.", "The assist joins."),
    Role.START_3: ("With the sensor out and two pumps running, lift this float.", "The third pump joins."),
    Role.START_4: ("With the sensor out and three pumps running, lift this float.", "The fourth pump joins."),
    Role.HIGH_ALARM: (
        "Lift this float by its cable.",
        "The high alarm comes and every pump in AUTO starts, one gap apart.",
    ),
}


def _yes(
    check: Check, title: str, before: str, cautions: tuple[str, ...], action: str, seen: str,
    proves: tuple[str, ...] = (), of: str = "", expects: str = "", decided: str = "",
) -> Proof:  # fmt: skip
    return Proof(check, title, "Functions", before, cautions, action, seen, Answer.YES_NO, proves=proves, of=of, expects=expects, decided=decided)


def float_proofs(survey: LiftSurvey, plan: Plan) -> list[Proof]:
    """Each float behind a sensor by itself, then the floats' turn when the sensor is out."""
    found = []
    for setting in plan.group("floats"):
        role = role_of(setting.id)
        action, seen = FLOAT_DOES[role]
        title = f"{setting.label} acts"
        before = "All pumps in AUTO, at rest, water above the stop level."
        found.append(_yes(Check.FLOAT, title, before, (MOVING, GAS), action, seen, (setting.id,), of=role))
    return found


def safety_proofs(survey: LiftSurvey, choices: LiftChoices, plan: Plan) -> list[Proof]:
    """High alarm, sensor failure, low-level float, phases, seals, and how alarms clear."""
    found = []
    has_high = any(setting.id == Role.HIGH_ALARM for setting in plan.settings)
    by_hand = choices.schools.alarm_reset is AlarmReset.BY_HAND
    if has_high:
        clears = "stay until somebody presses reset, then clear." if by_hand else "all clear on the way down."
        found.append(
            _yes(
                Check.HIGH_ALARM_CLEARS, "High alarm comes, is heard, and clears",
                "Whoever answers the alarm knows that you are testing.", (SPILL, GAS),
                "Raise the level over the high alarm, silence it, lower the level again.",
                f"{_shown(choices)} {_relay_does(survey, choices)}The person answering gets the call; {clears}",
                (Role.HIGH_ALARM,), expects=Outcome.WAITS_FOR_RESET if by_hand else Outcome.CLEARS_ITSELF,
                decided=" ".join((choices.schools.alarm_lamp, choices.schools.alarm_sounder, choices.schools.alarm_relay)),
            )
        )  # fmt: skip
        if survey.control.kind is not ControlKind.RELAYS_ALONE:
            found.append(
                _yes(
                    Check.ALARM_TELLS, "A new alarm is seen and heard as chosen", "Whoever answers the alarm knows that you are testing.", (SPILL, GAS),
                    "Raise the level over the high alarm and look and listen before anybody touches a key.", _shown(choices), (Role.HIGH_ALARM,),
                    expects=f"{choices.schools.alarm_lamp}_{choices.schools.alarm_sounder}",
                )
            )  # fmt: skip
    if survey.sensor is not None:
        found.append(_sensor_failure(survey, choices, plan))
        if survey.sensor.kind is SensorKind.LOOK_DOWN:
            found += [_lost_echo(survey, found[-1]), _false_echo(choices, plan)]
    if survey.demands.low_float:
        found.append(
            _yes(
                Check.LOW_FLOAT, "The separate low-level float stops every pump", "A pump runs in AUTO.", (MOVING, GAS),
                "Turn the low-level float down by its cable.", "Every pump stops, whatever the level controller says.",
                (Role.LOW_CUT_OUT,) if Role.LOW_CUT_OUT in plan else (),
            )
        )  # fmt: skip
    if survey.control.phase_monitor:
        found.append(
            _yes(
                Check.PHASE, "A lost phase stops every pump", "A pump runs in AUTO.", (LIVE, RETURNS),
                "Take one fuse of the monitor's own circuit out; put it back after.",
                "Every pump stops, the alarm comes; with the phase back the pumps return one gap apart.",
            )
        )  # fmt: skip
    found += _outside_proofs(survey, plan)
    found += _broken_wires(survey, plan)
    if survey.control.seal_probes:
        stops = " and its pump stops until it is turned to OFF" if choices.schools.seal_leak is SealLeak.STOP else ""
        found.append(
            _yes(
                Check.SEAL, "A wet seal probe is noticed", "Pump isolated and locked.", (LIVE,),
                "Bridge the probe's two terminals with its test resistor; take it off again, and list it until it is off.",
                f"No alarm before, and the seal alarm comes{stops}.", (S.SEAL_LIMIT,) if S.SEAL_LIMIT in plan else (), expects=Outcome.PUMP_STOPS if stops else Outcome.ALARM_ONLY,
            )
        )  # fmt: skip
        found += _seal_limit(plan)
    return found


def _seal_limit(plan: Plan) -> list[Proof]:
    """At which resistance the seal relay takes a chamber for wet, where it has a dial."""
    limit_ohm = plan.value(S.SEAL_LIMIT, 0.0)
    if not limit_ohm:
        return []
    return [
        Proof(
            Check.SEAL, "The seal relay's threshold", "Functions", "Pump isolated and locked, the probe's leads off at the panel.", (LIVE,),
            "A resistance box in place of the probe: turn it down from dry until the alarm comes. Probe back, box off.", "The alarm comes at this resistance.", Answer.NUMBER,
            limit_ohm, SEAL_SHARE * limit_ohm, Q.RESISTANCE, proves=(S.SEAL_LIMIT,), of="limit",
        )
    ]  # fmt: skip


def _outside_proofs(survey: LiftSurvey, plan: Plan) -> list[Proof]:
    """The run command from outside, the switch that keeps it out, and pumps that turn backwards."""
    control, found = survey.control, []
    told = ("Whoever commands from outside knows that you are testing.",)
    if control.run_contact:
        found.append(
            _yes(
                Check.RUN_CONTACT, "The outside run contact stops every pump", "A pump runs in AUTO, the switch in remote.", (MOVING, *told),
                "Let the outside take its run command away; give it back after.", "Every pump in AUTO stops, and comes back by level.",
            )
        )  # fmt: skip
    if control.local_remote and control.run_contact:
        found.append(
            _yes(
                Check.LOCAL, "In local the outside is not obeyed", "A pump runs in AUTO, the switch in local.", (MOVING, *told),
                "Let the outside take its run command away; give it back, and turn the switch to remote after.", "The pump runs on: in local only the levels count.",
            )
        )  # fmt: skip
    if control.backwards_contact:
        found.append(
            _yes(
                Check.BACKWARDS, "A pump that turns backwards is not started", "All pumps in AUTO, at rest.", (MOVING, GAS),
                "Close the backspin contact of the pump whose turn it is by hand, as when it turns backwards, and let the level call.",
                "That pump waits, the next takes its place; with the contact back it is in turn again.",
            )
        )  # fmt: skip
    return found


def _shown(choices: LiftChoices) -> str:
    """How a new alarm shows itself, and what silencing does."""
    flashes, sounds = choices.schools.alarm_lamp is AlarmLamp.FLASHING, choices.schools.alarm_sounder is AlarmSounder.SOUNDER
    lamp, sounder = "The lamp flashes" if flashes else "The lamp stands steady", " and the sounder comes" if sounds else ", and nothing is heard"
    after = "; silenced, the lamp stands" if flashes and sounds else "; silenced, the sounder is off" if sounds else "; seen, it stands" if flashes else ""
    return f"{lamp}{sounder}{after}."


def _relay_does(survey: LiftSurvey, choices: LiftChoices) -> str:
    """Which way the alarm output works, where there is one: the other way looks the same until the supply fails."""
    if is_alone(survey):
        return ""
    return "Its alarm output drops out, as without supply. " if choices.schools.alarm_relay is AlarmRelay.IN_HEALTH else "Its alarm output pulls in. "


def _broken_wires(survey: LiftSurvey, plan: Plan) -> list[Proof]:
    """One wire off each contact that must stop pumps: a broken wire has to do what the contact does when it opens."""
    contacts = []
    if is_alone(survey):
        contacts = [(setting.id, setting.label.lower()) for setting in plan.group("levels") if Role(setting.id) is Role.STOP]
    elif survey.control.kind is ControlKind.RELAYS_TO_PANEL:
        contacts = [
            (setting.id, setting.label.lower()) for setting in plan.group("levels")
            if Role(setting.id) in (Role.LOW_CUT_OUT, Role.STOP)
        ]  # fmt: skip
    built = guards_of(survey).fitted  # one that is open while all is well cannot tell a broken wire: a finding says so
    contacts += [(guard.value, label) for guard, label in STOPPING.items() if built.get(guard) is Takes.CLOSED]
    return [
        _yes(
            Check.BROKEN_WIRE, f"A broken wire of the {label} stops every pump", "A pump runs in AUTO.", (LIVE, MOVING),
            f"Take one wire of the {label}'s contact off at its terminal; put it back after.",
            "Every pump stops. If one runs on, the contact is wired to permit when it opens: do not leave it so.", of=name,
        )
        for name, label in contacts
    ]  # fmt: skip


def _sensor_failure(survey: LiftSurvey, choices: LiftChoices, plan: Plan) -> Proof:
    stops = choices.schools.sensor_failure is OnSensorFailure.STOP_ALL
    must_see = "All pumps stop, the high alarm comes." if stops else "The duty pump runs, the high alarm comes."
    expects = Outcome.ALL_STOP if stops else Outcome.DUTY_RUNS
    if survey.control.has_floats:
        must_see, expects = "The high alarm comes and the floats take over: pumps start and stop by them.", Outcome.FLOATS_TAKE_OVER
    if not hydraulics(survey).signal.has_live_zero:
        must_see = "All pumps stop, the low alarm comes: a lost signal reads as an empty well and is not told apart."
        expects = Outcome.ALL_STOP
        if _float_contradicts(survey, plan):
            expects = Outcome.FLOATS_TAKE_OVER
            must_see = "All pumps stop, as over an empty well; a float in the water contradicts it, and within seconds the floats take over and the alarm comes."
    if survey.control.kind in (ControlKind.RELAYS_TO_PANEL, ControlKind.RELAYS_ALONE) and hydraulics(survey).signal.has_live_zero and not survey.control.has_floats:
        must_see += " Each relay then stands as the map of relays says."
    alone = () if stops or survey.control.has_floats else ("Stay at the pump: stop it before it runs dry.",)
    return _yes(
        Check.SENSOR_FAILURE, "A lost level signal is noticed", "A pump runs in AUTO.", (LIVE, MOVING, *alone),
        "Take one wire of the sensor loop off at its isolating terminal; put it back after.",
        must_see + " All returns when the wire is back.", expects=expects,
    )  # fmt: skip


def _lost_echo(survey: LiftSurvey, failure: Proof) -> Proof:
    """What a look-down sensor does without an echo: as set in it, and then as with a lost signal, or nothing that anybody sees."""
    sensor = survey.sensor
    waits_s = 0.0 if sensor is None else sensor.lost_echo_s
    action = "From above, turn the sensor away from the water or hang a soft blanket below it; put it back after."
    if sensor is None or sensor.lost_echo is LostEcho.FAIL:
        seen = f"Within {waits_s:g} s and what the controller waits: {failure.must_see[0].lower()}{failure.must_see[1:]}"
        return _yes(Check.LOST_ECHO, "A lost echo is noticed", failure.precondition, failure.cautions, action, seen, expects=failure.expects)
    return _yes(
        Check.LOST_ECHO, "A lost echo holds the reading", failure.precondition, (*failure.cautions, SPILL), action,
        "The reading stands still, and no alarm comes: stay until the echo is back.", expects=Outcome.READING_HELD,
    )  # fmt: skip


def _false_echo(choices: LiftChoices, plan: Plan) -> Proof:
    """Foam and falling water: as long as a false echo lasts, nothing may start for it."""
    rates = tuple(one for one in (S.BELIEVED_RATE, S.FILL_RATE) if one in plan)
    return _yes(
        Check.FALSE_ECHO, "A false echo starts nothing", "All pumps in AUTO, at rest, the water one step under the duty start.", (MOVING, GAS),
        f"Hold a board under the sensor, well over the duty start, for {choices.rules.false_echo_s:g} s; take it away.", "No pump starts.", rates,
    )  # fmt: skip


def _float_contradicts(survey: LiftSurvey, plan: Plan) -> bool:
    """Whether a float that hangs in the water of a running pump tells a broken wire from an empty well."""
    hyd = hydraulics(survey)
    reads_m = hyd.scaling.value(hyd.signal.low)
    wet_m = [float_.value - survey.control.swing_m for float_ in plan.group("floats")]
    return any(reads_m + DOUBT_M < height_m < plan.value(Role.STOP, 0.0) - survey.control.swing_m for height_m in wet_m)


def team_proofs(survey: LiftSurvey, plan: Plan) -> list[Proof]:
    """What drives that decide by themselves do without their leader, their link, or one of their inputs."""
    team, count = survey.team, survey.pumping.count
    if survey.control.kind is not ControlKind.DRIVES_ALONE or count < 2:
        return []
    before = "All drives in AUTO, a pump runs."
    leads = "Another drive takes the lead, tells of the silent one, and a pump runs." if team.takes_over else "Nobody leads: after the delay every pump stops, and the silent drive is told of."
    found = [
        _yes(
            Check.NODE, "The leading drive falls silent", before, (LIVE, MOVING, RETURNS), "Isolate drive 1 while it leads; put it back after.",
            leads, (S.TAKEOVER,) if S.TAKEOVER in plan and team.takes_over else (), expects=Outcome.ANOTHER_LEADS if team.takes_over else Outcome.ALL_STOP,
        )
    ]  # fmt: skip
    each = team.link_lost is LinkLost.ALONE and team.inputs is not Inputs.TOLD and hydraulics(survey).duty_count > 1
    seen = "Each drive goes on by its own start and stop: past the second start two pumps run." if each else "Drive 1 goes on by its own start and stop, the others stand."
    found.append(
        _yes(
            Check.LINK, "The link between the drives is off", before, (LIVE, MOVING, SPILL), f"Take the link off at drive 1 with water over the {'second' if each else 'duty'} start; put it back after.",
            f"{seen} The alarm comes at every drive.", expects=Outcome.EACH_ALONE if each else Outcome.LEADER_ALONE,
        )
    )  # fmt: skip
    if team.inputs is Inputs.OWN:
        serves = "Another drive's reading serves, the pumps go on, and the lost input is told of." if team.failover else "The team stops as with a lost level, and the lost input is told of."
        found.append(
            _yes(
                Check.INPUT, "The leading drive's own level input is lost", before, (LIVE, MOVING), "Take one wire of drive 1's level input off; put it back after.",
                serves, expects=Outcome.ANOTHER_READS if team.failover else Outcome.ALL_STOP,
            )
        )  # fmt: skip
    return [replace(proof, group="Drives") for proof in found]


def drive_proofs(survey: LiftSurvey, choices: LiftChoices, plan: Plan, tolerance_m: float) -> list[Proof]:
    """Speeds by level, the economical one, and those that an outside signal says."""
    found = []
    before = "A pump runs in AUTO, its drive's display in sight."
    knows = survey.sensor is not None  # without a level the drives run at full speed whatever is set
    if knows and S.FULL_SPEED_LEVEL in plan:
        level_m = plan.value(S.FULL_SPEED_LEVEL, 0.0)
        falling = level_m <= plan.value(Role.START_1, 0.0) and S.ECONOMICAL_SPEED not in plan  # each start finds the water over it
        way = ("Let the pump draw the water slowly down through this point.", "The drive leaves full speed at this level, and not before.") if falling else (
            "Let a little more flow in than one pump takes, so that the level rises slowly through this point.", "The drive is told full speed at this level, and not before.",
        )  # fmt: skip
        found.append(
            Proof(
                Check.FULL_SPEED, "The drives are at full speed from the full-speed level up", "Drives", before, (MOVING, SPILL, GAS), *way,
                Answer.NUMBER, level_m, tolerance_m, proves=(S.FULL_SPEED_LEVEL,), of="falling" if falling else "",
            )
        )  # fmt: skip
    if knows and S.ECONOMICAL_SPEED in plan:
        found.append(
            Proof(
                Check.ECONOMICAL, "Below that level the drive keeps its economical speed", "Drives", before, (MOVING, GAS),
                "Let less flow in than one pump takes at this speed, and read the drive's display once its ramp is over.",
                "It shows this speed.", Answer.NUMBER, plan.value(S.ECONOMICAL_SPEED, 0.0), SPEED_SHARE, Q.PERCENT, proves=(S.ECONOMICAL_SPEED,),
            )
        )  # fmt: skip
    if S.OUTSIDE_ZERO_SPEED not in plan:
        return found
    ends = plan.value(S.OUTSIDE_ZERO_SPEED, 0.0), plan.value(S.OUTSIDE_FULL_SPEED, 1.0)
    for share, expected, proves in ((0.0, ends[0], S.OUTSIDE_ZERO_SPEED), (1.0, ends[1], S.OUTSIDE_FULL_SPEED)):
        at = "empty" if share == 0.0 else "full"
        found.append(
            Proof(
                Check.OUTSIDE, f"At {at} signal the drives turn as it stands for", "Drives", before, (MOVING, GAS),
                f"Give the {at} end of the outside signal with a loop calibrator, or let the works give it.", "The drive shows this speed once its ramp is over.",
                Answer.NUMBER, expected, SPEED_SHARE, Q.PERCENT, proves=(proves,), of=at,
            )
        )  # fmt: skip
    lost = choices.schools.outside_lost
    seen, expects = OUTSIDE_SEEN[lost]
    proof = _yes(Check.OUTSIDE_LOST, "A lost speed signal does what was chosen", before, (LIVE, MOVING), "Take one wire of the outside signal off; put it back after.", f"{seen} All returns when the wire is back.", expects=expects)
    return [*found, replace(proof, group="Drives")]


def timer_proofs(choices: LiftChoices, plan: Plan) -> list[Proof]:
    """Each timer by the watch, with what a hand and an eye can tell apart as tolerance."""
    cautions: dict[str, tuple[str, ...]] = {S.START_GAP: (RETURNS,), S.FEEDBACK_LOST: (LIVE, MOVING)}
    before: dict[str, str] = {
        S.START_GAP: "All pumps called in AUTO; the supply stays off for longer than the least rest.",
        S.FEEDBACK_LOST: "A pump runs in AUTO.",
        S.LONGEST_RUN: "A pump runs in AUTO; note the value that must go back.",
        S.STARTS_LIMIT: "All pumps in AUTO, the level over the duty start; note the value that must go back.",
    }
    locks, passes = choices.schools.many_starts is ManyStarts.STOPS, choices.schools.long_run is Beyond.STOPS
    after: dict[str, str] = {
        S.LONGEST_RUN: f"{'The turn passes, the' if passes else 'It runs on, the'} alarm comes, and the value is back.",
        S.STARTS_LIMIT: f"It starts as often as it is set to; then {'it is locked out, the next takes over' if locks else 'it starts on'}, and the alarm comes. The value is back.",
    }
    follows: dict[str, str] = {S.LONGEST_RUN: choices.schools.long_run, S.STARTS_LIMIT: choices.schools.many_starts}
    found = []
    for setting in plan.group("timers"):
        if setting.quantity not in (Q.TIME, Q.DURATION, Q.STARTS) or setting.value <= 0.0:
            continue
        by_watch = setting.id != S.LONGEST_RUN
        found.append(
            Proof(
                Check.TIMER, setting.label, "Timers", before.get(setting.id, "All pumps in AUTO."),
                (*cautions.get(setting.id, (MOVING,)), *(() if by_watch else (SPILL,))),
                setting.proved_by, after.get(setting.id, "It takes this long by the watch."),
                Answer.NUMBER if by_watch else Answer.YES_NO, setting.value, COUNTED if setting.quantity is Q.STARTS else max(2.0, 0.1 * setting.value),
                setting.quantity, proves=(setting.id,), of=setting.id, decided=follows.get(setting.id, ""),
            )
        )  # fmt: skip
    return found
