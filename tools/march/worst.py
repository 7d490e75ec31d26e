"""The worst ratio of what was marched to what a bound allows, over many stations."""

from dataclasses import dataclass, field


@dataclass
class Worst:
    """Ratios of marched to allowed, bound by bound: 1 or less keeps it."""

    found: dict[str, tuple[int, float, int]] = field(default_factory=dict)  # stations, worst ratio, seed of it
    refused: int = 0
    not_sound: int = 0
    sound: int = 0

    def note(self, bound: str, ratio: float, seed: int) -> None:
        """One station's ratio."""
        count, worst, at = self.found.get(bound, (0, 0.0, seed))
        self.found[bound] = (count + 1, max(worst, ratio), seed if ratio > worst else at)

    def table(self, title: str) -> str:
        """As a table of markdown."""
        lines = [
            f"{title}: {self.refused} refused in words, {self.not_sound} with an empty window or a stop, {self.sound} sound and marched.", "",
            "| what was marched, over what the bound allows | stations | worst ratio |", "|---|---|---|",
        ]  # fmt: skip
        lines += [f"| {bound} | {count} | {ratio:.3f} |" for bound, (count, ratio, _) in self.found.items()]
        return "\n".join(lines)
