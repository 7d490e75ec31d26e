"""The proofs a lift plan needs: every level up and down, stop, assist, alternation, alarm, sensor failure."""

from goodbalance.core.balance.plan import Plan
from goodbalance.core.balance.proof import Answer, Proof
from goodbalance.core.control.latch_panel import Alternation
from goodbalance.core.control.relays import LevelRelay
from goodbalance.core.stations.lift.choices import LiftChoices, OnSensorFailure
from goodbalance.core.stations.lift.hydraulics import hydraulics
from goodbalance.core.stations.lift.logic import relays_of
from goodbalance.core.stations.lift.survey import LiftSurvey

CYCLES = 3

MOVING = "Pumps start without warning: stand clear, keep hands off rotating parts."
GAS = "Work from above. No entry into the well without permit, gas test and attendant."
SPILL = "Watch the overflow: stop the filling before it."
LIVE = "The panel is live: licensed people only, prove dead before touching a terminal."

LEADS = {
    Alternation.FIXED: "Pump 1 starts first in every cycle.",
    Alternation.RUN_HOURS: "The pump with the fewest run hours starts first.",
    Alternation.CLOCK: "The lead stays until the set time has passed, then changes at the next stop of all.",
}


def proofs(survey: LiftSurvey, choices: LiftChoices, plan: Plan) -> tuple[Proof, ...]:
    """Every proof of this plan in the order it is made on site: up, down, then the functions."""
    tolerance_m = max(2.0 * choices.step_m, hydraulics(survey).reading_margin_m)
    relays = relays_of(plan, choices)
    up = sorted(relays, key=lambda relay: _turn_level_m(relay, True))
    down = sorted(relays, key=lambda relay: -_turn_level_m(relay, False))
    found = [_level_proof(relay, True, tolerance_m) for relay in up]
    found += [_level_proof(relay, False, tolerance_m) for relay in down]
    return (*found, *_functions(survey, choices, plan, tolerance_m))


def _turn_level_m(relay: LevelRelay, up: bool) -> float:
    """The level at which the relay moves while the water rises (up) or falls."""
    return max(relay.on_m, relay.off_m) if up else min(relay.on_m, relay.off_m)


def _level_proof(relay: LevelRelay, up: bool, tolerance_m: float) -> Proof:
    pulls_in = relay.energises_on_rise is up
    does = "pulls in" if pulls_in else "lets go"
    way = "rise" if up else "fall"
    cautions = (MOVING, SPILL) if up else (MOVING,)
    return Proof(
        id=f"{'up' if up else 'down'}_{relay.role}",
        title=f"{relay.label} relay {does} on the {way}",
        group="Water rising" if up else "Water falling",
        precondition="Pumps in OFF, or in AUTO when real water is used.",
        cautions=(*cautions, GAS),
        action=f"Let the level {way} slowly through this point, or ramp it with the simulation.",
        must_see=f"The relay {does} at this level.",
        answer=Answer.NUMBER,
        expected=_turn_level_m(relay, up),
        tolerance=tolerance_m,
        proves=(relay.role,),
    )


def _functions(survey: LiftSurvey, choices: LiftChoices, plan: Plan, tolerance_m: float) -> list[Proof]:
    count = hydraulics(survey).duty_count
    found = [
        Proof(
            "common_stop", "All pumps stop together at the stop level", "Functions",
            "All pumps in AUTO and running.", (MOVING, GAS), "Let the pumps draw the well down.",
            "Every pump stops at this level, none before, none after.",
            Answer.NUMBER, plan.setting("stop").value, tolerance_m, proves=("stop",),
        )
    ]  # fmt: skip
    for number in range(2, count + 1):
        setting = plan.setting(f"start_{number}")
        found.append(
            Proof(
                f"assist_{number}", f"Pump number {number} joins at its start level", "Functions",
                "The pumps before it run and cannot hold the level.", (MOVING, SPILL, GAS),
                "Fill faster than the running pumps empty.", "The next pump in turn joins at this level.",
                Answer.NUMBER, setting.value, tolerance_m, proves=(setting.id,),
            )
        )  # fmt: skip
    if count > 1 and choices.schools.alternation is Alternation.ALL_STOPPED:
        found.append(
            Proof(
                "alternation", f"The duty pump changes over {CYCLES} cycles", "Functions",
                "All pumps in AUTO, all stopped.", (MOVING, GAS),
                f"Run {CYCLES} full cycles. Note which pump starts first in each.",
                "Each cycle the next pump leads.", Answer.SEQUENCE, pumps=count, cycles=CYCLES,
            )
        )  # fmt: skip
    if count > 1 and choices.schools.alternation in LEADS:
        found.append(
            Proof(
                "lead", "The right pump leads", "Functions", "All pumps in AUTO, all stopped.", (MOVING, GAS),
                f"Run {CYCLES} full cycles. Note which pump starts first in each.",
                LEADS[choices.schools.alternation], Answer.YES_NO,
            )
        )  # fmt: skip
    if survey.pumping.standby:
        found.append(
            Proof(
                "standby", "The standby pump takes over", "Functions", "All pumps in AUTO, the duty pump runs.",
                (MOVING, GAS), "Turn the running pump to OFF; fill to the duty start again if it stopped.",
                "The next pump takes the call; with all duty pumps in OFF the standby runs.", Answer.YES_NO,
            )
        )  # fmt: skip
    found.append(
        Proof(
            "high_alarm_clears", "High alarm comes, is heard, and clears", "Functions",
            "Whoever answers the alarm knows that you are testing.", (SPILL, GAS),
            "Raise the level over the high alarm, silence it, lower the level again.",
            "Lamp and sounder come, the person answering gets the call, all clear on the way down.",
            Answer.YES_NO, proves=("high_alarm",),
        )
    )  # fmt: skip
    stops = choices.schools.sensor_failure is OnSensorFailure.STOP_ALL
    must_see = "All pumps stop, the high alarm comes." if stops else "The duty pump runs, the high alarm comes."
    if not hydraulics(survey).signal.has_live_zero:
        must_see = "All pumps stop, the low alarm comes: a lost signal reads as an empty well and is not told apart."
    found.append(
        Proof(
            "sensor_failure", "A lost level signal is noticed", "Functions",
            "A pump runs in AUTO.", (LIVE, MOVING, *(() if stops else ("Stay at the pump: stop it before it runs dry.",))),
            "Take one wire of the sensor loop off at its isolating terminal; put it back after.",
            must_see + " All returns when the wire is back.", Answer.YES_NO,
        )
    )  # fmt: skip
    if survey.demands.low_float:
        found.append(
            Proof(
                "low_float", "The separate low-level float stops every pump", "Functions",
                "A pump runs in AUTO.", (MOVING, GAS), "Turn the low-level float down by its cable.",
                "Every pump stops, whatever the level controller says.", Answer.YES_NO, proves=("low_cut_out",),
            )
        )  # fmt: skip
    return found
