"""Entries of a record, each sealed with a hash that covers the one before it: a changed record shows."""

import hashlib
import json
from collections.abc import Iterable
from dataclasses import dataclass
from enum import StrEnum
from typing import Any

from goodbalance.core.errors import BrokenFile

FIRST_HASH = "0" * 64


class Kind(StrEnum):
    """What an entry says."""

    CREATED = "created"
    FACTS = "facts"
    CHOICES = "choices"
    DECLINED = "declined"
    DRAWDOWN = "drawdown"
    SCALING = "scaling"
    MOTOR = "motor"
    ENERGISING = "energising"
    TREND = "trend"
    HAND_SWEEP = "hand_sweep"
    STEP_TEST = "step_test"
    REHEARSAL = "rehearsal"
    FAMILY = "family"
    WIRE = "wire"
    PHOTO = "photo"
    AS_FOUND = "as_found"
    RESET = "reset"
    READ_BACK = "read_back"
    WAIVER = "waiver"
    STORED = "stored"
    OBSERVATION = "observation"
    OPEN_POINT = "open_point"
    POINT_CLOSED = "point_closed"
    SIGNATURE = "signature"


@dataclass(frozen=True, slots=True)
class Entry:
    """One entry. `at` is UTC, ISO 8601 with milliseconds. brought_by: who took it in, where a file brought it here."""

    seq: int
    kind: Kind
    body: dict[str, Any]
    author: str
    at: str
    previous: str
    hash: str
    brought_by: str = ""

    @property
    def by(self) -> str:
        """Who says so, as it is shown: whoever brings a file vouches for it, not the name that stands in it."""
        return f"{self.author} (from a file, brought in by {self.brought_by})" if self.brought_by else self.author


def seal(seq: int, kind: Kind, body: dict[str, Any], author: str, at: str, previous: str) -> Entry:
    """An entry with its hash: SHA-256 over the canonical JSON of all its parts and the previous hash."""
    return Entry(seq, kind, body, author, at, previous, _hash(seq, kind, body, author, at, previous))


def _hash(seq: int, kind: Kind, body: dict[str, Any], author: str, at: str, previous: str) -> str:
    text = json.dumps([seq, kind.value, body, author, at, previous], sort_keys=True, separators=(",", ":"))
    return hashlib.sha256(text.encode()).hexdigest()


def check_chain(entries: Iterable[Entry], after: Entry | None = None) -> None:
    """Raise BrokenFile at the first entry that is out of order, or that does not match its hash or its forerunner.

    after: the entry that they follow; None where they are a record from its beginning.
    """
    previous, number = (after.hash, after.seq) if after is not None else (FIRST_HASH, 0)
    for entry in entries:
        number += 1
        if entry.seq != number:
            raise BrokenFile(f"entry {number} of the record is numbered {entry.seq}")
        if entry.previous != previous:
            raise BrokenFile(f"entry {entry.seq} of the record does not follow the one before it")
        if entry.hash != _hash(entry.seq, entry.kind, entry.body, entry.author, entry.at, entry.previous):
            raise BrokenFile(f"entry {entry.seq} of the record was changed after it was written")
        previous = entry.hash
