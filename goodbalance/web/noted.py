"""What a record says, as the core takes it: typed facts, numbers seen at devices, looks at terminals, families of people's own."""

from collections.abc import Iterable, Mapping
from typing import TypeVar

import structlog

from goodbalance.core.balance.quantities import UnitSystem
from goodbalance.core.errors import BrokenFile
from goodbalance.core.record.chain import Entry
from goodbalance.core.record.history import Written
from goodbalance.core.sheets.devices import Noted, Source
from goodbalance.core.sheets.profile import Profile
from goodbalance.core.sheets.wiring import Found, Phase
from goodbalance.core.sheets.wiring import Noted as Seen
from goodbalance.exchange.profiles import read_profile, shipped_profiles
from goodbalance.exchange.typed import Typed
from goodbalance.web.memory import Memory

log = structlog.get_logger("goodbalance")
Key = TypeVar("Key")
_read: Memory[str, Profile] = Memory(64)


def seen_at(looks: Iterable[Entry]) -> dict[tuple[str, str], dict[Phase, Seen]]:
    """What was seen at the terminals, by device and place."""
    found: dict[tuple[str, str], dict[Phase, Seen]] = {}
    for entry in looks:
        body = entry.body
        seen = Seen(Found(body["found"]), body["seen"], body["wants"], entry.by, entry.at, entry.seq)
        found.setdefault((body["device"], body["place"]), {})[Phase(body["phase"])] = seen
    return found


def noted(written: Mapping[Key, Written], source: Source) -> dict[Key, Noted]:
    """Numbers seen at devices, each with who says so."""
    by = {key: f"{each.author} over Modbus from {each.via}" if each.via else each.author for key, each in written.items()}
    return {key: Noted(each.text, source, by[key], each.at, each.seq) for key, each in written.items()}


def typed(written: Mapping[str, Written]) -> dict[str, Typed]:
    """Facts or answers as typed."""
    return {path: Typed(entry.text, UnitSystem(entry.units)) for path, entry in written.items()}


def own_families(entries: Iterable[Entry]) -> list[Profile]:
    """The families that a record holds, read once; one that this version cannot read is left out and stands in the log."""
    found = []
    for entry in entries:
        try:
            profile = _read.once(entry.hash, lambda text=entry.body["text"]: read_profile(text))
        except BrokenFile as wrong:
            log.error("family", entry=entry.seq, family=entry.body["family"], wrong=str(wrong))
            continue
        if profile.id not in shipped_profiles():
            found.append(profile)
    return found
