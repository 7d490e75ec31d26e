"""Proofs that lack of water stops a booster set and is told: by a suction sensor, a pressure switch or floats in the tank; and how the bench shows them."""

from collections.abc import Iterator

from goodbalance.core.balance.plan import Plan
from goodbalance.core.balance.proof import Answer, Proof
from goodbalance.core.balance.quantities import Quantity as Q
from goodbalance.core.rehearsal.events import Doing
from goodbalance.core.stations.booster.bench import looks
from goodbalance.core.stations.booster.bench.looks import BoosterRun
from goodbalance.core.stations.booster.controller.stops import BACK_DELAY_S, FAILURE_DELAY_S
from goodbalance.core.stations.booster.names import SHUT_PA, Act, Alarm, Check, SetFault, Stop
from goodbalance.core.stations.booster.names import SettingId as S
from goodbalance.core.stations.booster.proofs.scenes import (
    CALM_S,
    DRY,
    INTERLOCK,
    LIMITS,
    SHOCK,
    STARTING,
    Scenes,
    Shown,
    act,
)
from goodbalance.core.stations.booster.survey.choices import BoosterChoices, Reset
from goodbalance.core.stations.booster.survey.control import SuctionBy
from goodbalance.core.stations.booster.survey.supply import SupplyKind
from goodbalance.core.stations.booster.survey.survey import BoosterSurvey
from goodbalance.core.stations.shared.facts import Permits

CHECKS = (Check.LOW_SUCTION, Check.LOW_WATER, Check.WATER_BACK, Check.LOW_SUCTION_DELAY)
BY_TAPE_M, BY_GAUGE_PA = 0.03, 3e3  # of a height measured at a wet float, and of a suction read while it falls
_COMES_BACK = {
    Reset.AUTOMATIC: "It comes back at this.", Reset.BY_HAND: "It can be reset from this on.", **dict.fromkeys((Reset.TRIES, Reset.LONG_WAIT), "Once its wait is over it comes back at this."),
}  # fmt: skip
BEFORE, THROTTLE = "In AUTO, a pump runs.", "Throttle the suction valve slowly."
LOWER = "Let the water in the tank fall, or lower the float by its cable, slowly."


def proofs(survey: BoosterSurvey, choices: BoosterChoices, plan: Plan, tolerance_pa: float) -> Iterator[Proof]:
    """Where and after which time it stops, what warns before, how it comes back, and what a broken wire does."""
    if survey.control.suction_by is SuctionBy.NONE:
        return
    by_sensor = survey.control.suction_by is SuctionBy.SENSOR
    yield from _floats(survey, plan) if survey.switch_in_tank else _in_the_pipe(plan, 2.0 * tolerance_pa if by_sensor else survey.suction_switch.off_pa + BY_GAUGE_PA)
    if by_sensor and S.LOW_SUCTION_RESET in plan:
        back = _COMES_BACK[choices.schools.suction_reset]
        yield _number(Check.WATER_BACK, plan, S.LOW_SUCTION_RESET, "It comes back with the water", "Stopped by lack of water.", (STARTING,), "Open the suction valve slowly.", back, 2.0 * tolerance_pa, choices.schools.suction_reset)
    elif not by_sensor:
        yield _turns_back(choices, survey.switch_in_tank)
    if (by_sensor and S.LOW_SUCTION_STOP in plan) or (not by_sensor and survey.suction_switch.permits is Permits.CLOSED):
        yield broken_wire("suction", "suction sensor's loop" if by_sensor else "suction switch's contact")
    if S.LOW_SUCTION_DELAY in plan:
        yield _delay(survey, plan, by_sensor)


def _number(check: Check, plan: Plan, setting_id: S, title: str, before: str, cautions: tuple[str, ...], action: str, seen: str, tolerance: float, decided: str = "") -> Proof:
    setting = plan.setting(setting_id)
    return Proof(check, title, LIMITS, before, cautions, action, seen, Answer.NUMBER, setting.value, tolerance, setting.quantity, proves=(setting_id,), decided=decided)


def _in_the_pipe(plan: Plan, tolerance_pa: float) -> Iterator[Proof]:
    """At the suction gauge."""
    if S.LOW_SUCTION_ALARM in plan:
        action, seen = f"{THROTTLE} Note the suction gauge when the low alarm comes.", "It comes at this, and the pumps run on."
        yield _number(Check.LOW_WATER, plan, S.LOW_SUCTION_ALARM, "Low water is told before the set stops", BEFORE, (DRY,), action, seen, tolerance_pa)
    if S.LOW_SUCTION_STOP in plan:
        action = f"{THROTTLE} Note the suction gauge when the pumps stop."
        yield _number(Check.LOW_SUCTION, plan, S.LOW_SUCTION_STOP, "Lack of water stops the set", BEFORE, (DRY, INTERLOCK), action, "They stop at this.", tolerance_pa)


def _floats(survey: BoosterSurvey, plan: Plan) -> Iterator[Proof]:
    """At the tank."""
    off_m = survey.suction_switch.off_m + BY_TAPE_M
    if S.LOW_LEVEL_ALARM in plan:
        action, seen = f"{LOWER} Note the height at which the low alarm comes.", "It comes at this height, and the pumps run on."
        yield _number(Check.LOW_WATER, plan, S.LOW_LEVEL_ALARM, "Low water is told before the set stops", BEFORE, (INTERLOCK,), action, seen, off_m)
    if S.LOW_LEVEL_STOP in plan:
        action = f"{LOWER} Note the height at which the pumps stop."
        yield _number(Check.LOW_SUCTION, plan, S.LOW_LEVEL_STOP, "Lack of water stops the set", BEFORE, (DRY, INTERLOCK), action, "They stop at this height.", off_m)


def _turns_back(choices: BoosterChoices, in_tank: bool) -> Proof:
    by_hand = choices.schools.suction_reset is Reset.BY_HAND
    action = f"{'Let the float hang free again' if in_tank else 'Open the suction valve'}{', and press reset' if by_hand else ''}."
    seen = "The set comes back." if choices.schools.suction_reset in (Reset.BY_HAND, Reset.AUTOMATIC) else "The set comes back once its wait is over."
    return Proof(Check.WATER_BACK, "It comes back with the water", LIMITS, "Stopped by lack of water.", (STARTING,), action, seen, Answer.YES_NO, decided=choices.schools.suction_reset)


def _delay(survey: BoosterSurvey, plan: Plan, by_sensor: bool) -> Proof:
    """Water gone at once."""
    empties = by_sensor and survey.supply.kind is not SupplyKind.SUCTION_LIFT
    action = "Close the suction valve and take the time until the pumps stop."
    if empties:
        action = "Shut the cock of the suction sensor and open its vent, so that it reads nothing, as with an emptied tank or main; take the time until the pumps stop. Shut the vent, open the cock."
    elif survey.switch_in_tank:
        action = "Turn the float down by its cable and take the time until the pumps stop. Let it hang free again."
    title = "An emptied supply stops the set in time" if empties or survey.switch_in_tank else "The delay of it"
    return _number(Check.LOW_SUCTION_DELAY, plan, S.LOW_SUCTION_DELAY, title, BEFORE, (DRY,), action, "They stop after this.", max(1.0, 0.3 * plan.value(S.LOW_SUCTION_DELAY, 0.0)))


def broken_wire(of: str, name: str) -> Proof:
    """One wire off what must stop pumps."""
    return Proof(
        Check.BROKEN_WIRE, f"A broken wire of the {name} stops the set", LIMITS, "In AUTO, a pump runs; a licensed person.", (SHOCK, STARTING),
        f"Take one wire of the {name} off at its terminal; put it back after.",
        "Every pump stops. If one runs on, the contact is wired to permit when it opens: do not leave it so.",
        Answer.YES_NO, of=of,
    )  # fmt: skip


# on the bench


def shown(scenes: Scenes, proof: Proof) -> Shown | None:
    """The scene of such a proof and what to look at; None where it needs a person."""
    if proof.check == Check.LOW_SUCTION_DELAY:
        return _gone_at_once(scenes)
    if proof.check == Check.WATER_BACK:
        return _comes_back(scenes, proof)
    scene = scenes.throttled()
    if proof.check == Check.LOW_WATER:
        return scene, lambda run: _read(scenes, proof, looks.suction_at_alarm(run, Alarm.LOW_WATER, FAILURE_DELAY_S))
    return scene, lambda run: _read(scenes, proof, looks.suction_before(run, Doing.COMES, scenes.n.low_suction_delay))


def _read(scenes: Scenes, proof: Proof, suction_pa: float | None) -> float | None:
    """What a person notes: the suction gauge, or the height of the water in a tank from which nobody draws."""
    if suction_pa is None or proof.quantity is not Q.LEVEL:
        return suction_pa
    return (scenes.survey.supply.pump_m or 0.0) + scenes.hyd.head_of(suction_pa)


def _comes_back(scenes: Scenes, proof: Proof) -> Shown | None:
    if scenes.choices.schools.suction_reset is Reset.BY_HAND:
        return None
    waits_s = scenes.wanted.value(S.WATER_WAIT, 0.0)
    scene = scenes.throttled(waits_s and waits_s + CALM_S)
    if proof.answer is Answer.NUMBER:
        return scene, lambda run: looks.suction_before(run, Doing.CLEARS, BACK_DELAY_S)

    def look(run: BoosterRun) -> bool:
        suction_pa = looks.suction_before(run, Doing.CLEARS, BACK_DELAY_S)
        return suction_pa is not None and suction_pa <= scenes.hyd.source_pa(False)

    return scene, look


def _gone_at_once(scenes: Scenes) -> Shown:
    """The supply emptied; on a suction lift lost prime reads as nothing in the pipe, so there the valve is shut instead."""
    lifts = scenes.survey.supply.kind is SupplyKind.SUCTION_LIFT and not scenes.survey.switch_in_tank
    lack = act(CALM_S, Act.SUCTION, max(SHUT_PA, scenes.water_marks_pa[0] - 2e4)) if lifts else act(CALM_S, SetFault.DRY, 1.0)
    name = "suction shut at once" if lifts else "the supply runs empty"
    scene = scenes.scene(name, CALM_S + 60.0, act(1.0, Act.OUTLETS, scenes.mean), lack)
    return scene, lambda run: looks.minus(looks.stop_at(run, Stop.LOW_SUCTION), CALM_S)
