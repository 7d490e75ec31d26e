"""Controller families from their files (TOML), checked as they are read: what is wrong is told with its line."""

import json
import re
import tomllib
from functools import lru_cache
from pathlib import Path
from typing import Any

from pydantic import ValidationError

from goodbalance.core.errors import BrokenFile
from goodbalance.core.sheets.profile import Parameter, Profile
from goodbalance.core.sheets.terminals import Terminals
from goodbalance.core.stations.registry import KINDS

FOLDER = Path(__file__).parent.parent / "profiles"


def read_profile(text: str) -> Profile:
    """A family from the text of its file. Raises BrokenFile naming the line, the key and what is accepted."""
    try:
        profile = Profile.model_validate(tomllib.loads(text))
    except tomllib.TOMLDecodeError as wrong:
        raise BrokenFile(f"the profile is not TOML: {wrong}") from wrong
    except ValidationError as wrong:
        first = wrong.errors()[0]
        where = ".".join(str(step) for step in first["loc"]) or "profile"
        raise BrokenFile(f"line {_line_of(text, first['loc'])}, {where}: {first['msg']}") from wrong
    for table, rows in (("parameter", profile.parameter), ("terminals", profile.terminals)):
        for index, row in enumerate(rows):
            words = unknown_meaning(row)
            if words:
                raise BrokenFile(f"line {_line_of(text, (table, index, 'meaning'))}, {words}; see docs/profiles.md")
    return profile


def unknown_meaning(row: Parameter | Terminals) -> str:
    """That a parameter or a group of terminals is about something no kind of station knows; empty where one does."""
    if not row.meaning:
        return ""
    if isinstance(row, Parameter):
        known = row.meaning in known_meanings()
        return "" if known else f"{row.code}: {row.meaning!r} is no meaning that a kind of station knows"
    known = re.sub(r"\b\d+\b", "{n}", row.meaning) in known_wires()
    return "" if known else f"{row.name}: {row.meaning!r} names no wires that a kind of station knows"


@lru_cache(maxsize=1)
def known_meanings() -> frozenset[str]:
    """Every meaning that some kind of station has something to say of, {n} standing for the number of a relay or drive."""
    return frozenset().union(*(kind.keypad.meanings() for kind in KINDS.values() if kind.keypad is not None))


@lru_cache(maxsize=1)
def known_wires() -> frozenset[str]:
    """Every name of wires that some kind of station may need."""
    return frozenset().union(*(kind.wire_meanings for kind in KINDS.values()))


def _line_of(text: str, loc: tuple[int | str, ...]) -> int:
    """The line that a place in the file stands on: its key, or the head of its table, or the first."""
    lines = text.splitlines()
    at, until = 0, len(lines)
    if len(loc) > 1 and loc[0] in ("parameter", "terminals") and isinstance(loc[1], int):
        heads = [number for number, line in enumerate(lines) if re.match(rf"\s*\[\[\s*{loc[0]}\s*\]\]", line)]
        at = heads[loc[1]] if loc[1] < len(heads) else len(lines) - 1
        until = heads[loc[1] + 1] if loc[1] + 1 < len(heads) else len(lines)
        loc = loc[2:]
    keys = [str(step) for step in loc[:1]]
    for number in range(at, until):
        if keys and re.match(rf'\s*(\[\s*)?"?{re.escape(keys[0])}"?\s*[=\]]', lines[number]):
            return number + 1
    return at + 1


def schema_text() -> str:
    """The JSON Schema of a family's file, made from the model that reads it."""
    schema: dict[str, Any] = Profile.model_json_schema()
    schema["$schema"] = "https://json-schema.org/draft/2020-12/schema"
    schema["title"] = "Good Balance controller family"
    return json.dumps(schema, indent=1, sort_keys=True) + "\n"


@lru_cache(maxsize=1)
def shipped_profiles() -> dict[str, Profile]:
    """The made-up families that come with the app, by id."""
    found = (read_profile(path.read_text(encoding="utf-8")) for path in sorted(FOLDER.glob("*.toml")))
    return {profile.id: profile for profile in found}
