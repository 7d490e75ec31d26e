"""Two texts for one field: what somebody wrote since a page was made is shown beside what was typed on it, not overwritten."""

from collections.abc import Mapping
from typing import Any

from goodbalance.core.balance.facts import AskedFact, Facts, sections
from goodbalance.core.balance.quantities import UnitSystem
from goodbalance.core.record.history import Written
from goodbalance.exchange.typed import Typed, as_shown, default_text

Conflicts = dict[str, dict[str, str]]  # path to {text: theirs, author, mine}, in the reader's units


def text_conflicts(
    model: type[Facts], written: Mapping[str, Written], typed: Mapping[str, str], was: Mapping[str, str], units: UnitSystem
) -> Conflicts:
    """Fields whose text is neither what the page had shown (`was`) nor what was typed on it.

    Whoever wrote it, the same person in another tab too; the same digits in another unit are another text.
    """
    asked = {question.path: question for part in sections(model) for question in part.facts if question.path in typed}
    found = {}
    for path, mine in typed.items():
        there = written.get(path)
        now = shown_text(asked[path], there, units)
        if there is not None and path in was and now.strip() not in (was[path].strip(), mine.strip()):
            found[path] = {"text": now, "author": there.author, "mine": mine}
    return found


def shown_text(question: AskedFact, written: Written | None, units: UnitSystem) -> str:
    """What a form shows for a fact: as written, in the reader's units, or its default."""
    if written is None:
        return default_text(question, units)
    return as_shown(Typed(written.text, UnitSystem(written.units)), question.fact.quantity, units)


def number_conflicts(now: Mapping[str, float], chosen: Mapping[str, float | None], was: Mapping[str, Any]) -> dict[str, float | None]:
    """Settings chosen by hand that are neither as the page had them nor as it wants them: what they are now."""
    found = {}
    for setting_id, mine in chosen.items():
        there = now.get(setting_id)
        if setting_id in was and not _same(there, was[setting_id]) and not _same(there, mine):
            found[setting_id] = there
    return found


def _same(a: float | None, b: float | None) -> bool:
    return a is b if a is None or b is None else abs(a - b) <= 1e-9 * max(1.0, abs(a))
