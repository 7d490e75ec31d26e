"""python -m tools.hidden_faults [stations] [seed]: random stations with a random fault hidden in each, found again by what is seen.

The station is another one each time, its history another one than the stories the faults are played through, what is seen is
rounded as a person would type it, and a third of it is not looked at. Counted are faults that show at all: something that
can be seen differs from the same history without the fault.
"""

import random
import sys
from collections.abc import Iterator
from typing import Any

from goodbalance.core.balance.facts import sections
from goodbalance.core.balance.plan import Severity
from goodbalance.core.balance.quantities import UnitSystem, display_unit
from goodbalance.core.errors import GoodBalanceError
from goodbalance.core.rehearsal.diagnosis import Played, causes, play_all
from goodbalance.core.rehearsal.engine import TimedAction, begun
from goodbalance.core.rehearsal.troubles import PLAIN, Sign, Trouble
from goodbalance.core.stations.booster.kind import BOOSTER
from goodbalance.core.stations.circulator.kind import CIRCULATOR
from goodbalance.core.stations.kind import AnyKind
from goodbalance.core.stations.lift.kind import LIFT
from goodbalance.core.stations.maintenance.kind import MAINTENANCE
from goodbalance.core.stations.transfer.kind import TRANSFER
from goodbalance.demo.aquarium import AQUARIUM, AQUARIUM_CHOICES
from goodbalance.demo.brine import BRINE, BRINE_CHOICES
from goodbalance.demo.bunkhouse import BUNKHOUSE, BUNKHOUSE_CHOICES
from goodbalance.demo.lifts import SLIPWAY, SLIPWAY_CHOICES
from goodbalance.demo.pier import PIER, PIER_CHOICES
from goodbalance.exchange.typed import Typed, answers_of, facts_from, read_facts
from tools.stage.typed_stations import DEEP_WELL, ROUND_WELL, TANK_SET

M = UnitSystem.METRIC
FIRST = 3
SHARE_SEEN = 1.0
OTHERWISE = 0.25  # of the schools, in each station
MOVED = ("inflow.", "demand.", "well.", "motor.", "supply.", "line.", "tank_1.", "tank_2.", "suction.")  # sections whose numbers are another in each station
STATIONS: tuple[tuple[AnyKind, dict[str, str], dict[str, str]], ...] = (
    (LIFT, ROUND_WELL, {}), (LIFT, DEEP_WELL, {}), (LIFT, SLIPWAY, SLIPWAY_CHOICES), (BOOSTER, TANK_SET, {"schools.no_flow": "bump"}),
    (BOOSTER, AQUARIUM, AQUARIUM_CHOICES), (TRANSFER, BRINE, BRINE_CHOICES), (MAINTENANCE, PIER, PIER_CHOICES), (CIRCULATOR, BUNKHOUSE, BUNKHOUSE_CHOICES),
)  # fmt: skip
GUARDS = {  # of the motors and the supply, and who stands by: another in each station
    "control.phase_monitor": ("yes", "no"), "protection.monitor": ("voltages", "phases"), "protection.winding_by": ("contact", "nothing"), "protection.casing_by": ("thermostat", "nothing"),
    "protection.underload_by": ("nothing", "nothing", "power"), "protection.follows": ("cube", "from_speed"), "protection.closed_trips": ("yes", "no"),
    "pumping.standby": ("yes", "no"), "pumping.most_at_once": ("", "", "1", "2"), "pumping.standby_turns": ("yes", "no"),
}  # fmt: skip
DECIDED = {"protection.after": ("by_hand", "tries", "long_wait"), "protection.power_return": ("by_itself", "by_hand"), "protection.overload": ("measured", "plate")}
Case = tuple[AnyKind, Any, Any, Any]


def station(rng: random.Random) -> Case | None:
    """One of a few stations with its numbers moved by up to a tenth and its motors guarded otherwise; None where that makes none."""
    kind, typed, decided = rng.choice(STATIONS)
    moved = {path: _moved(text, rng) if path.startswith(MOVED) else text for path, text in typed.items()}
    decided = decided | _schools(kind, rng)
    guards, decides = ({path: rng.choice(ways) for path, ways in which.items()} for which in (GUARDS, DECIDED))
    texts = {path: Typed(text) for path, text in (moved | _otherwise(kind.survey_model, "control", rng) | _otherwise(kind.survey_model, "suction_switch", rng) | guards).items()}
    reading = read_facts(kind.survey_model, texts, M)
    if not reading.complete or any(finding.severity is Severity.STOP for finding in kind.plausibility(reading.values)):
        return None
    survey = facts_from(kind.survey_model, reading)
    choices = facts_from(kind.choices_model, read_facts(kind.choices_model, {path: Typed(text) for path, text in (decided | decides).items()}, M, answers_of(kind.survey_model, texts)))
    try:
        plan = kind.reckon(survey, choices)
    except GoodBalanceError:
        return None
    sound = plan.is_sound and not any(finding.severity is Severity.STOP for finding in plan.findings)
    return (kind, survey, choices, plan) if sound else None


def _schools(kind: AnyKind, rng: random.Random) -> dict[str, str]:
    """Some of the ways on which practitioners and devices differ, gone otherwise than the demo goes."""
    return _otherwise(kind.choices_model, "schools", rng)


def _otherwise(model: Any, section: str, rng: random.Random) -> dict[str, str]:
    asked = [each for part in sections(model) if part.id == section for each in part.facts if each.fact.options]
    return {each.path: rng.choice(each.fact.options)[0] for each in asked if rng.random() < OTHERWISE}


def _moved(text: str, rng: random.Random) -> str:
    try:
        return f"{float(text) * rng.uniform(0.9, 1.1):.6g}" if "." in text else text
    except ValueError:
        return text


def hidden(case: Case, rng: random.Random, troubles: tuple[Trouble, ...]) -> Iterator[tuple[Trouble, dict[str, float | None]]]:
    """Faults that show, each with what somebody saw of it."""
    kind, survey, choices, plan = case
    for trouble in rng.sample(troubles, k=min(12, len(troubles))):
        story = rng.choice(kind.diagnosis.stories(survey, choices, plan))
        acts = [TimedAction(act.at_s * rng.uniform(0.7, 1.3), act.kind, act.target, act.value * rng.uniform(0.7, 1.2)) for act in story.actions]
        since_s, start = rng.uniform(0.0, 0.5) * story.until_s, story.start * rng.uniform(0.97, 1.0)
        at_s = rng.uniform(since_s + 10.0, story.until_s)
        looks = []
        for breaks in ((trouble.put(since_s),), ()):
            run = begun(kind.bench(survey, choices, plan, start), tuple(sorted((*acts, *breaks), key=lambda act: act.at_s)))
            run.go_to(at_s)
            looks.append(kind.diagnosis.signs(run.seen_at(at_s)))
        if any(sign.differs(other.value) >= PLAIN for sign, other in zip(*looks)):
            yield trouble, seen(looks[0], rng)


def seen(signs: tuple[Sign, ...], rng: random.Random) -> dict[str, float | None]:
    """Most of it, as typed."""
    found = {sign.id: _rounded(sign) for sign in signs if sign.between is None and rng.random() < SHARE_SEEN}
    for sign in signs:
        if sign.between is not None and all(found.get(each) is not None for each in sign.between):
            over, under = (found[each] or 0.0 for each in sign.between)
            found[sign.id] = over - under
    return found


def _rounded(sign: Sign) -> float | None:
    if sign.value is None or sign.quantity is None:
        return sign.value
    unit = display_unit(sign.quantity, M)
    return unit.to_si(round(unit.from_si(sign.value), unit.decimals))


def main() -> int:
    stations, seed = (int(text) for text in (*sys.argv[1:3], *("20", "1")[len(sys.argv) - 1 :]))
    rng, found, tried = random.Random(seed), 0, 0
    while stations > 0:
        case = station(rng)
        if case is None:
            continue
        stations -= 1
        kind, survey, choices, plan = case
        bench = kind.bench(survey, choices, plan)
        troubles = kind.diagnosis.troubles(bench)
        looks = play_all(lambda start: kind.bench(survey, choices, plan, start), kind.diagnosis.signs, (None, *troubles), kind.diagnosis.stories(survey, choices, plan))  # noqa: B023
        played = Played(kind.diagnosis.signs(bench), troubles, looks)
        for trouble, what in hidden(case, rng, troubles):
            first = [cause.trouble.id if cause.trouble else "" for cause in causes(played, what)[:FIRST]]
            tried, found = tried + 1, found + (trouble.id in first)
            if trouble.id not in first:
                print(f"{kind.id}: {trouble.said}: not among {first}", flush=True)
        print(f"{found} of {tried} among the first {FIRST}: {found / max(1, tried):.1%}", flush=True)
    return 0


if __name__ == "__main__":
    sys.exit(main())
