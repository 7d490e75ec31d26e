"""Slows down who guesses passwords: for one name from one address the wait doubles; nobody else is kept out."""

import hashlib
from datetime import datetime, timedelta

from sqlalchemy import delete, select
from sqlalchemy.orm import Session

from goodbalance.store.database import committed
from goodbalance.store.models import AttemptRow, utc_now

FREE_TRIES = 5
SHORTEST_S, LONGEST_S = 2.0, 600.0
KEPT = timedelta(days=1)  # after its wait a count is remembered so long


def wait_s(session: Session, name: str, address: str, now: datetime | None = None) -> float:
    """How long this name must wait at this address before its next try; 0 when it need not. [s]"""
    until = session.scalar(select(AttemptRow.until).where(AttemptRow.id == _id(name, address)))
    return 0.0 if until is None else max(0.0, (until - (now or utc_now())).total_seconds())


def failed(session: Session, name: str, address: str, now: datetime | None = None) -> None:
    """One more wrong try: the first few are free, then each wait is twice the last. Commits: every process counts it."""
    told, key = now or utc_now(), _id(name, address)

    def count() -> None:
        session.execute(delete(AttemptRow).where(AttemptRow.until < told - KEPT))
        row = session.scalar(select(AttemptRow).where(AttemptRow.id == key).with_for_update())
        if row is None:
            row = AttemptRow(id=key, count=0, until=told)
            session.add(row)
        row.count += 1
        beyond = row.count - FREE_TRIES
        waits_s = min(SHORTEST_S * 2.0 ** min(beyond, 20), LONGEST_S) if beyond >= 0 else 0.0
        row.until = told + timedelta(seconds=waits_s)

    committed(session, count)


def succeeded(session: Session, name: str, address: str) -> None:
    """Let in: the count begins anew, once the caller commits."""
    session.execute(delete(AttemptRow).where(AttemptRow.id == _id(name, address)))


def _id(name: str, address: str) -> str:
    return hashlib.sha256(f"{' '.join(name.split()).casefold()}\n{address}".encode()).hexdigest()
