"""How a proof stands by what was seen of it: proved on site, only shown, failed, or stale, and by what."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from enum import StrEnum
from itertools import takewhile
from typing import Any

from goodbalance.core.balance.plan import Plan, Setting
from goodbalance.core.balance.proof import PROVING, Answer, Method, Proof, Verdict
from goodbalance.core.record.history import Observed

STALE_SHARE = 0.25  # of its tolerance: a proof holds while what it expects has moved less
STALE_STEPS = 0.5  # of the setting's own step


class Standing(StrEnum):
    """How a proof stands.

    FAILED: the last try failed. PASSED: since the last failure it was seen on site, with what it proves as it is now.
    STALE: seen on site, but what it proves has changed. HELD: only shown, with the controller's outputs held.
    BENCH: only rehearsed. OPEN: never tried.
    """

    FAILED = "failed"
    PASSED = "passed"
    STALE = "stale"
    HELD = "held"
    BENCH = "bench"
    OPEN = "open"


@dataclass(frozen=True, slots=True)
class Moved:
    """A setting that a proof proves and that has another value now. now: None where it is no longer part of the plan."""

    setting: str
    was: float
    now: Setting | None


def values_proved(proof: Proof, plan: Plan) -> dict[str, float]:
    """What a try at a proof proves: its settings as they are now, in SI, by id."""
    return {one: plan.setting(one).value for one in proof.proves if one in plan}


def noted(proof: Proof, plan: Plan) -> dict[str, Any]:
    """What is kept beside a try, so that it can go stale: all of the plan that it proves as it is now. In SI."""
    expected = proof.expected if proof.answer is Answer.NUMBER else None
    return {"expected": expected, "settings": values_proved(proof, plan), "claim": proof.claim, "must_see": proof.must_see}


def claims_other(proof: Proof, one: Observed) -> bool:
    """Whether something else had to be seen when it was tried. What was not noted then cannot have changed."""
    return one.claim is not None and one.claim != proof.claim


def moved(proof: Proof, then: Mapping[str, float], plan: Plan) -> tuple[Moved, ...]:
    """The settings that had another value when the proof was made. What was not noted then cannot have moved."""
    found = []
    for setting_id, was in then.items():
        setting = plan.setting(setting_id) if setting_id in plan else None
        if setting is None or abs(setting.value - was) > _may_move(proof, setting) + 1e-9:
            found.append(Moved(setting_id, was, setting))
    return tuple(found)


def _may_move(proof: Proof, setting: Setting) -> float:
    own = STALE_STEPS * setting.step
    if proof.answer is Answer.NUMBER and proof.quantity is setting.quantity:
        return max(own, STALE_SHARE * proof.tolerance)
    return own


def standing(proof: Proof, tries: Sequence[Observed], plan: Plan) -> tuple[Standing, Observed | None]:
    """How it stands, and the try that says so. tries: the oldest first; plan: with the numbers as they stand now."""
    if not tries:
        return Standing.OPEN, None
    if tries[-1].verdict == Verdict.FAILED:
        return Standing.FAILED, tries[-1]
    good = list(takewhile(lambda observed: observed.verdict == Verdict.PASSED, reversed(tries)))
    fits = [one for one in good if _as_expected(proof, one) and not moved(proof, one.settings, plan)]
    on_site = [one for one in fits if one.method in PROVING]
    if on_site:
        return Standing.PASSED, on_site[0]
    if any(one.method in PROVING for one in good) or not fits:
        return Standing.STALE, next((one for one in good if one.method in PROVING), good[0])
    shown = [one for one in fits if one.method == Method.OUTPUTS_HELD]
    return (Standing.HELD, shown[0]) if shown else (Standing.BENCH, fits[0])


def _as_expected(proof: Proof, one: Observed) -> bool:
    if claims_other(proof, one):
        return False
    return one.expected is None or abs(one.expected - proof.expected) <= max(1e-6, STALE_SHARE * proof.tolerance)
