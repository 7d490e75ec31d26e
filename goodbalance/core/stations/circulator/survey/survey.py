"""What is asked of a circulator and its ring. Temperatures in degrees C; pressures are differences over the pump unless said otherwise."""

from functools import cached_property
from typing import Any

from goodbalance.core.balance.facts import Alike, Facts, choice, fact, section, words, yes_no
from goodbalance.core.balance.quantities import Quantity as Q
from goodbalance.core.stations.circulator.names import LOCAL_RULES, MAX_BRANCHES, Mode
from goodbalance.core.stations.circulator.survey.heat import HeatFacts
from goodbalance.core.stations.circulator.survey.pipes import BranchFacts, Common, Ring, RingKind, Valves
from goodbalance.core.stations.circulator.survey.pump import PumpFacts
from goodbalance.core.stations.circulator.survey.use import ControlFacts, Use
from goodbalance.core.stations.shared.facts import VisitFacts

MODE_LABELS = {
    "fixed_speed": "A fixed speed", "constant_pressure": "A constant pressure", "proportional_pressure": "A pressure that grows with the flow", "constant_flow": "A constant flow",
    "constant_return": "A constant return temperature", "learning": "It learns the hours by itself",
}  # fmt: skip


class Sureness(Facts):
    """Doubt in the facts, as the half width within which 95 of 100 would lie."""

    loss_share: float = fact("Heat the pipes lose", Q.PERCENT, 0.0, 0.9, usual=(0.05, 0.4), default=0.2)
    head_share: float = fact("Heads of the pump curve", Q.PERCENT, 0.0, 0.5, usual=(0.005, 0.1), default=0.05)
    length_share: float = fact("Lengths of pipe that nobody sees", Q.PERCENT, 0.0, 0.9, usual=(0.02, 0.4), default=0.1)


class AsFound(Facts):
    """What it was set to, and what was measured, before anything was changed."""

    mode_known: bool = yes_no("Its mode was read", default=False)
    mode: Mode = choice("Mode, as found", Mode, MODE_LABELS, default=Mode.SPEED, only_if=(("as_found.mode_known", ("yes",)),))
    speed: float | None = fact("Speed, as found", Q.COUNT, 1.0, 9.0, default=None, hint="by its number, 1 the lowest")
    set_pressure: float | None = fact("Set pressure, as found", Q.DIFFERENCE, 0.0, 1e6, default=None)
    set_flow: float | None = fact("Set flow, as found", Q.LEAK, 0.0, 0.5, default=None)
    set_return: float | None = fact("Set return, as found", Q.TEMPERATURE, 0.0, 90.0, default=None)
    flow_c: float | None = fact("Temperature going out, as found", Q.TEMPERATURE, 0.0, 95.0, default=None)
    return_c: float | None = fact("Temperature at the pump, as found", Q.TEMPERATURE, 0.0, 95.0, default=None)
    noisy: bool = yes_no("It was heard: hiss, gurgle or hum", default=False)
    notes: str = words("Hours as found, readings, state", max_length=2000, long_text=True)


BRANCHES = Alike(
    "Branches", "Each branch a line: out to its farthest tap or its heaters, and back. Nearest to the heat first.",
    (
        ("name", "Called"), ("there_m", "Length out"), ("there_bore_m", "Bore out"), ("back_m", "Length back"), ("back_bore_m", "Bore back"), ("material", "Pipe"),
        ("insulation_m", "Insulation"), ("around_c", "Air"), ("valve", "Its flow by"),
    ),
)  # fmt: skip


def _branch(number: int) -> Any:
    asked = (("ring.branches", tuple(str(count) for count in range(number, MAX_BRANCHES + 1))),)
    return section(f"Branch {number}", "What is not in the table of branches.", alike=BRANCHES, only_if=() if number == 1 else asked, default=... if number == 1 else None)


class CirculatorSurvey(Facts):
    """All facts of a circulator and its ring."""

    visit: VisitFacts = section("Visit and safe start", "Controls in OFF, isolate, lock, prove dead; hot water scalds.", default=VisitFacts())
    ring: Ring = section("Ring", LOCAL_RULES, default=Ring())
    heat: HeatFacts = section("Heat", "What makes it hot, and what it mixes down.")
    common: Common = section("Common pipes", "What every branch's water runs through.")
    branch_1: BranchFacts = _branch(1)
    branch_2: BranchFacts | None = _branch(2)
    branch_3: BranchFacts | None = _branch(3)
    branch_4: BranchFacts | None = _branch(4)
    branch_5: BranchFacts | None = _branch(5)
    branch_6: BranchFacts | None = _branch(6)
    valves: Valves = section("Balancing valves", "Alike ones; a key, and the maker's table.", default=Valves())
    pump: PumpFacts = section("Circulator")
    use: Use = section("Use", "When it is wanted warm, and how long people wait.", default=Use())
    control: ControlFacts = section("What else starts it", "Two controls in series stop each other.", default=ControlFacts())
    sureness: Sureness = section("How sure the facts are", "Half the width within which 95 of 100 would lie.", default=Sureness())
    as_found: AsFound = section("As found", "Write down what is set now, before changing anything.", default=AsFound())

    @cached_property
    def branches(self) -> tuple[BranchFacts, ...]:
        """Those that are there."""
        every = (self.branch_1, self.branch_2, self.branch_3, self.branch_4, self.branch_5, self.branch_6)
        return tuple(branch for branch in every[: self.ring.branches] if branch is not None)

    @property
    def heats(self) -> bool:
        """Whether it heats rooms, and nobody draws from it."""
        return self.ring.kind is RingKind.HEATING

    @property
    def crosses(self) -> bool:
        """Whether its water comes back through the cold pipe."""
        return self.ring.kind is RingKind.CROSSOVER

    @property
    def pumping(self) -> PumpFacts:
        """The pump, under the name every kind of station has for it."""
        return self.pump

    def branch_name(self, number: int) -> str:
        """What people call a branch, 1 for the first."""
        return self.branches[number - 1].name or f"branch {number}"

    def as_found_of(self, setting_id: str) -> float | None:
        """The value found for a setting, or None where none was noted."""
        if setting_id.startswith("valve_"):
            return self.branches[int(setting_id.rpartition("_")[2]) - 1].found_turns
        return getattr(self.as_found, setting_id, None)
