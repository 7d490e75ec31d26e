"""Proofs of who may ask for another set pressure: the week's clock, keys, the outside, local and remote, and the loop by hand."""

from goodbalance.core.balance.plan import Plan
from goodbalance.core.balance.proof import Answer, Proof
from goodbalance.core.balance.quantities import Quantity as Q
from goodbalance.core.rehearsal.engine import TimedAction
from goodbalance.core.rehearsal.proving import Look, Scene
from goodbalance.core.stations.booster.bench import looks
from goodbalance.core.stations.booster.bench.looks import BoosterRun
from goodbalance.core.stations.booster.bench.rehearse import BoosterBench
from goodbalance.core.stations.booster.controller.regulator import NOON_S
from goodbalance.core.stations.booster.controller.set_value import DAY_S, HOUR_S, Asks, Line, scheduled
from goodbalance.core.stations.booster.names import SCHEDULED, Act, Check, SetFault
from goodbalance.core.stations.booster.names import SettingId as S
from goodbalance.core.stations.booster.proofs.scenes import CALM_S, Scenes, act
from goodbalance.core.stations.booster.survey.choices import BoosterChoices, OutsideLost
from goodbalance.core.stations.booster.survey.control import OutsideSet
from goodbalance.core.stations.booster.survey.survey import BoosterSurvey
from goodbalance.core.stations.booster.windows.set_values import DAYS

GROUP = "Who asks for which pressure"
STARTING = "Pumps start by themselves: keep hands and clothes away."
PRESSED = "Somebody at the lowest outlet: the pressure goes up there too."
TOLD = "Whoever watches the building control knows that you are testing."
BEFORE = "In AUTO, outlets open for about the mean flow."
PRESSES_PA = 1.5e5  # how far beyond a limit somebody asks
BUMP_SHARE = 0.10  # of full speed within half a second of going back to auto: more than this is a jump, less the loop at work
CHECKS = frozenset({
    Check.SCHEDULE, Check.LOWEST_SET, Check.HIGHEST_SET, Check.OUTSIDE, Check.OUTSIDE_LOST, Check.LOCAL, Check.RUN_CONTACT, Check.LOOP,
})  # fmt: skip


def set_value_proofs(survey: BoosterSurvey, choices: BoosterChoices, plan: Plan, tolerance_pa: float) -> list[Proof]:
    """What this plan needs of them, in the order they are made. tolerance_pa: of a pressure read off the display or gauge."""
    if not survey.holds_constant:
        return []
    control = survey.control

    def number(check: Check, title: str, cautions: tuple[str, ...], action: str, seen: str, expected: float, proves: tuple[str, ...] = (), of: str = "") -> Proof:
        return Proof(check, title, GROUP, BEFORE, cautions, action, seen, Answer.NUMBER, expected, tolerance_pa, Q.PRESSURE, proves=proves, of=of)

    def yes(check: Check, title: str, cautions: tuple[str, ...], action: str, seen: str) -> Proof:
        return Proof(check, title, GROUP, BEFORE, cautions, action, seen, Answer.YES_NO)

    found = []
    for place, (days, hour, _) in enumerate(choices.schedule.begins):
        one = SCHEDULED[place]
        if one in plan:
            found.append(
                number(
                    Check.SCHEDULE, f"From {hour:02d} h, {DAYS[days]}, the week's clock sets its pressure", (STARTING,),
                    f"Set the clock to such a day just before {hour:02d} h and wait; then to a day that is none. Set it right afterwards.", "The value in force goes to this, and the gauge with it; on other days not.",
                    plan.value(one, 0.0), (one,), str(place + 1),
                )
            )  # fmt: skip
    by = "from outside" if control.outside is not OutsideSet.NONE else "with the keys"
    movable = control.direct_keys or control.outside is not OutsideSet.NONE
    for check, limit, way in ((Check.LOWEST_SET, S.LOWEST_SET, "less"), (Check.HIGHEST_SET, S.HIGHEST_SET, "more")):
        if movable and limit in plan and _reaches(survey, plan, limit):
            cautions = (STARTING, PRESSED, TOLD) if way == "more" else (STARTING, TOLD)
            found.append(
                number(check, f"Nobody can ask for {way} than the limit", cautions, f"Ask {by} for {way} than the limit.", "The value in force stands at the limit.", plan.value(limit, 0.0), (limit,))
            )
    if control.outside is not OutsideSet.NONE:
        found += [
            number(
                Check.OUTSIDE, "What is asked from outside is in force", (STARTING, TOLD), f"Let the outside ask with {_share(survey, plan):.0%} of its span, by its own hand or a loop calibrator.",
                "The value in force is what that share stands for.", _asked_pa(survey, plan),
            ),
            yes(
                Check.OUTSIDE_LOST, "Nobody outside is heard: what was chosen happens", (STARTING, TOLD), "Pull the plug of the outside signal or link; put it back after.",
                "Its own set pressure comes back." if choices.schools.outside_lost is OutsideLost.LOCAL else "The last value stays in force.",
            ),
        ]  # fmt: skip
        if control.local_remote:
            found.append(yes(Check.LOCAL, "In local nobody outside is obeyed", (STARTING, TOLD), "Turn the switch to local while the outside asks for something else.", "Its own set pressure is in force; back in remote the outside is."))
    if control.run_contact:
        found.append(yes(Check.RUN_CONTACT, "The outside run contact stops the set", (STARTING, TOLD), "Open the outside contact while pumps run; close it again.", "Every pump in AUTO stops, and comes back by itself."))
    found.append(
        yes(
            Check.LOOP, "The loop by hand and back goes without a jump", (STARTING, PRESSED), "Put the loop by, move its speed a little, put it back in auto.",
            "The speed goes on from where it stood, and the pressure comes back without a blow.",
        )
    )  # fmt: skip
    return found


def _share(survey: BoosterSurvey, plan: Plan) -> float:
    """What the outside asks with in its proof: the middle of the two limits, as near as its span comes."""
    low_pa, high_pa = survey.control.outside_zero_pa or 0.0, survey.control.outside_full_pa or 0.0
    middle_pa = (plan.value(S.LOWEST_SET, low_pa) + plan.value(S.HIGHEST_SET, high_pa)) / 2.0
    return round(min(1.0, max(0.0, (middle_pa - low_pa) / (high_pa - low_pa))), 2) if high_pa > low_pa else 0.0


def _reaches(survey: BoosterSurvey, plan: Plan, limit: str) -> bool:
    """Whether anybody can ask for more, or less, than a limit at all."""
    control, value_pa = survey.control, plan.value(limit, 0.0)
    if control.direct_keys:
        return True
    return (control.outside_full_pa or 0.0) > value_pa if limit == S.HIGHEST_SET else (control.outside_zero_pa or 0.0) < value_pa


def _asked_pa(survey: BoosterSurvey, plan: Plan) -> float:
    """What the outside asks for in its proof, within the limits."""
    low_pa, high_pa = survey.control.outside_zero_pa or 0.0, survey.control.outside_full_pa or 0.0
    asked_pa = low_pa + _share(survey, plan) * (high_pa - low_pa)
    return min(plan.value(S.HIGHEST_SET, asked_pa), max(plan.value(S.LOWEST_SET, asked_pa), asked_pa))


Shown = tuple[Scene, Look[BoosterBench]]


def shown(scenes: Scenes, proof: Proof) -> Shown:
    """The scene of one of these proofs and what to look at."""
    run_s, share = 2.0 * CALM_S, _share(scenes.survey, scenes.wanted)
    draw = act(1.0, Act.OUTLETS, scenes.mean)
    acts: tuple[TimedAction, ...]
    match Check(proof.check):
        case Check.SCHEDULE:
            days, hour, _ = scenes.choices.schedule.begins[int(proof.of) - 1]
            on_h = hour + 0.1 + 24.0 * days.numbers[0] - NOON_S / HOUR_S  # from Monday noon
            acts = (*_unheard(scenes), act(0.0, Act.CLOCK, on_h % 168.0), draw)
            return scenes.asked("the clock set on", run_s, *acts), lambda run: _through_the_week(scenes, run, int(proof.of))
        case Check.LOWEST_SET | Check.HIGHEST_SET:
            return scenes.asked("asked beyond a limit", run_s, *_beyond(scenes, proof), draw), looks.in_force_at_end
        case Check.OUTSIDE:
            return scenes.asked("asked from outside", run_s, act(0.0, Act.OUTSIDE, share), draw), looks.in_force_at_end
        case Check.OUTSIDE_LOST:
            acts = (act(0.0, Act.OUTSIDE, share), draw, act(CALM_S, SetFault.OUTSIDE_LOST, 1.0))
            wanted = Asks.LOST if scenes.choices.schools.outside_lost is OutsideLost.LOCAL else Asks.HELD
            return scenes.asked("the outside is lost", run_s, *acts), lambda run: run.bench.logic.in_force()[1] is wanted
        case Check.LOCAL:
            acts = (act(0.0, Act.OUTSIDE, share), draw, act(CALM_S, Act.REMOTE, 0.0))
            return scenes.asked("switched to local", run_s, *acts), lambda run: run.bench.logic.in_force()[1] is not Asks.OUTSIDE
        case Check.RUN_CONTACT:
            return scenes.asked("the run contact opens", run_s, draw, act(CALM_S, Act.RUN, 0.0)), lambda run: not looks.running_at_end(run)
    return _loop(scenes)


def _through_the_week(scenes: Scenes, run: BoosterRun, number: int) -> float:
    """The pressure in force at the end, or where the clock is set through a whole week the first that is another than planned
    while this time of the week holds, or should."""
    logic, n = run.bench.logic, run.bench.logic.numbers
    begins = enumerate(scenes.choices.schedule.begins, 1)
    planned = tuple(Line(place, days, float(hour), scenes.wanted.value(SCHEDULED[place - 1], 0.0)) for place, (days, hour, _) in begins)
    for day in range(7):
        for line in planned:
            week_s = day * DAY_S + line.from_h * HOUR_S + 60.0
            wanted, got = scheduled(planned, week_s), scheduled(n.asking.lines, week_s)
            if wanted is not None and wanted.number == number and (got is None or got.number != number):
                return logic.value.in_force(n.set_pressure, week_s, n.lowest_set, n.highest_set)[0]
            if got is not None and wanted is not None and got.number == number and wanted.number != number:
                return wanted.pressure
    return looks.in_force_at_end(run)


def _unheard(scenes: Scenes) -> tuple[TimedAction, ...]:
    """Nobody outside is obeyed: by the switch, or because nobody is heard."""
    control = scenes.survey.control
    if control.local_remote:
        return (act(0.0, Act.REMOTE, 0.0),)
    return (act(0.0, SetFault.OUTSIDE_LOST, 1.0),) if control.outside is not OutsideSet.NONE else ()


def _beyond(scenes: Scenes, proof: Proof) -> tuple[TimedAction, ...]:
    """Somebody asks for more than the highest, or less than the lowest."""
    up = proof.check == Check.HIGHEST_SET
    if scenes.survey.control.direct_keys:
        keyed = act(0.0, Act.KEYS, max(0.0, proof.expected + (PRESSES_PA if up else -PRESSES_PA)))
        return (*_unheard(scenes), keyed)
    return (act(0.0, Act.OUTSIDE, 1.0 if up else 0.0),)


def _loop(scenes: Scenes) -> Shown:
    """Put by at its working point, a little faster by hand, back in auto: the speed in the next moments tells."""
    base_s = scenes.alone_s + scenes.calls_s
    acts = (
        act(1.0, Act.OUTLETS, scenes.mean), act(base_s, Act.LOOP, 0.0), act(base_s + 2.0, Act.LOOP_SPEED, _by_hand(scenes)),
        act(base_s + 6.0, Act.LOOP, 1.0),
    )  # fmt: skip
    return scenes.scene("the loop by hand and back", base_s + 6.5, *acts), lambda run: abs(run.bench.logic.output - _by_hand(scenes)) <= BUMP_SHARE


def _by_hand(scenes: Scenes) -> float:
    """A speed that is clearly not the one the regulator would choose: half way from its least to the one that holds, at mean flow."""
    n, hyd = scenes.n, scenes.hyd
    flow_m3s = scenes.survey.demand.mean_m3s
    holds = hyd.speed(hyd.added_m(n.set_pressure, hyd.suction_pa(flow_m3s)), flow_m3s, 1)
    return max(n.least_speed, min(n.most_speed, holds) - 0.12)

