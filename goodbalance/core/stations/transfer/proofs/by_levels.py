"""Proofs of what comes back from the tanks: starts, stops, alarms, broken wires; and how the bench shows them."""

from collections.abc import Iterator

from goodbalance.core.balance.plan import Plan
from goodbalance.core.balance.proof import Answer, Proof
from goodbalance.core.balance.quantities import Quantity as Q
from goodbalance.core.rehearsal.engine import TimedAction
from goodbalance.core.stations.transfer.bench import looks
from goodbalance.core.stations.transfer.bench.looks import TransferRun
from goodbalance.core.stations.transfer.names import Act, Alarm, Check, Level, TankFault
from goodbalance.core.stations.transfer.names import SettingId as S
from goodbalance.core.stations.transfer.proofs.scenes import (
    AT_ONCE_S,
    FLOOD,
    HEIGHT,
    LIMITS,
    SETTLES_S,
    SHOCK,
    STARTING,
    TANKS,
    Scenes,
    Shown,
    act,
)
from goodbalance.core.stations.transfer.survey.control import FullBy, TankWire
from goodbalance.core.stations.transfer.survey.survey import TransferSurvey

CHECKS = (Check.UP, Check.DOWN, Check.ASSIST, Check.HIGH_ALARM, Check.LOW_ALARM, Check.WIRE)
NEAR_M, STEP_M, STEP_S, BESIDE_M = 0.03, 0.005, 2.0, 0.06  # a tape; how a level is feigned: steps, and from how far beside
NEAR_SHARE, LEAST_S = 0.05, 3.0


def proofs(survey: TransferSurvey, plan: Plan) -> Iterator[Proof]:
    """Each level of each tank, and its wire."""
    if not survey.control.by_levels:
        return
    how = "Feign the level at the sensor's input, or move the float by hand, slowly."
    told: tuple[tuple[Level, Check, str, str, str], ...] = (
        (Level.LOW_ALARM, Check.LOW_ALARM, "Low level alarms", "down", "The alarm comes at this level."),
        (Level.ASSIST, Check.ASSIST, "The assist starts at its level", "down", "The second pump starts at this level."),
        (Level.START, Check.DOWN, "It starts at its level", "down", "A pump starts at this level."),
        (Level.STOP, Check.UP, "It stops at its level", "up", "Every pump stops at this level."),
        (Level.HIGH_ALARM, Check.HIGH_ALARM, "High level alarms and stops", "up", "The alarm comes at this level, and no pump runs above it."),
    )  # fmt: skip
    for number in range(1, survey.tanks.count + 1):
        of = f", {survey.tank_name(number)}" if survey.tanks.count > 1 else ""
        for level, check, title, way, seen in told:
            setting = level.of(number)
            if setting not in plan:
                continue
            if level is Level.LOW_ALARM and survey.control.full_by is FullBy.BOTH:
                seen = f"{seen[:-1]}, and a pump starts whatever the pressure says."
            before = "Every other tank full. " + ("A pump fills." if way == "up" else "All full.")
            yield Proof(check, f"{title}{of}", TANKS, before, (STARTING, HEIGHT), f"{how} ({way})", seen, Answer.NUMBER, plan.value(setting, 0.0), NEAR_M, Q.LEVEL, proves=(setting,), of=str(number))
        yield from _wire(survey, plan, number, of)


def _wire(survey: TransferSurvey, plan: Plan, number: int, of: str) -> Iterator[Proof]:
    """What a broken wire does: told after its delay, or a pump that stops in silence."""
    control, setting = survey.control, S.WIRE_DELAY
    if setting in plan:
        time_s = plan.value(setting, 0.0)
        seen = "The alarm comes after this time" + (", and pumps stop." if control.full_by is FullBy.LEVELS else "; the pressure goes on alone.")
        yield Proof(
            Check.WIRE, f"A broken wire is told{of}", LIMITS, "A pump fills.", (SHOCK,), "Take one wire of this tank off and take the time; put it back after.", seen,
            Answer.NUMBER, time_s, max(LEAST_S, NEAR_SHARE * time_s), Q.TIME, proves=(setting,), of=str(number),
        )  # fmt: skip
    elif control.tank_wire is TankWire.OPENS and control.full_by is FullBy.LEVELS:
        yield Proof(
            Check.WIRE, f"A broken wire stops the pumps{of}", LIMITS, "A pump fills this tank.", (SHOCK,), "Take one wire of this tank off; put it back after.",
            "The pumps stop. Nobody is told: that is an open point.", Answer.YES_NO, of=str(number),
        )  # fmt: skip
    elif control.full_by is FullBy.LEVELS:
        yield Proof(
            Check.WIRE, f"A broken wire stops the pumps{of}", LIMITS, "Every tank full.", (SHOCK, FLOOD), "Take one wire of this tank off; put it back after.",
            "No pump starts. (As it is wired now one starts, and fills until it overflows.)", Answer.YES_NO, of=str(number),
        )  # fmt: skip


def shown(scenes: Scenes, proof: Proof) -> Shown:
    """The scene of such a proof and what to look at: the level feigned by steps, the others full."""
    check, number = Check(proof.check), proof.of
    if check is Check.WIRE:
        return _wire_off(scenes, proof)
    if check is Check.UP:
        acts = _steps(proof.expected - BESIDE_M, proof.expected + BESIDE_M, number, SETTLES_S)
        low = act(0.0, Act.LEVEL, scenes.wanted.value(Level.START.of(int(number)), 0.0) - NEAR_M, number)
        scene = scenes.full(f"tank {number} rises", acts[-1].at_s + 10.0, low, *_held_open(number), *acts)
        return scene, lambda run: _stood(run, None if (stop := looks.first_stop(run)) is None else stop.at_s)
    if check is Check.HIGH_ALARM:
        acts = _steps(proof.expected - BESIDE_M, min(proof.expected + BESIDE_M, _over(scenes, number)), number, SETTLES_S)
        return scenes.full(f"tank {number} rises over its stop", acts[-1].at_s + 10.0, *acts), lambda run: _stood(run, _at(looks.alarm(run, Alarm.HIGH, int(number))))
    acts = _steps(proof.expected + BESIDE_M, max(0.0, proof.expected - BESIDE_M), number, SETTLES_S)
    scene = scenes.full(f"tank {number} falls", acts[-1].at_s + scenes.wanted.value(S.START_GAP, 0.0) + 10.0, *acts)
    if check is Check.LOW_ALARM:
        return scene, lambda run: _stood(run, _at(looks.alarm(run, Alarm.LOW, int(number))))
    if check is Check.ASSIST:
        gap_s = scenes.n.start_gap
        return scene, lambda run: _stood(run, begun[1].at_s) if len(begun := looks.starts(run)) > 1 and begun[1].at_s > begun[0].at_s + gap_s + 1.0 else None
    return scene, lambda run: _stood(run, None if (begun := looks.first_start(run)) is None else begun.at_s)


def _over(scenes: Scenes, number: str) -> float:
    return scenes.survey.all_tanks[int(number) - 1].overflow_m


def _held_open(number: str) -> tuple[TimedAction, ...]:
    """Its valve held, so that it does not shut before the stop is seen."""
    return (act(0.0, TankFault.STUCK_OPEN, 1.0, number),)


def _steps(from_m: float, to_m: float, number: str, at_s: float) -> list[TimedAction]:
    """A level feigned from one height to another. [m, s]"""
    count = max(1, round(abs(to_m - from_m) / STEP_M))
    way = (to_m - from_m) / count
    return [act(at_s + k * STEP_S, Act.LEVEL, max(0.0, from_m + k * way), number) for k in range(count + 1)]


def _at(event: object) -> float | None:
    return None if event is None else float(event.at_s)  # type: ignore[attr-defined]


def _stood(run: TransferRun, at_s: float | None) -> float | None:
    """Where the feigned level stood at a time. [s]"""
    return None if at_s is None else looks.stood_at(run, Act.LEVEL, "h", at_s)


def _wire_off(scenes: Scenes, proof: Proof) -> Shown:
    """The wire taken off while a pump fills that tank; of a contact that is open while water is wanted while all are full."""
    number, off_s = proof.of, SETTLES_S
    tank = scenes.survey.all_tanks[int(number) - 1]
    low_m = scenes.wanted.value(Level.START.of(int(number)), tank.reopens_m) - NEAR_M
    low = act(0.0, Act.LEVEL, max(0.0, low_m), number)
    off = act(off_s, TankFault.WIRE_OFF, 1.0, number)
    if proof.answer is Answer.NUMBER:
        scene = scenes.full(f"a wire of tank {number} off", off_s + 2.0 * proof.expected + SETTLES_S, low, off)
        return scene, lambda run: None if (came := looks.alarm(run, Alarm.WIRE, int(number))) is None else came.at_s - off_s
    if scenes.survey.control.tank_wire is TankWire.OPENS:
        scene = scenes.full(f"a wire of tank {number} off", off_s + SETTLES_S, low, off)
        return scene, lambda run: (stop := looks.first_stop(run)) is not None and off_s <= stop.at_s <= off_s + AT_ONCE_S
    return scenes.full(f"a wire of tank {number} off", off_s + SETTLES_S, off), lambda run: not looks.starts(run)
