"""The web side of one kind of station: its picture, its bench, its extra pages, and the pieces it puts into the six views."""

from functools import cached_property
from pathlib import Path
from types import ModuleType
from typing import Any, ClassVar

from goodbalance.core.balance.plan import Plan
from goodbalance.web.sketch import Sketch
from goodbalance.web.work import Work


class KindPages:
    """What the views ask of a kind. Beside its modules stand a folder `templates` and a folder `static`.

    A template whose name begins with an underscore goes into a view where the view has a place of that name: see docs/architecture.md.
    """

    id: ClassVar[str]  # of its kind
    folder: ClassVar[Path]
    rooms: ClassVar[tuple[ModuleType, ...]] = ()  # modules with a router of their own
    picture_told: ClassVar[str]  # what the drawing shows, for those who do not see it
    reads_as_signal: ClassVar[bool] = True  # whether its flags can be read as a signal

    @cached_property
    def pieces(self) -> frozenset[str]:
        """The places in the views for which it has a template."""
        return frozenset(path.stem.removeprefix("_") for path in (self.folder / "templates").glob("_*.html"))

    def piece(self, place: str) -> str:
        """The template for a place in a view; one with nothing in it where this kind has none."""
        return f"{self.id}/_{place}.html" if place in self.pieces else "_nothing.html"

    @property
    def script(self) -> str:
        """The module that draws its station: layout, drawStill, drawFlags, drawRunning."""
        return f"kinds/{self.id}/section.js"

    def picture(self, work: Work, plan: Plan, choices: Any, settings: list[dict[str, Any]]) -> dict[str, Any]:
        """What its script draws. settings: every setting as its beam and flag have it; `flags` of the answer are some of these."""
        raise NotImplementedError

    def sketch(self, to: Sketch) -> None:
        """Draws the station of a survey under way, as far as it is known; nothing where this kind has no drawing."""

    def bench(self, work: Work) -> dict[str, Any]:
        """What the bench's page is built from: knobs, contacts, things to break, the trend's axes."""
        raise NotImplementedError

    def totals(self, seen: Any, work: Work) -> list[dict[str, str]]:
        """What a run adds up to, by its bench."""
        raise NotImplementedError

    def reckon(self, work: Work) -> dict[str, Any]:
        """What its pieces of the plan's page need."""
        return {}

    def enter(self, work: Work) -> dict[str, Any]:
        """What its piece of the entry sheet's page needs."""
        return {}

    def handover(self, work: Work) -> dict[str, Any]:
        """What its piece of the record needs."""
        return {}


PAGES: dict[str, KindPages] = {}  # by the kind's id; filled by registry.py


def pages_of(work: Work) -> KindPages:
    """The web side of a station's kind."""
    return PAGES[work.kind.id]
