"""What every kind of station lets a person decide: settings set by hand, and the controller that is typed into."""

from typing import Self

from pydantic import Field

from goodbalance.core.balance.facts import Facts


class Choices(Facts):
    """Decisions. chosen holds, in SI, only the settings a person has set; the rest stay recommended.

    declined: protections that are left out, by id.
    """

    chosen: dict[str, float] = Field(default_factory=dict)
    declined: tuple[str, ...] = ()

    def stepped(self, step: float | None) -> Self:
        """The same with one step of the controller's display in SI, if it is known and counts."""
        return self
