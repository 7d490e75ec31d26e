"""What the columns of files from elsewhere are, as people told it: kept by the headings, for the next file like it."""

import json

from sqlalchemy.dialects.mysql import insert
from sqlalchemy.orm import Session

from goodbalance.store.models import ColumnsRow, utc_now


def known(session: Session, signature: str) -> dict[int, str] | None:
    """What was told of a file with these headings, by column, 0 for the first; None where nobody has."""
    row = session.get(ColumnsRow, signature)
    return None if row is None else {int(place): heading for place, heading in json.loads(row.told).items()}


def keep(session: Session, signature: str, told: dict[int, str], author: str) -> None:
    """Keep it in the place of what was told before, and commit."""
    values = {"signature": signature, "told": json.dumps(told), "author": author, "at": utc_now()}
    session.execute(insert(ColumnsRow).values(values).on_duplicate_key_update({name: values[name] for name in ("told", "author", "at")}))
    session.commit()
