"""Controller families from their files (TOML)."""

import tomllib
from functools import lru_cache
from pathlib import Path

from pydantic import ValidationError

from goodbalance.core.errors import BrokenFile
from goodbalance.core.sheets.profile import Profile

FOLDER = Path(__file__).parent.parent / "profiles"


def read_profile(text: str) -> Profile:
    """A family from the text of its file. Raises BrokenFile naming the place."""
    try:
        return Profile.model_validate(tomllib.loads(text))
    except tomllib.TOMLDecodeError as wrong:
        raise BrokenFile(f"the profile is not TOML: {wrong}") from wrong
    except ValidationError as wrong:
        first = wrong.errors()[0]
        where = ".".join(str(step) for step in first["loc"]) or "profile"
        raise BrokenFile(f"{where}: {first['msg']}") from wrong


@lru_cache(maxsize=1)
def shipped_profiles() -> dict[str, Profile]:
    """The made-up families that come with the app, by id."""
    found = (read_profile(path.read_text(encoding="utf-8")) for path in sorted(FOLDER.glob("*.toml")))
    return {profile.id: profile for profile in found}
