"""The proofs a lift plan needs, in the order they are made on site: water up, water down, then the functions."""

from collections.abc import Iterator

from goodbalance.core.balance.plan import Plan
from goodbalance.core.balance.proof import Answer, Proof
from goodbalance.core.control.relays import LevelRelay
from goodbalance.core.control.rotation import Alternation
from goodbalance.core.protection import proofs as protection
from goodbalance.core.protection.monitor import supply_of
from goodbalance.core.protection.names import Restart
from goodbalance.core.stations.lift.controller.relays_of_plan import relays_of
from goodbalance.core.stations.lift.names import STARTS, STOPS, Check, Outcome, Role
from goodbalance.core.stations.lift.names import SettingId as S
from goodbalance.core.stations.lift.plant.hydraulics import hydraulics
from goodbalance.core.stations.lift.plant.motors import duties
from goodbalance.core.stations.lift.proofs import each_pump, pace
from goodbalance.core.stations.lift.proofs.functions import (
    GAS,
    LIVE,
    MOVING,
    RETURNS,
    SPILL,
    drive_proofs,
    float_proofs,
    safety_proofs,
    team_proofs,
    timer_proofs,
)
from goodbalance.core.stations.lift.proofs.scenes import CYCLES
from goodbalance.core.stations.lift.survey.choices import LiftChoices
from goodbalance.core.stations.lift.survey.sensing import ControlKind
from goodbalance.core.stations.lift.survey.survey import LiftSurvey
from goodbalance.core.stations.lift.windows.float_ladder import is_alone
from goodbalance.core.stations.shared import telemetry
from goodbalance.core.stations.shared.crew_proofs import crew_proofs

BY_HAND = "In HAND no level contact stops the pump: stay beside it."
GUARDS = protection.Checks(Check.OVERLOAD, Check.UNDERLOAD, Check.RETRIES, Check.TRIES, Check.AWAKE, Check.HOT, Check.CASING)
LEADS = {
    Alternation.FIXED: "Pump 1 starts first in every cycle.",
    Alternation.RUN_HOURS: "The pump with the fewest run hours starts first.",
    Alternation.CLOCK: "The lead changes by the clock.",
}


_CALLS = {  # how a call and its end are named, and what shows them
    "call": (("calls", "Its display shows the call"), ("ends the call", "Its display shows no call any more")),
    "pump relay": (("relay pulls in", "The relay pulls in"), ("relay lets go", "The relay lets go")),
}


def proofs(survey: LiftSurvey, choices: LiftChoices, plan: Plan) -> tuple[Proof, ...]:
    """Every proof of this plan in the order it is made on site: up, down, then the functions."""
    tolerance_m = max(2.0 * choices.step_m, hydraulics(survey).reading_margin_m)
    relays = relays_of(survey, choices, plan)
    has_relays = survey.control.kind is ControlKind.RELAYS_TO_PANEL
    by_itself = survey.control.kind is ControlKind.RELAYS_ALONE
    thing = "float" if is_alone(survey) else "relay" if has_relays else "pump relay" if by_itself else "call"
    up = sorted(relays, key=lambda relay: _turn_level_m(relay, True))
    down = sorted(relays, key=lambda relay: -_turn_level_m(relay, False))
    if thing in _CALLS:  # a controller shows what it calls, not a relay's way back
        up = [relay for relay in up if not _permits(relay)]
        down = [relay for relay in down if by_itself or _permits(relay) or _alarms(relay)]
    found = [_level_proof(relay, True, tolerance_m, thing, plan) for relay in up]
    found += [_level_proof(relay, False, tolerance_m, thing, plan) for relay in down]
    found += _functions(survey, choices, plan, tolerance_m)
    found += float_proofs(survey, plan)
    found += safety_proofs(survey, choices, plan)
    found += [*drive_proofs(survey, choices, plan, tolerance_m), *pace.proofs(survey, choices, plan, tolerance_m)]
    found += team_proofs(survey, plan)
    found += telemetry.proofs(survey.telemetry, Check.FAR_END, "the high alarm", "Raise the level over the high alarm, or lift its float.")
    guards = protection.proofs(GUARDS, plan, duties(survey), survey.protection)
    return (*found, _power_return(choices), *timer_proofs(choices, plan), *_supply_proofs(survey, plan), *each_pump.proofs(survey, plan), *guards)


def _supply_proofs(survey: LiftSurvey, plan: Plan) -> Iterator[Proof]:
    """Of the monitor, where one is fitted. A pump in HAND waits for the gap after the supply too."""
    if survey.control.phase_monitor:
        yield from protection.supply_proofs(Check.SUPPLY, Check.SWAPPED, plan, supply_of(duties(survey)).three, plan.value(S.START_GAP, 0.0))


def _power_return(choices: LiftChoices) -> Proof:
    by_hand = choices.protection.power_return is Restart.BY_HAND
    action, seen = protection.returns(by_hand)
    expects = Outcome.WAITS_FOR_PERSON if by_hand else Outcome.BY_ITSELF
    title = "After a power cut nothing starts before a reset" if by_hand else "After a power cut pumps start by themselves"
    before = "In AUTO, water over the duty start; the well has room."
    return Proof(Check.POWER_RETURN, title, "Functions", before, (MOVING, LIVE, RETURNS), action, seen, Answer.YES_NO, expects=expects)


def _permits(relay: LevelRelay) -> bool:
    """Whether it stops pumps: what counts is the way down."""
    return Role(relay.role).is_stop or relay.role == Role.LOW_CUT_OUT


def _alarms(relay: LevelRelay) -> bool:
    return relay.role in (Role.HIGH_ALARM, Role.LOW_ALARM)


def _turn_level_m(relay: LevelRelay, up: bool) -> float:
    """The level at which the relay moves while the water rises (up) or falls."""
    return max(relay.on_m, relay.off_m) if up else min(relay.on_m, relay.off_m)


def _level_proof(relay: LevelRelay, up: bool, tolerance_m: float, thing: str, plan: Plan) -> Proof:
    pulls_in = relay.energises_on_rise is up
    if thing in _CALLS:
        return _call_proof(relay, up, tolerance_m, plan, _CALLS[thing])
    does = ("closes" if pulls_in else "opens") if thing == "float" else ("pulls in" if pulls_in else "lets go")
    way = "rise" if up else "fall"
    cautions = (MOVING, SPILL) if up else (MOVING,)
    ramp = "." if thing == "float" else ", or ramp it with the simulation."
    told = ", and its lamp or sounder tells of it" if relay.role == (Role.HIGH_ALARM if up else Role.LOW_ALARM) else ""
    return Proof(
        check=Check.UP if up else Check.DOWN,
        of=relay.role,
        title=f"{relay.label} {thing} {does} on the {way}",
        group="Water rising" if up else "Water falling",
        precondition=_stands(up),
        cautions=(*cautions, *(() if up else (BY_HAND,)), GAS),
        action=f"Let the level {way} slowly through this point{ramp}",
        must_see=f"The {thing} {does} at this level{told}.",
        answer=Answer.NUMBER,
        expected=_turn_level_m(relay, up),
        tolerance=tolerance_m,
        proves=(relay.role,),
    )


def _stands(up: bool) -> str:
    """How the pumps stand while the water goes through its points."""
    return "Every pump OFF." if up else "Pump 1 in HAND draws the well down, the others OFF; with a simulation every pump OFF."


def _setting_of(relay: LevelRelay, up: bool, plan: Plan) -> str:
    """The setting a contact acts on: of a pump's own relay its start on the rise, its stop on the fall."""
    role = Role(relay.role)
    if up or not role.is_start:
        return role
    stop = STOPS[role.call - 1]
    return stop if stop in plan else Role.STOP


def _call_proof(
    relay: LevelRelay, up: bool, tolerance_m: float, plan: Plan, shows: tuple[tuple[str, str], tuple[str, str]]
) -> Proof:
    """What is seen of a level that has no relay to itself: a call, a stop, an alarm that comes or clears."""
    if _alarms(relay):
        does = "comes" if (relay.role == Role.HIGH_ALARM) is up else "clears"
        title, seen = f"{relay.label} {does}", f"The alarm {does}"
    else:
        ends = _permits(relay) or not up
        does, seen = shows[ends]
        title, seen = f"{relay.label} {does}", f"{seen}, or the pump {'stops' if ends else 'starts'}"
    way = "rise" if up else "fall"
    return Proof(
        check=Check.UP if up else Check.DOWN, of=relay.role, title=f"{title} on the {way}",
        group="Water rising" if up else "Water falling",
        precondition=_stands(up), cautions=(MOVING, SPILL, GAS) if up else (MOVING, BY_HAND, GAS),
        action=f"Let the level {way} slowly through this point, or ramp it with the simulation.",
        must_see=f"{seen} at this level.", answer=Answer.NUMBER, expected=_turn_level_m(relay, up),
        tolerance=tolerance_m, proves=(_setting_of(relay, up, plan),),
    )  # fmt: skip


def _functions(survey: LiftSurvey, choices: LiftChoices, plan: Plan, tolerance_m: float) -> list[Proof]:
    first, count = survey.pumping.first_group, hydraulics(survey).duty_count
    found = _stops(survey, plan, tolerance_m)
    starts = [setting for setting in plan.group("levels") if Role(setting.id).is_start]
    for number, setting in enumerate(starts[1:], 2):
        found.append(
            Proof(
                Check.ASSIST, f"Call number {number} brings its pump at its start level", "Functions",
                "The pumps before it run and cannot hold the level.", (MOVING, SPILL, GAS),
                "Fill faster than the running pumps empty.", "The next pump in turn is called at this level, and joins as soon as the start gap allows.",
                Answer.NUMBER, setting.value, tolerance_m, proves=(setting.id,), of=str(number),
            )
        )  # fmt: skip
    turns = first or survey.pumping.turning_count
    rule = choices.schools.alternation
    if turns > 1 and rule in (Alternation.ALL_STOPPED, Alternation.EACH_STOP):
        found.append(
            Proof(
                Check.ALTERNATION, f"The duty pump changes over {CYCLES} cycles", "Functions",
                "All pumps in AUTO, all stopped.", (MOVING, GAS),
                f"Run {CYCLES} full cycles. Note which pump starts first in each.",
                "Each cycle the next pump leads.", Answer.SEQUENCE, pumps=turns, cycles=CYCLES,
            )
        )  # fmt: skip
    elif count > 1:
        lead = "Pump 1, the small one, starts first in every cycle." if turns == 1 else LEADS[rule]
        if turns > 1 and rule is Alternation.CLOCK:
            lead = f"The lead stays until {choices.rules.clock_period_s / 3600.0:g} h have passed, then changes at the next stop of all."
        found.append(
            Proof(
                Check.LEAD, "The right pump leads", "Functions", "All pumps in AUTO, all stopped.", (MOVING, GAS),
                f"Run {CYCLES} full cycles. Note which pump starts first in each.", lead, Answer.YES_NO,
                expects=Outcome.PUMP_1_LEADS if turns == 1 or rule is Alternation.FIXED else "",
            )
        )  # fmt: skip
    ids = {setting.id for setting in plan.settings}
    reached = STARTS[min(first, len(STARTS) - 1)] in ids or (is_alone(survey) and Role.HIGH_ALARM in ids)
    if first and survey.pumping.first_rests and reached:
        found.append(
            Proof(
                Check.FIRST_RESTS, "The first pumps rest while the larger ones run", "Functions",
                "All pumps in AUTO.", (MOVING, SPILL, GAS), f"Fill to the start of call {first + 1}.",
                "A larger pump starts, the first ones stop, and stay at rest until all have stopped.", Answer.YES_NO,
            )
        )  # fmt: skip
    calls = f"Fill to {f'the start of call {count}' if count > 1 else 'the duty start'}."
    crew = crew_proofs(survey.pumping, (Check.MOST_AT_ONCE, Check.STANDBY), "Functions", (MOVING, SPILL, GAS), calls)
    return found + [proof for proof in crew if proof.check == Check.STANDBY or STARTS[count - 1] in plan]  # else a timer calls them


def _stops(survey: LiftSurvey, plan: Plan, tolerance_m: float) -> list[Proof]:
    stops = [setting for setting in plan.group("levels") if Role(setting.id).is_stop]
    if len(stops) == 1:
        return [
            Proof(
                Check.COMMON_STOP, "All pumps stop together at the stop level", "Functions",
                "All pumps in AUTO and running.", (MOVING, GAS), "Let the pumps draw the well down.",
                "Every pump stops at this level, none before, none after.",
                Answer.NUMBER, stops[0].value, tolerance_m, proves=(Role.STOP,),
            )
        ]  # fmt: skip
    found = []
    for left, setting in enumerate(stops):
        rests = survey.pumping.first_group and survey.pumping.first_rests
        rest = "" if rests else f", with {left} pump{'s' if left != 1 else ''} left running"
        found.append(
            Proof(
                Check.OWN_STOP, f"At the {setting.label.lower()} one pump stops", "Functions",
                "All pumps in AUTO and running.", (MOVING, GAS), "Let the pumps draw the well down.",
                f"One pump stops at this level{rest}.",
                Answer.NUMBER, setting.value, tolerance_m, proves=(setting.id,), of=setting.id,
            )
        )  # fmt: skip
    return found[::-1]
