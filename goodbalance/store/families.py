"""Controller families that people write: each save is a revision, none is ever changed or removed."""

import json
from dataclasses import dataclass
from typing import Any

from sqlalchemy import func, select
from sqlalchemy.exc import IntegrityError
from sqlalchemy.orm import Session

from goodbalance.store.models import FamilyRow

MOST_FAMILIES, MOST_REVISIONS = 400, 400


class Moved(Exception):
    """Somebody has saved a later revision meanwhile."""

    def __init__(self, row: FamilyRow) -> None:
        super().__init__(f"{row.author} has saved revision {row.revision} meanwhile")
        self.row = row


class Full(Exception):
    """No more are kept."""


@dataclass(frozen=True, slots=True)
class Draft:
    """A family as it is to be saved. toml: its file, where nothing is wrong with it."""

    id: str
    name: str
    tables: dict[str, Any]
    toml: str | None


def latest(session: Session) -> list[FamilyRow]:
    """The last revision of every family, by name."""
    newest = select(FamilyRow.id, func.max(FamilyRow.revision).label("revision")).group_by(FamilyRow.id).subquery()
    query = select(FamilyRow).join(newest, (FamilyRow.id == newest.c.id) & (FamilyRow.revision == newest.c.revision))
    return list(session.scalars(query.order_by(FamilyRow.name, FamilyRow.id)))


def revisions(session: Session, family_id: str) -> list[FamilyRow]:
    """Every revision of a family, the last first."""
    return list(session.scalars(select(FamilyRow).where(FamilyRow.id == family_id).order_by(FamilyRow.revision.desc())))


def revision(session: Session, family_id: str, number: int | None = None) -> FamilyRow | None:
    """One revision of a family, by default its last."""
    query = select(FamilyRow).where(FamilyRow.id == family_id).order_by(FamilyRow.revision.desc()).limit(1)
    return session.scalar(query if number is None else query.where(FamilyRow.revision == number))


def save(session: Session, draft: Draft, author: str, base: int) -> FamilyRow:
    """The next revision, after the one it was made from (0 for a new family), and commit. The same again adds nothing.

    Raises Moved where a later one was saved meanwhile, Full.
    """
    last = revision(session, draft.id)
    text = json.dumps(draft.tables, ensure_ascii=False)
    if last is not None and last.author == author and last.tables == text:
        return last
    if (last.revision if last is not None else 0) != base:
        if last is None:
            raise LookupError(draft.id)
        raise Moved(last)
    if base >= MOST_REVISIONS or (last is None and len(latest(session)) >= MOST_FAMILIES):
        raise Full
    row = FamilyRow(id=draft.id, revision=base + 1, name=draft.name, tables=text, toml=draft.toml, author=author)
    session.add(row)
    try:
        session.commit()
    except IntegrityError as wrong:
        session.rollback()
        there = revision(session, draft.id)
        if there is None:
            raise
        raise Moved(there) from wrong
    return row
