"""Stations to begin with: made-up ones of ours that ship as files, typed as somebody would type them."""

import tomllib
from functools import lru_cache
from pathlib import Path

from pydantic import BaseModel, ConfigDict, Field

FOLDER = Path(__file__).parent.parent / "examples"


class Example(BaseModel):
    """One of them. facts, choices: what stands in each field, in metric units."""

    model_config = ConfigDict(frozen=True, extra="forbid")
    id: str
    name: str = Field(max_length=80)
    place: str = Field(max_length=120)
    kind: str
    about: str = Field(max_length=200)
    facts: dict[str, str]
    choices: dict[str, str] = {}


@lru_cache(maxsize=1)
def examples() -> dict[str, Example]:
    """All of them by name of their file."""
    files = sorted(FOLDER.glob("*.toml"), reverse=True)
    return {path.stem: Example(id=path.stem, **tomllib.loads(path.read_text(encoding="utf-8"))) for path in files}
