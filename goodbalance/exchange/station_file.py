"""A whole station as one open JSON file, out and in. The format is described in docs/formats.md."""

import json
import re
from typing import Any

from pydantic import ValidationError

from goodbalance.core.errors import BrokenFile
from goodbalance.core.record.bodies import checked_body
from goodbalance.core.record.chain import Entry, Kind, check_chain
from goodbalance.core.stations.registry import KINDS
from goodbalance.exchange.profiles import read_profile

FORMAT = "good-balance-station"
VERSION = 1
LARGEST_FILE_BYTES = 20_000_000
_MOMENT = re.compile(r"\d{4}-[01]\d-[0-3]\dT[0-2]\d:[0-5]\d:[0-6]\d\.\d{3}Z", re.ASCII)
_PARTS = {"seq", "kind", "body", "author", "at", "previous", "hash"}


def write_station(entries: list[Entry]) -> str:
    """The file's text: the same record always gives the same text."""
    listed = [
        {"seq": e.seq, "kind": e.kind.value, "author": e.author, "at": e.at, "body": e.body, "previous": e.previous, "hash": e.hash}
        for e in entries
    ]  # fmt: skip
    name = entries[0].body["name"] if entries else ""
    whole = {"format": FORMAT, "version": VERSION, "station": name, "record": listed}
    return json.dumps(whole, indent=1, sort_keys=True, ensure_ascii=False) + "\n"


def file_stem(name: str) -> str:
    """A station's name as the beginning of a file's, in letters that every system takes."""
    return re.sub(r"[^a-z0-9]+", "-", name.lower()).strip("-") or "station"


def read_station(data: bytes) -> list[Entry]:
    """The record in a file, checked entry by entry and hash by hash. Raises BrokenFile saying where and why."""
    if len(data) > LARGEST_FILE_BYTES:
        raise BrokenFile(f"the file holds {len(data)} bytes; accepted: up to {LARGEST_FILE_BYTES}")
    try:
        whole = json.loads(data.decode("utf-8"), parse_constant=_no_constant)
    except (UnicodeDecodeError, ValueError, RecursionError) as wrong:
        raise BrokenFile(f"the file is not JSON text: {wrong}") from wrong
    if not isinstance(whole, dict) or whole.get("format") != FORMAT:
        raise BrokenFile(f"the file is not a station file: it does not say format {FORMAT!r}")
    if whole.get("version") != VERSION:
        raise BrokenFile(f"the file is of version {whole.get('version')!r}; accepted: {VERSION}")
    listed = whole.get("record")
    if not isinstance(listed, list) or not listed:
        raise BrokenFile("the file holds no record")
    entries = [_entry(number, item) for number, item in enumerate(listed, 1)]
    if entries[0].kind is not Kind.CREATED or any(e.kind is Kind.CREATED for e in entries[1:]):
        raise BrokenFile("a record starts with one entry of kind 'created'")
    check_chain(entries)
    _fits_its_kind(entries)
    return entries


def _fits_its_kind(entries: list[Entry]) -> None:
    """Runs begin with what the bench of that kind of station begins with."""
    kind = KINDS.get(entries[0].body["kind"])
    if kind is None:
        raise BrokenFile(f"this version does not know stations of kind {entries[0].body['kind']!r}")
    for entry in entries:
        if entry.kind is Kind.FAMILY and read_profile(entry.body["text"]).id != entry.body["family"]:
            raise BrokenFile(f"entry {entry.seq}: its family is another one than it says")
    others = {other.start_name for other in KINDS.values()} - {kind.start_name}
    for entry in entries:
        if entry.kind is Kind.REHEARSAL and (entry.body.get(kind.start_name) is None or others & entry.body.keys()):
            raise BrokenFile(f"entry {entry.seq}: a run of this kind of station says {kind.start_name}, and only that")


def _no_constant(name: str) -> None:
    raise ValueError(f"{name} is not a number of JSON")


def _entry(number: int, item: Any) -> Entry:
    if not isinstance(item, dict) or set(item) != _PARTS:
        raise BrokenFile(f"entry {number}: accepted are exactly the parts {', '.join(sorted(_PARTS))}")
    texts = ("kind", "author", "at", "previous", "hash")
    if not isinstance(item["seq"], int) or not all(isinstance(item[part], str) for part in texts):
        raise BrokenFile(f"entry {number}: seq is a whole number and {', '.join(texts)} are texts")
    if not 1 <= len(item["author"]) <= 80 or len(item["at"]) > 24 or len(item["hash"]) != 64:
        raise BrokenFile(f"entry {number}: author, at or hash has a wrong length")
    if not _MOMENT.fullmatch(item["at"]):
        raise BrokenFile(f"entry {number}: at is {item['at'][:24]!r}; accepted: UTC as 2026-09-30T06:41:17.300Z")
    try:
        json.dumps(item, ensure_ascii=False).encode()
    except UnicodeEncodeError as wrong:
        raise BrokenFile(f"entry {number}: holds half a letter that no text can hold") from wrong
    try:
        kind = Kind(item["kind"])
        body = checked_body(kind, item["body"])
    except ValidationError as wrong:
        first = wrong.errors()[0]
        where = ".".join(str(step) for step in first["loc"])
        raise BrokenFile(f"entry {number}: {where}: {first['msg']}") from wrong
    except ValueError as wrong:
        raise BrokenFile(f"entry {number}: unknown kind {item['kind'][:40]!r}") from wrong
    return Entry(item["seq"], kind, body, item["author"], item["at"], item["previous"], item["hash"])
