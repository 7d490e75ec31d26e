"""A stand-in's inside: its numbers as typed, the program they make, and the demo's station that it runs."""

import json
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

from goodbalance.core.balance.quantities import UnitSystem
from goodbalance.core.rehearsal.engine import LONGEST_RUN_S, Run, TimedAction, begun
from goodbalance.core.sheets.devices import Noted, Source, stands_of, values_of
from goodbalance.core.sheets.entry_sheet import EntrySheet, Row, RowKind, entry_sheet
from goodbalance.core.sheets.profile import Display
from goodbalance.core.sheets.registers import Register, register_map
from goodbalance.core.stations.booster.kind import BOOSTER
from goodbalance.core.stations.kind import AnyKind
from goodbalance.core.stations.lift.kind import LIFT
from goodbalance.demo.aquarium import AQUARIUM, AQUARIUM_CHOICES
from goodbalance.demo.lifts import CLINIC_CHOICES, SEAL_CLINIC, SLIPWAY, SLIPWAY_CHOICES
from goodbalance.exchange.profiles import shipped_profiles
from goodbalance.exchange.typed import Typed, answers_of, facts_from, read_facts

STATIONS: tuple[tuple[AnyKind, dict[str, str], dict[str, str]], ...] = (
    (LIFT, SLIPWAY, SLIPWAY_CHOICES), (LIFT, SEAL_CLINIC, CLINIC_CHOICES), (BOOSTER, AQUARIUM, AQUARIUM_CHOICES),
)  # fmt: skip


@dataclass
class StandIn:
    """One device. shown: what its display shows, by code; kept: what it has stored and knows again after a start."""

    kind: AnyKind
    survey: Any
    choices: Any
    sheet: EntrySheet
    display: Display
    file: Path | None = None
    shown: dict[str, str] = field(default_factory=dict)
    run: Run[Any] | None = None
    clock_s: float = 0.0  # of the run
    beat: int = 0
    switches: dict[int, int] = field(default_factory=dict)  # of pumps (1 for pump 1) that somebody has turned, by place

    def __post_init__(self) -> None:
        self.rows: tuple[Row, ...] = tuple(row for row in self.sheet.rows if row.device == self.sheet.profile.id)
        self.registers: tuple[Register, ...] = register_map(self.rows)
        self.shown = {row.parameter.code: row.default_shows for row in self.rows} | self._kept() | self.shown

    def _kept(self) -> dict[str, str]:
        if self.file is None or not self.file.exists():
            return {}
        found = json.loads(self.file.read_text(encoding="utf-8"))
        return {code: text for code, text in found.items() if isinstance(text, str)}

    def type_in(self, code: str, text: str) -> None:
        """A number typed: it acts at once, from where the water stands, and is forgotten at the next start unless saved."""
        self.shown[code] = text
        start = self.run.seen_at(self.clock_s).start if self.run is not None else None
        self.run = None
        self._begin(start)

    def turn(self, pump: int, place: int) -> bool:
        """A hand at the panel turns a pump's switch: 0 HAND, 1 OFF, 2 AUTO. Returns whether there is such a switch."""
        if not 1 <= pump <= self.survey.pumping.count or place not in range(3):
            return False
        self.switches[pump] = place
        if self.run is not None:
            self.run.bench.act(self._turned(pump))
        return True

    def _turned(self, pump: int) -> TimedAction:
        return TimedAction(self.clock_s, "switch", str(pump), float(self.switches[pump]))

    def save(self) -> None:
        """Store what was typed."""
        if self.file is not None:
            self.file.parent.mkdir(parents=True, exist_ok=True)
            self.file.write_text(json.dumps(self.shown), encoding="utf-8")

    def go_on(self, by_s: float) -> None:
        """Let time pass in the station."""
        if self.run is None or self.clock_s + by_s > LONGEST_RUN_S:
            self._begin(None if self.run is None else self.run.bench.start)
        self.clock_s += by_s
        self.beat = (self.beat + 1) % 65536
        if self.run is not None:
            self.run.go_to(self.clock_s)  # a run stands at its last scan; the clock goes on
            del self.run.trace[:-1], self.run.events[:]  # it runs for days: nothing is kept of what is over

    def _begin(self, start: float | None) -> None:
        noted = {("", code): Noted(text, Source.READ_BACK, "", "", 1) for code, text in self.shown.items()}
        device = values_of(self.sheet, stands_of(self.sheet, {}, noted, {}))
        held = self.kind.keypad.held(self.survey, self.choices, device, self.display) if self.kind.keypad is not None else None
        if held is not None:
            self.clock_s = 0.0
            self.run = begun(self.kind.bench(self.survey, self.choices, held.plan, start, held.program), ())
            for pump in self.switches:
                self.run.bench.act(self._turned(pump))

    def live(self) -> list[tuple[str, float]]:
        """What happens now, by the names of its channels."""
        if self.run is None or self.kind.live is None:
            return []
        return list(self.kind.live.told(self.run.seen_at(self.clock_s), self.clock_s).items())


def stand_in(family: str, file: Path | None = None, new: bool = False) -> StandIn:
    """A device of a family with the demo's station behind it. KeyError for a family no station of the demo has.

    new: as it comes from its maker; else with the plan of that station typed in. file: where it keeps what was saved.
    """
    profile = shipped_profiles()[family]
    for kind, facts, decided in STATIONS:
        typed = {path: Typed(text) for path, text in facts.items()}
        answers = answers_of(kind.survey_model, typed)
        if kind.keypad is None or kind.keypad.family_of(answers) != profile.family:
            continue
        survey = facts_from(kind.survey_model, read_facts(kind.survey_model, typed, UnitSystem.METRIC))
        read = read_facts(kind.choices_model, {path: Typed(text) for path, text in decided.items()}, UnitSystem.METRIC, answers)
        choices = facts_from(kind.choices_model, read)
        display = choices.keypad.display if choices.keypad.display in profile.steps else next(iter(profile.steps))
        scale = kind.keypad.scale(survey, profile, display)
        choices = choices.stepped(round(scale.step * scale.per_unit, 9))
        first = {each.family: each for each in reversed(shipped_profiles().values())}
        beside = tuple(first[each] for each in kind.keypad.companions_of(answers) if each in first)
        sheet = entry_sheet(profile, kind.keypad.values(survey, choices, kind.reckon(survey, choices, False), display), scale, beside)
        planned = {row.parameter.code: row.shows for row in sheet.rows if row.kind in (RowKind.CHANGE, RowKind.CHECK) and row.device == family}
        made = StandIn(kind, survey, choices, sheet, display, file)
        if not new and (file is None or not file.exists()):
            made.shown |= planned
        return made
    raise KeyError(family)
