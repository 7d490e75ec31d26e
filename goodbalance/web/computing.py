"""What takes long is worked out beside the web server: a process for each piece, with a time it may take, a few at once.

A page asks for long work in pieces and shows how far it is; who stops asking has stopped it. A piece that takes too long
is ended, whoever asked for it, and all other answers come as soon as ever.
"""

import contextlib
import multiprocessing
import os
import resource
import threading
import time
from collections.abc import Callable
from multiprocessing.connection import Connection
from typing import Any

import structlog

from goodbalance.core.errors import GoodBalanceError
from goodbalance.core.rehearsal.diagnosis import play_all
from goodbalance.core.rehearsal.engine import rehearse
from goodbalance.core.rehearsal.guarding import guarded
from goodbalance.core.rehearsal.noticing import may_notice, noticed
from goodbalance.core.rehearsal.trying import tries
from goodbalance.core.rehearsal.what_would import what_would
from goodbalance.core.stations.kind import AnyKind

log = structlog.get_logger("goodbalance")
CORES = os.cpu_count() or 1
AT_ONCE = max(1, CORES // 2)  # pieces of one process that somebody waits for; the other cores answer
WAITING = 6  # so many more may wait for their turn
STANDS_BACK = 10  # by which work that is looked on at leaves the cores to whoever wants an answer
TURN_WITHIN_S = 20.0
LONGEST_S = 20.0
PIECE_S = 5.0  # after which a piece of many parts gives back what it has
_fresh = multiprocessing.get_context("forkserver")
_fresh.set_forkserver_preload([__name__, "goodbalance.core.stations.registry"])  # a child begins with all of it in place


class _Line:
    """Who waits for a turn: so many work at once, and so many more may stand there."""

    def __init__(self, at_once: int) -> None:
        self.turns, self.places = threading.Semaphore(at_once), threading.Semaphore(at_once + WAITING)


_line, _back_line = _Line(AT_ONCE), _Line(CORES)


class Busy(Exception):
    """Too many pieces are worked out already."""


class TooLong(Exception):
    """A piece took longer than it may."""


def answer(job: Callable[..., Any], *args: Any, within_s: float = LONGEST_S, stands_back: bool = False) -> Any:
    """What job(*args) gives, worked out in a process of its own. job is a function of a module, its arguments can be pickled.

    stands_back: the page shows how far it is, so it may have every core that nobody else wants. Raises Busy when it does
    not get its turn, TooLong when it takes more than within_s, and what the job raises.
    """
    line = _back_line if stands_back else _line
    if not line.places.acquire(blocking=False):
        raise Busy
    try:
        if not line.turns.acquire(timeout=TURN_WITHIN_S):
            raise Busy
        try:
            return _worked_out(job, args, within_s, STANDS_BACK if stands_back else 0)
        finally:
            line.turns.release()
    finally:
        line.places.release()


def _worked_out(job: Callable[..., Any], args: tuple[Any, ...], within_s: float, stands_back: int) -> Any:
    here, there = _fresh.Pipe()
    process = _fresh.Process(target=_work, args=(there, job, args, within_s, stands_back), daemon=True)
    process.start()
    there.close()
    try:
        if not here.poll(within_s):
            raise TooLong
        good, found = here.recv()
    except EOFError as wrong:
        raise TooLong from wrong  # ended by its own limit, or by somebody else
    finally:
        here.close()
        process.kill()
        process.join()
        process.close()
    if not good:
        raise found
    return found


def _work(told: Connection, job: Callable[..., Any], args: tuple[Any, ...], within_s: float, stands_back: int) -> None:
    """In the child. The limit holds where the parent is gone and nobody ends it."""
    seconds = int(within_s) + 5
    resource.setrlimit(resource.RLIMIT_CPU, (seconds, seconds))
    os.nice(stands_back)
    try:
        found = (True, job(*args))
    except GoodBalanceError as wrong:
        found = (False, wrong)
    except Exception as wrong:  # what nobody foresaw is told in the parent, in words that travel
        found = (False, RuntimeError(f"{type(wrong).__name__}: {wrong}"))
    with contextlib.suppress(BrokenPipeError):  # nobody waits for it any more
        told.send(found)


def explained_plan(kind: AnyKind, survey: Any, choices: Any) -> Any:
    """A plan with what would open its empty windows."""
    return kind.reckon(survey, choices, True)


def chances(kind: AnyKind, survey: Any, choices: Any, plan: Any, unsure: Any) -> Any:
    """How likely each setting stays inside."""
    return kind.chances(survey, choices, plan, unsure)


def shown_proofs(kind: AnyKind, survey: Any, choices: Any, plan: Any, held: Any, only: frozenset[str] | None) -> Any:
    """Proofs played on the bench."""
    return list(kind.prove_on_bench(survey, choices, plan, held, only))


def against_proofs(kind: AnyKind, survey: Any, choices: Any, plan: Any, held: Any, healthy: Any, troubles: Any) -> Any:
    """Faults against every proof: the first, and those after it that so much time is enough for.

    healthy: the proofs as the bench shows them with nothing broken; None: they are made first. Given back, with the rows.
    """
    began = time.monotonic()
    healthy = healthy or list(kind.prove_on_bench(survey, choices, plan, held))
    rows: list[Any] = []
    for trouble in troubles:
        rows.append(noticed(trouble, healthy, kind.prove_on_bench(survey, choices, plan, held, may_notice(trouble, healthy), trouble)))
        if time.monotonic() - began > PIECE_S:
            break
    return healthy, rows


def played(kind: AnyKind, survey: Any, choices: Any, runs: Any, troubles: Any, before: Any) -> Any:
    """Faults played through the usual stories, as many as so much time is enough for. runs: plan and program; before: how the switches stand."""
    began, (plan, program) = time.monotonic(), runs
    stories, found = kind.diagnosis.stories(survey, choices, plan), {}
    for trouble in troubles:
        found |= play_all(lambda start: kind.bench(survey, choices, plan, start, program), kind.diagnosis.signs, (trouble,), stories, before)
        if time.monotonic() - began > PIECE_S:
            break
    return found


def tried(kind: AnyKind, survey: Any, choices: Any, runs: Any, before: Any, played_all: Any, found: Any) -> Any:
    """What to try next between these causes. played_all: without its looks, which are not needed."""
    plan, program = runs
    stories = {story.name: story for story in kind.diagnosis.stories(survey, choices, plan)}
    asked = kind.diagnosis
    return tries(lambda start: kind.bench(survey, choices, plan, start, program), asked.signs, asked.levers, played_all, found, stories, before)


def ways(kind: AnyKind, survey: Any, choices: Any, runs: Any, actions: Any, until_s: float, asked: tuple[int, bool], troubles: Any) -> Any:
    """What would start or stop a pump of a run as it stands then. asked: which, and whether it should start; troubles: what is broken."""
    run = rehearse(kind.bench(survey, choices, *runs), actions, until_s)
    return what_would(run, *asked, kind.diagnosis.levers(run.bench), troubles)


def still_guarded(kind: AnyKind, survey: Any, choices: Any, runs: Any, driven: bool) -> Any:
    """What still protects pump 1 in AUTO, in HAND and past its controller. runs: plan and program."""
    plan, program = runs
    asked = kind.diagnosis
    dangers = asked.dangers(kind.bench(survey, choices, plan, None, program))
    return dangers, guarded(lambda start: kind.bench(survey, choices, plan, start, program), asked.at_work(survey, choices, plan), dangers, 1, driven)


def digest_of_run(kind: AnyKind, survey: Any, choices: Any, runs: Any, actions: Any, until_s: float) -> str:
    """The fingerprint of a run worked out from its start. runs: plan, start state and program."""
    return rehearse(kind.bench(survey, choices, *runs), actions, until_s).digest()


def begin() -> None:
    """Have the process ready from which the others are made: the first piece should not wait for it."""
    threading.Thread(target=answer, args=(int,), daemon=True).start()
