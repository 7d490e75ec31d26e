"""How far each view of a station is: a shape and a word."""

from collections.abc import Callable
from dataclasses import dataclass

import structlog

from goodbalance.core.balance.plan import Severity
from goodbalance.core.sheets.devices import Match
from goodbalance.core.sheets.entry_sheet import RowKind
from goodbalance.web.work import Work

log = structlog.get_logger("goodbalance")


@dataclass(frozen=True, slots=True)
class Progress:
    """How far one view is: a shape and a word."""

    shape: str
    word: str


def progress(work: Work) -> dict[str, Progress]:
    """How far each view is."""
    ways = {
        "survey": _survey_progress,
        "reckon": _reckon_progress,
        "rehearse": _rehearse_progress,
        "enter": _enter_progress,
        "prove": _prove_progress,
        "handover": _handover_progress,
    }
    return {view: _isolated(work, view, way) for view, way in ways.items()}


def progress_words(work: Work) -> dict[str, tuple[str, str]]:
    """The same as shapes and words."""
    return {view: (state.shape, state.word) for view, state in progress(work).items()}


def _isolated(work: Work, view: str, way: Callable[[Work], Progress]) -> Progress:
    """How far a view is; an error nobody foresaw stays with its view, so that the rest can still be reached."""
    try:
        return way(work)
    except Exception as error:
        log.error("progress", station=work.row.id, view=view, exc_info=error)
        return Progress("stop", "cannot be worked out")


def _survey_progress(work: Work) -> Progress:
    wrong = len(work.reading.problems) + sum(f.severity is Severity.STOP for f in work.findings)
    if wrong:
        return Progress("stop", f"{wrong} to correct")
    if work.wire_faults:
        return Progress("stop", f"{len(work.wire_faults)} wiring fault{'s' if len(work.wire_faults) > 1 else ''}")
    if work.reading.missing:
        return Progress("open", f"{len(work.reading.missing)} to fill in")
    questions = len(work.reading.unusual) + sum(finding.severity is not Severity.NOTE for finding in work.findings)
    return Progress("caution", f"complete, {questions} to check") if questions else Progress("ok", "complete")


def _reckon_progress(work: Work) -> Progress:
    if work.plan is None:
        return Progress("open", "waits for survey")
    empty = sum(setting.window.is_empty for setting in work.plan.settings)
    if empty:
        return Progress("empty", f"{empty} window{'s' if empty > 1 else ''} empty")
    if not work.plan.is_sound:
        return Progress("stop", "number outside its window")
    if any(f.severity is Severity.STOP for f in work.plan.findings):
        return Progress("stop", "see findings")
    missed = sum(not figure.keeps for figure in work.plan.figures)
    return (
        Progress("caution", f"{missed} limit{'s' if missed > 1 else ''} missed")
        if missed
        else Progress("ok", "all inside")
    )


def _rehearse_progress(work: Work) -> Progress:
    kept = len(work.history.runs)
    if work.plan is None:
        return Progress("open", "waits for plan")
    return Progress("ok", f"{kept} run{'s' if kept > 1 else ''} kept") if kept else Progress("open", "not yet run")


def _enter_progress(work: Work) -> Progress:
    if work.kind.keypad is None:
        return Progress("ok", "nothing to type")
    if work.sheet is None:
        return Progress("open", "waits for plan")
    counted = [stand.match for stand in work.comparisons]
    refused = sum(stand.row.kind is RowKind.REFUSED and stand.match is Match.NOT_READ for stand in work.comparisons)
    if work.unsettled:
        told = f"{counted.count(Match.DIFFERS)} differ" if Match.DIFFERS in counted else f"{refused} refused" if refused else ""
        return Progress("stop", told or f"{len(work.unsettled)} not carried")
    same, to_read = counted.count(Match.SAME), len(counted) - refused - counted.count(Match.DIFFERS)
    if same < to_read:
        return Progress("open", f"{same} of {len(counted)} read back")
    if not work.history.stored:
        return Progress("caution", "not yet stored")
    return Progress("caution", f"{len(work.matters)} waived") if work.matters else Progress("ok", "read back")


def _prove_progress(work: Work) -> Progress:
    if not work.proofs:
        return Progress("open", "waits for plan")
    states = [work.proof_state(proof)[0] for proof in work.proofs]
    if "failed" in states:
        return Progress("stop", f"{states.count('failed')} failed")
    if "stale" in states:
        return Progress("caution", f"{states.count('stale')} to repeat")
    passed = states.count("passed")
    return (
        Progress("ok", "all passed")
        if passed == len(states)
        else Progress("open", f"{passed} of {len(states)} passed")
    )


def _handover_progress(work: Work) -> Progress:
    if work.broken:
        return Progress("stop", "record does not hold")
    if work.history.signature is not None:
        return Progress("ok", "signed")
    if work.history.signatures:
        last = work.history.signatures[-1]
        elsewhere = last.foreign and last.seq == work.history.seq
        return Progress("caution", "signed elsewhere" if elsewhere else "changed since signing")
    return Progress("open", "not signed")
