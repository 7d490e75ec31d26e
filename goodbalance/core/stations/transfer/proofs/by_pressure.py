"""Proofs of filling by pressure: it stops, holds, waits and starts again; and how the bench shows them."""

import math
from collections.abc import Iterator

from goodbalance.core.balance.plan import Plan
from goodbalance.core.balance.proof import Answer, Proof
from goodbalance.core.balance.quantities import Quantity as Q
from goodbalance.core.protection.names import Restart, Watching
from goodbalance.core.rehearsal.proving import OFF
from goodbalance.core.stations.transfer.bench import looks
from goodbalance.core.stations.transfer.bench.looks import TransferRun
from goodbalance.core.stations.transfer.names import Act, Check
from goodbalance.core.stations.transfer.names import SettingId as S
from goodbalance.core.stations.transfer.plant.closing import shock_pa, worst_closing
from goodbalance.core.stations.transfer.plant.hydraulics import TransferHydraulics, hydraulics
from goodbalance.core.stations.transfer.plant.plant import TWICE_G, VALVE_HEADS
from goodbalance.core.stations.transfer.proofs.scenes import (
    AT_ONCE_S,
    HEAT,
    LINE,
    PRESSED,
    SETTLES_S,
    STARTING,
    Scenes,
    Shown,
    act,
)
from goodbalance.core.stations.transfer.survey.choices import AfterCut, DelayFrom, RestartBy, TransferChoices
from goodbalance.core.stations.transfer.survey.survey import TransferSurvey

CHECKS = (Check.STOPS, Check.OVERSHOOT, Check.HOLDS, Check.RESTARTS, Check.DELAY, Check.FORCED, Check.DELAY_AFTER_CUT)
HOLDS_S, CUT_S = 600.0, 20.0  # how long the line must hold; how long the supply is away
FASTER, STEP_S, STEP_M, LAST = 1.03, 4.0, 0.15, 0.995  # a valve closed by hand: by how much a step may lift its ratio, or the pressure; shut but for a hair
BLEEDS_PAS = 400.0  # how fast the closed line is let down by hand
NEAR_PA, NEAR_SHARE, LEAST_S = 5e3, 0.03, 4.0
KEPT_SHARE = 0.5  # of the delay, after which the supply is cut


def proofs(survey: TransferSurvey, choices: TransferChoices, plan: Plan) -> Iterator[Proof]:
    """The line from stop to restart."""
    hyd, stop_pa = hydraulics(survey), plan.value(S.STOP_PRESSURE, 0.0)
    off_pa = NEAR_PA + 3.0 * survey.sensor.noise_pa + survey.sensor.error_share * survey.sensor.range_pa
    yield Proof(
        Check.STOPS, "It stops at the stop pressure", LINE, "In AUTO, one pump fills; any other in OFF.", (HEAT, PRESSED), "Close the valve at the pumps slowly, so that the gauge climbs by no more than a step at a time, and read it when the pump stops.",
        "The pump stops at this pressure. If it climbs on and does not stop, open the valve again within seconds.",
        Answer.NUMBER, stop_pa, off_pa + 5e3, Q.PRESSURE, proves=(S.STOP_PRESSURE,),
    )  # fmt: skip
    worst = worst_closing(hyd, stop_pa)
    most_pa = stop_pa + worst.past_pa + max(shock_pa(hyd, tank) for tank in range(len(hyd.branches)))
    yield Proof(
        Check.OVERSHOOT, "The pressure goes no further past the stop than reckoned", LINE, "A pump fills; a gauge with a drag hand, or somebody who watches it.", (PRESSED,),
        "Let the tank's own valve close and read the highest pressure.", f"It stays under {most_pa / 1e5:.2f} bar ({most_pa / 6894.757:.0f} psi). More: a shock, a slow contactor, a filter too long.", Answer.YES_NO, proves=(S.STOP_PRESSURE,),
    )  # fmt: skip
    holds_s = holding_s(survey, plan)
    yield Proof(
        Check.HOLDS, "The closed line holds", LINE, "Every valve shut, the pump has stopped; nobody draws.", (PRESSED,), f"Read the gauge for {holds_s / 60.0:.0f} min.",
        "No pump starts. It sags: a leak, a foot valve or check valve that passes.", Answer.YES_NO,
    )  # fmt: skip
    delay_s = plan.value(S.RESTART_DELAY, 0.0)
    near_s = max(LEAST_S, NEAR_SHARE * delay_s)
    if choices.schools.restart_by is RestartBy.PRESSURE_AND_TIME:
        yield Proof(
            Check.RESTARTS, "The delay begins at the restart pressure", LINE, "Every valve shut, the pump has stopped.", (STARTING, PRESSED), "Let water out at the gauge cock, slowly, and read the pressure at which the display says that a delay counts, or at which the pump starts where the delay was over.",
            "The delay begins to count at this pressure.", Answer.NUMBER, plan.value(S.RESTART_PRESSURE, 0.0), off_pa, Q.PRESSURE, proves=(S.RESTART_PRESSURE,),
        )  # fmt: skip
    begins = "the pump's stop" if choices.schools.delay_from is DelayFrom.STOP or choices.schools.restart_by is RestartBy.TIME_ALONE else "the moment the display says that a delay counts"
    yield Proof(
        Check.DELAY, "It starts again after its delay", LINE, "The pump has stopped.", (STARTING,), f"Let the pressure fall under the restart at once and take the time from {begins} until the pump starts. (To be done sooner turn it down; put it back after.)",
        "It starts after this time.", Answer.NUMBER, delay_s, near_s, Q.DURATION, proves=(S.RESTART_DELAY,),
    )  # fmt: skip
    yield Proof(Check.FORCED, "Start does not wait", LINE, "The delay counts.", (STARTING,), "Press start.", "A pump starts at once and fills until the stop pressure.", Answer.YES_NO)
    after, left_s = choices.schools.after_cut, after_cut_s(choices, delay_s)
    text = {AfterCut.ANEW: "It begins anew.", AfterCut.KEPT: "It goes on from where it stood.", AfterCut.SKIPPED: "The pump starts at once."}[after]
    yield Proof(
        Check.DELAY_AFTER_CUT, "What a power cut does to the delay", LINE, "The delay counts, half of it is over.", (STARTING,),
        f"Switch the supply off for {CUT_S:.0f} s and on again; {from_when(choices, plan)}take the time from then until a pump starts.", f"{text} It starts after this time.", Answer.NUMBER, left_s, max(LEAST_S, NEAR_SHARE * delay_s), Q.DURATION, proves=(S.RESTART_DELAY,), decided=choices.schools.after_cut,
    )  # fmt: skip


def holding_s(survey: TransferSurvey, plan: Plan) -> float:
    """How long the closed line must hold: ten minutes, or half of what its known leak leaves. [s]"""
    sags_s = hydraulics(survey).sags_s(plan.value(S.STOP_PRESSURE, 0.0), plan.value(S.RESTART_PRESSURE, 0.0))
    alone_s = plan.value(S.RESTART_DELAY, 0.0) if S.RESTART_PRESSURE not in plan else HOLDS_S
    return min(HOLDS_S, 0.5 * sags_s, 0.9 * alone_s if S.RESTART_PRESSURE not in plan else HOLDS_S)


def from_when(choices: TransferChoices, plan: Plan) -> str:
    """What is waited for, and pressed, before the time counts after a power cut."""
    back_s = plan.value(Watching.BACK, 0.0)
    monitor = f"wait until the monitor lets pumps run again, {back_s:.0f} s; " if back_s > 0.0 else ""
    return f"{monitor}press reset, for after a cut pumps wait for a person; " if choices.protection.power_return is Restart.BY_HAND else monitor


def after_cut_s(choices: TransferChoices, delay_s: float) -> float:
    """From when pumps may run again to the start, cut when half the delay was over. [s]"""
    schools = choices.schools
    if schools.after_cut is AfterCut.KEPT:
        return (1.0 - KEPT_SHARE) * delay_s
    return 0.0 if schools.after_cut is AfterCut.SKIPPED else delay_s


def shown(scenes: Scenes, proof: Proof) -> Shown:
    """The scene of such a proof and what to look at."""
    return {
        Check.STOPS: _stops, Check.OVERSHOOT: _overshoot, Check.HOLDS: _holds, Check.RESTARTS: _restarts, Check.DELAY: _delay, Check.FORCED: _forced, Check.DELAY_AFTER_CUT: _cut,
    }[Check(proof.check)](scenes)  # fmt: skip


def _stops(scenes: Scenes) -> Shown:
    """The valve at the pumps closed by small steps, with every inlet open."""
    shares = (*_closing(scenes.hyd), LAST)
    acts, at_s = [act(SETTLES_S + STEP_S * step, Act.THROTTLE, share) for step, share in enumerate(shares)], SETTLES_S + STEP_S * len(shares)
    alone = [act(0.0, Act.SWITCH, OFF, str(pump)) for pump in range(2, scenes.survey.pumping.count + 1)]  # an assist that joins meanwhile lifts the pressure by a step
    return scenes.calling("the valve at the pumps closed slowly", at_s + 10.0, scenes.all_drawn, *alone, *acts), lambda run: looks.stop_pa(run, SETTLES_S)


def _closing(hyd: TransferHydraulics) -> Iterator[float]:
    """How far the valve at pump 1 is closed, step by step: each lifts the pressure a little, until no more is to come than that.

    Its loss is k r^2 v^2 / 2 g, r what is closed over what is open; the flow is bounded by the end of the curve, and later by what a loss of the whole head lets through.
    """
    curve = hyd.pumps[0].curves.head
    most_m3s, closed_m = curve.last_flow_m3s, curve.shut_off_head_m
    lost_m = VALVE_HEADS * hyd.line.velocity_ms(most_m3s) ** 2 / TWICE_G  # half closed, at the end of the curve
    ratio, left_m = math.sqrt(STEP_M / lost_m), closed_m
    while left_m > STEP_M:
        yield ratio / (1.0 + ratio)
        left_m = closed_m - curve.head_m(min(most_m3s, most_m3s * math.sqrt(closed_m / lost_m) / ratio))
        ratio = max(FASTER * ratio, math.sqrt(ratio * ratio + STEP_M / lost_m))


def _overshoot(scenes: Scenes) -> Shown:
    """Tank 1 fills to the end, every other one is full."""
    tank = scenes.survey.tank_1
    begins_m = max(tank.outlet_m, tank.reopens_m - tank.throttles_m - 0.05)
    fills_s = tank.volume_m3(begins_m, tank.closes_m) / scenes.hyd.alone_m3s(0) * 4.0 + 10.0 * tank.closing_s + 600.0
    scene = scenes.full("tank 1 fills to the end", fills_s, act(0.0, Act.LEVEL, begins_m, "1"), act(1.0, Act.START, 1.0), *scenes.refilled(fills_s))
    worst = worst_closing(scenes.hyd, scenes.wanted.value(S.STOP_PRESSURE, 0.0)).past_pa
    most_pa = scenes.wanted.value(S.STOP_PRESSURE, 0.0) + 1.05 * worst + NEAR_PA

    def look(run: TransferRun) -> bool:
        """The highest pressure of its first fill stays under what was reckoned, and it stops."""
        stopped = looks.first_stop(run)
        if stopped is None:
            return False
        highest = max(row[1] for row in run.trace if row[0] <= stopped.at_s + AT_ONCE_S)
        return highest <= most_pa

    return scene, look


def _holds(scenes: Scenes) -> Shown:
    scene = scenes.full("all full, nobody draws", holding_s(scenes.survey, scenes.wanted), act(0.0, Act.PATTERN, 0.0))
    return scene, lambda run: not looks.starts(run)


def _down_s(scenes: Scenes) -> float:
    """How long the closed line takes to be let down to the restart by hand. [s]"""
    top_pa = min(scenes.n.stop_pressure, scenes.hyd.shut_off_pa(True))
    return (top_pa - max(0.0, min(scenes.n.restart_pressure, scenes.wanted.value(S.RESTART_PRESSURE, 0.0)))) / BLEEDS_PAS + 60.0


def _restarts(scenes: Scenes) -> Shown:
    scene = scenes.full("the closed line let down slowly", _down_s(scenes) + SETTLES_S, act(1.0, Act.BLEED, BLEEDS_PAS))
    return scene, lambda run: at_pa if (at_pa := looks.waits_pa(run)) is not None else looks.starts_pa(run)


def _delay(scenes: Scenes) -> Shown:
    """Let down at once; counted from the drop, or from the stop before it."""
    schools, delay_s = scenes.choices.schools, scenes.wanted.value(S.RESTART_DELAY, 0.0)
    by_stop = schools.restart_by is RestartBy.PRESSURE_AND_TIME and schools.delay_from is DelayFrom.STOP
    if by_stop or schools.restart_by is RestartBy.TIME_ALONE:
        scene = scenes.calling("filled, stopped, and let down at once", 3.0 * delay_s + 300.0, act(SETTLES_S, Act.THROTTLE, 1.0), act(SETTLES_S + 20.0, Act.THROTTLE, 0.0))
        return scene, lambda run: looks.between_s(stop := looks.first_stop(run), None if stop is None else looks.first_start(run, stop.at_s))
    scene = scenes.full("let down at once", 2.0 * delay_s + 120.0, act(SETTLES_S, Act.BLEED, 1e5), act(SETTLES_S + 10.0, Act.BLEED, 0.0))
    return scene, lambda run: looks.between_s(looks.enters_wait(run), looks.first_start(run))


def _forced(scenes: Scenes) -> Shown:
    pressed_s = SETTLES_S + 8.0
    schools = scenes.choices.schools
    if schools.restart_by is RestartBy.TIME_ALONE or schools.delay_from is DelayFrom.STOP:  # it counts from the stop, so it must have run
        shut, opened = act(SETTLES_S, Act.THROTTLE, 1.0), act(SETTLES_S + 6.0, Act.THROTTLE, 0.0)
        scene = scenes.calling("start pressed while the delay counts", pressed_s + 60.0, shut, opened, act(pressed_s, Act.START, 1.0))
        return scene, lambda run: (stop := looks.first_stop(run)) is not None and (begun := looks.first_start(run, stop.at_s)) is not None and begun.at_s <= pressed_s + AT_ONCE_S
    scene = scenes.full("start pressed while the delay counts", pressed_s + 60.0, act(SETTLES_S, Act.BLEED, 1e5), act(SETTLES_S + 7.0, Act.BLEED, 0.0), act(pressed_s, Act.START, 1.0))
    return scene, lambda run: (begun := looks.first_start(run)) is not None and pressed_s - 1e-6 <= begun.at_s <= pressed_s + AT_ONCE_S and looks.first_stop(run, begun.at_s) is not None


def _cut(scenes: Scenes) -> Shown:
    """The supply goes when half of the wanted delay is over."""
    delay_s = scenes.wanted.value(S.RESTART_DELAY, 0.0)
    schools = scenes.choices.schools
    by_stop = schools.restart_by is RestartBy.TIME_ALONE or schools.delay_from is DelayFrom.STOP
    if by_stop:  # a fill first, so that the stop is known
        stopped_s = SETTLES_S + 3.0
        cut_s = stopped_s + KEPT_SHARE * delay_s
        acts = (act(SETTLES_S, Act.THROTTLE, 1.0), act(SETTLES_S + 10.0, Act.THROTTLE, 0.0))
    else:
        cut_s = SETTLES_S + 5.0 + KEPT_SHARE * delay_s
        acts = (act(SETTLES_S, Act.BLEED, 1e5), act(SETTLES_S + 10.0, Act.BLEED, 0.0))
    power, lets_s = scenes.power_back(cut_s, CUT_S)
    make = scenes.calling if by_stop else scenes.full
    scene = make("the supply goes while the delay counts", lets_s + 2.0 * delay_s + 120.0, *acts, *power)
    return scene, lambda run: None if (begun := looks.first_start(run, cut_s + CUT_S - 1e-6)) is None else max(0.0, begun.at_s - lets_s)
