"""What takes long is worked out beside the web server: a process for each piece, with a time it may take, a few at once.

A page asks for long work in pieces and shows how far it is; who stops asking has stopped it. A piece that takes too long
is ended, whoever asked for it, and all other answers come as soon as ever.
"""

import contextlib
import multiprocessing
import os
import resource
import threading
from collections.abc import Callable
from multiprocessing.connection import Connection
from typing import Any

import structlog

from goodbalance.core.errors import GoodBalanceError
from goodbalance.core.rehearsal.engine import rehearse
from goodbalance.core.stations.kind import AnyKind

log = structlog.get_logger("goodbalance")
AT_ONCE = max(1, (os.cpu_count() or 1) // 2)  # pieces of one process; the other cores answer
WAITING = 6  # so many more may wait for their turn
TURN_WITHIN_S = 20.0
LONGEST_S = 20.0
_turns = threading.Semaphore(AT_ONCE)
_queue = threading.Semaphore(AT_ONCE + WAITING)
_fresh = multiprocessing.get_context("forkserver")
_fresh.set_forkserver_preload([__name__, "goodbalance.core.stations.registry"])  # a child begins with all of it in place


class Busy(Exception):
    """Too many pieces are worked out already."""


class TooLong(Exception):
    """A piece took longer than it may."""


def answer(job: Callable[..., Any], *args: Any, within_s: float = LONGEST_S) -> Any:
    """What job(*args) gives, worked out in a process of its own. job is a function of a module, its arguments can be pickled.

    Raises Busy when it does not get its turn, TooLong when it takes more than within_s, and what the job raises.
    """
    if not _queue.acquire(blocking=False):
        raise Busy
    try:
        if not _turns.acquire(timeout=TURN_WITHIN_S):
            raise Busy
        try:
            return _worked_out(job, args, within_s)
        finally:
            _turns.release()
    finally:
        _queue.release()


def _worked_out(job: Callable[..., Any], args: tuple[Any, ...], within_s: float) -> Any:
    here, there = _fresh.Pipe()
    process = _fresh.Process(target=_work, args=(there, job, args, within_s), daemon=True)
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


def _work(told: Connection, job: Callable[..., Any], args: tuple[Any, ...], within_s: float) -> None:
    """In the child. The limit holds where the parent is gone and nobody ends it."""
    seconds = int(within_s) + 5
    resource.setrlimit(resource.RLIMIT_CPU, (seconds, seconds))
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


def chances(kind: AnyKind, survey: Any, choices: Any, plan: Any) -> Any:
    """How likely each setting stays inside."""
    return kind.chances(survey, choices, plan)


def shown_proofs(kind: AnyKind, survey: Any, choices: Any, plan: Any, held: Any, only: frozenset[str] | None) -> Any:
    """Proofs played on the bench."""
    return list(kind.prove_on_bench(survey, choices, plan, held, only))


def digest_of_run(kind: AnyKind, survey: Any, choices: Any, runs: Any, actions: Any, until_s: float) -> str:
    """The fingerprint of a run worked out from its start. runs: plan, start state and program."""
    return rehearse(kind.bench(survey, choices, *runs), actions, until_s).digest()


def begin() -> None:
    """Have the process ready from which the others are made: the first piece should not wait for it."""
    threading.Thread(target=answer, args=(int,), daemon=True).start()
