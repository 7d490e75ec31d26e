"""Whether every record still holds: each entry after the one before it, the head the last of them and sealed here."""

from collections.abc import Iterator

from sqlalchemy import select
from sqlalchemy.orm import Session

from goodbalance.core.errors import BrokenFile
from goodbalance.core.record.chain import check_chain
from goodbalance.store import records
from goodbalance.store.models import StationRow

UNSEALED = "its last entry does not bear the seal of this installation"


def broken_records(session: Session) -> Iterator[tuple[StationRow, str]]:
    """Each station whose record does not hold, and where."""
    for row in stations(session):
        why = _chain_trouble(session, row) or ("" if records.is_sealed(session, row) else UNSEALED)
        if why:
            yield row, why


def seal_all(session: Session, first: bool) -> int:
    """Seal every record that holds with the newest key. Returns how many were sealed.

    first: this installation has had no key so far, so that no head can bear a seal yet.
    """
    good = [
        row for row in stations(session)
        if not _chain_trouble(session, row) and (first or records.is_sealed(session, row))
    ]  # fmt: skip
    for row in good:
        records.seal_head(session, row)
    return len(good)


def stations(session: Session) -> list[StationRow]:
    """Every station that is not removed, in the order they were made."""
    return list(session.scalars(select(StationRow).where(StationRow.removed_at.is_(None)).order_by(StationRow.id)))


def _chain_trouble(session: Session, row: StationRow) -> str:
    """Why the entries of a record do not make its chain up to its head; empty where they do."""
    try:
        entries = records.entries(session, row.id)
        check_chain(entries)
    except (BrokenFile, ValueError, KeyError) as wrong:
        return str(wrong)
    last = (entries[-1].seq, entries[-1].hash) if entries else (0, "")
    if last != (row.head_seq, row.head_hash):
        return f"the record ends with entry {last[0]}; the last one written was {row.head_seq}"
    return ""
