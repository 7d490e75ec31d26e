"""One station as the six views see it: record, survey as far as it is known, plan, sheet, proofs, progress."""

from dataclasses import dataclass
from functools import cached_property
from typing import Any, TypeVar

import structlog

from goodbalance.core.balance.facts import Facts
from goodbalance.core.balance.plan import Finding, Plan, Severity
from goodbalance.core.balance.proof import Proof
from goodbalance.core.balance.quantities import UnitSystem
from goodbalance.core.errors import GoodBalanceError
from goodbalance.core.protection.readings import ReadCurrent
from goodbalance.core.record.history import History, Observed
from goodbalance.core.record.proved import Standing, standing
from goodbalance.core.sheets.devices import DeviceValues, Source, Stand, stands_of, values_of
from goodbalance.core.sheets.differences import Matter, matters
from goodbalance.core.sheets.entry_sheet import EntrySheet, RowKind, entry_sheet
from goodbalance.core.sheets.profile import Display, Profile
from goodbalance.core.sheets.wiring import Phase, Walk, walk
from goodbalance.core.stations.kind import AnyKind, Keypad
from goodbalance.core.stations.shared.held import Held
from goodbalance.exchange.profiles import shipped_profiles
from goodbalance.exchange.typed import Reading, answers_of, facts_from, read_facts
from goodbalance.store.models import StationRow
from goodbalance.web import computing
from goodbalance.web.memory import Memory
from goodbalance.web.noted import noted, own_families, seen_at, typed

log = structlog.get_logger("goodbalance")
Key = TypeVar("Key")
Decided = tuple[str, str, str]  # a kind, its survey and its choices as text: all that a plan hangs on
_readings: Memory[tuple[str, str, UnitSystem], Reading] = Memory(512)
_surveys: Memory[str, Facts] = Memory(256)
_rechecked: Memory[Decided, Plan] = Memory(128)
_plans: Memory[tuple[Decided, bool], Plan] = Memory(256)
_sheets: Memory[Decided, EntrySheet] = Memory(128)
_proofs: Memory[Decided, tuple[Proof, ...]] = Memory(128)
_stands: Memory[tuple[str, Decided], tuple[Stand, ...]] = Memory(128)
_devices: Memory[tuple[str, Decided], DeviceValues] = Memory(64)
_held: Memory[tuple[str, Decided], Held[Any]] = Memory(64)
_measured: Memory[str, list[Finding]] = Memory(256)
_chances: Memory[tuple[Decided, tuple[tuple[str, float], ...]], dict[str, float]] = Memory(256)


@dataclass
class Work:
    """A station at an entry of its record. What cannot be worked out yet is None."""

    row: StationRow
    history: History
    kind: AnyKind
    units: UnitSystem
    unsealed: str = ""  # why its head cannot be believed; empty where it bears this installation's seal

    @property
    def broken(self) -> str:
        """Where the record does not hold; empty where it does."""
        return self.history.broken or self.unsealed

    @cached_property
    def reading(self) -> Reading:
        return _readings.once(
            (self.head, "survey", self.units),
            lambda: read_facts(self.kind.survey_model, typed(self.history.facts), self.units),
        )

    @property
    def head(self) -> str:
        """The hash of the last entry, on which all that was written hangs."""
        return self.history.last.hash if self.history.last is not None else ""

    @cached_property
    def findings(self) -> list[Finding]:
        """What does not fit together in the survey."""
        return self.kind.plausibility(self.reading.values)

    @cached_property
    def measured_findings(self) -> list[Finding]:
        """Where what was measured is clearly off what was reckoned."""
        if self.survey_as_written is None or not self.measured:
            return []
        survey, choices, measuring = self.survey_as_written, self.choices, self.kind.measuring
        return _measured.once(self.head, lambda: measuring.findings(survey, choices, self.measured))

    @cached_property
    def survey(self) -> Any:
        """What is reckoned with: the survey as written, with measured rates in place where the school says so."""
        if self.survey_as_written is None:
            return None
        return _surveys.once(self.head, lambda: self._reckoned_with(self.survey_as_written))

    def _reckoned_with(self, survey: Any) -> Any:
        """A survey with what was measured on site in the place of what it says."""
        kind = self.kind
        if kind.measuring is not None:
            survey = kind.measuring.with_measured(survey, self._typed_choices, self.measured)
        if kind.motors is not None and self.history.motors:
            parts = ("pump", "at", "amps", "volts")
            readings = tuple(ReadCurrent(**{part: entry.body[part] for part in parts}) for entry in self.history.motors.values())
            survey = kind.motors.with_readings(survey, readings)
        return survey

    @cached_property
    def measured(self) -> tuple[Any, ...]:
        """What was measured on site and fits the survey still."""
        return () if self.kind.measuring is None else self.kind.measuring.measured_of(self.survey_as_written, self.history)

    @cached_property
    def survey_as_written(self) -> Facts | None:
        """The survey, once it is complete and nothing in it is impossible."""
        if not self.reading.complete or any(f.severity is Severity.STOP for f in self.findings):
            return None
        return facts_from(self.kind.survey_model, self.reading)

    @cached_property
    def choices_reading(self) -> Reading:
        return _readings.once(
            (self.head, "choices", self.units),
            lambda: read_facts(self.kind.choices_model, typed(self.history.choices), self.units, self.survey_answers),
        )

    @cached_property
    def survey_answers(self) -> dict[str, str]:
        """The survey's answers as text: some choices are offered only with certain ones."""
        return answers_of(self.kind.survey_model, typed(self.history.facts))

    @cached_property
    def _typed_choices(self) -> Any:
        """What was decided, without levels; a refused answer falls back to its default and is told by the form."""
        return facts_from(self.kind.choices_model, self.choices_reading)

    @cached_property
    def choices(self) -> Any:
        """What was decided, levels included."""
        choices = self._typed_choices.model_copy(update={"chosen": dict(self.history.chosen), "declined": tuple(sorted(self.history.declined))})
        return choices.stepped(self._step(choices))

    def _step(self, choices: Any) -> float | None:
        """One step of the controller's display in SI; None while there is no survey."""
        if self.survey is None or self.kind.keypad is None:
            return None
        scale = self.kind.keypad.scale(self.survey, self.profile_of(choices), self.display_of(choices))
        return round(scale.step * scale.per_unit, 9)

    def profile_of(self, choices: Any) -> Profile:
        suited = self.suited_profiles
        return next((profile for profile in suited if profile.id == choices.keypad.profile), suited[0])

    @cached_property
    def suited_profiles(self) -> list[Profile]:
        """The controller families that suit this station, by id."""
        if self.kind.keypad is None:
            return []
        family = self.kind.keypad.family_of(self.survey_answers)
        return [profile for profile in self.families if profile.family == family]

    @cached_property
    def families(self) -> tuple[Profile, ...]:
        """Those that ship, then those of people's own that this station's record holds."""
        return (*shipped_profiles().values(), *own_families(self.history.families.values()))

    def display_of(self, choices: Any) -> Display:
        display, steps = choices.keypad.display, self.profile_of(choices).steps
        return display if display in steps else next(iter(steps))

    @property
    def profile(self) -> Profile:
        return self.profile_of(self.choices)

    @cached_property
    def _planned(self) -> tuple[Plan | None, str]:
        """The plan, and why there is none although the survey is complete."""
        if self.survey is None:
            return None, ""
        try:
            return self.plan_with(self.choices), ""
        except GoodBalanceError as wrong:
            return None, str(wrong)

    @property
    def plan(self) -> Plan | None:
        return self._planned[0]

    @property
    def trouble(self) -> str:
        """Why there is no plan although the survey is complete; empty otherwise."""
        return self._planned[1]

    @property
    def explained_plan(self) -> Plan | None:
        """The same with what would open its empty windows, which takes a search: for the page that shows it."""
        if self.plan is None or not any(setting.window.is_empty for setting in self.plan.settings):
            return self.plan
        return self.plan_with(self.choices, explained=True)

    def plan_with(self, choices: Any, explained: bool = False) -> Plan:
        """The plan for other choices, for example while a level is being dragged."""
        key = (self.decided_by(choices), explained)
        if explained:
            return _plans.once(key, lambda: computing.answer(computing.explained_plan, self.kind, self.survey, choices))
        return _plans.once(key, lambda: self.kind.reckon(self.survey, choices, False))

    def decided_by(self, choices: Any) -> Decided:
        """All that a plan for these choices hangs on, as a key for what is worked out of it."""
        own = ",".join(entry.hash for entry in self.history.families.values())
        return f"{self.kind.id} {own}", self._survey_text, choices.model_dump_json()

    @cached_property
    def decided(self) -> Decided:
        """All that a plan hangs on, as a key for what is worked out of it."""
        return self.decided_by(self.choices)

    @cached_property
    def _survey_text(self) -> str:
        return self.survey.model_dump_json()

    def choices_with(self, chosen: dict[str, float]) -> Any:
        return self.choices.model_copy(update={"chosen": chosen})

    @cached_property
    def sheet(self) -> EntrySheet | None:
        keypad = self.kind.keypad
        if keypad is None or self.plan is None:
            return None
        return _sheets.once(self.decided, lambda: self._made_sheet(keypad))

    def _made_sheet(self, keypad: Keypad[Any, Any, Any]) -> EntrySheet:
        display = self.display_of(self.choices)
        values = keypad.values(self.survey, self.choices, self.plan, display)
        scale = keypad.scale(self.survey, self.profile, display)
        return entry_sheet(self.profile, values, scale, self.companions)

    def carried_by(self, profile: Profile) -> tuple[EntrySheet, Held[Any]] | None:
        """The sheet with another family in the controller's place, and what it would not carry; None where it cannot show the units."""
        keypad = self.kind.keypad
        if keypad is None or self.plan is None:
            return None
        display = self.choices.keypad.display if self.choices.keypad.display in profile.steps else next(iter(profile.steps))
        values, scale = keypad.values(self.survey, self.choices, self.plan, display), keypad.scale(self.survey, profile, display)
        sheet = entry_sheet(profile, values, scale, tuple(each for each in self.companions if each.family != profile.family))
        nobody = stands_of(sheet, {}, {}, {})
        return sheet, keypad.held(self.survey, self.choices, values_of(sheet, nobody), display)

    @property
    def companions(self) -> tuple[Profile, ...]:
        """Devices set beside the controller: of each kind that is needed the family taken into the record, else the first."""
        wanted = () if self.kind.keypad is None else self.kind.keypad.companions_of(self.survey_answers)
        own = {profile.family: profile for profile in self.families if profile.id not in shipped_profiles()}
        first = {**{profile.family: profile for profile in reversed(shipped_profiles().values())}, **own}
        return tuple(first[family] for family in wanted if family in first)

    @cached_property
    def rechecked(self) -> Plan | None:
        """The plan with every level as the keypad holds it after rounding."""
        sheet, keypad = self.sheet, self.kind.keypad
        if sheet is None or keypad is None:
            return None
        return _rechecked.once(self.decided, lambda: keypad.recheck(self.survey, self.choices, sheet))

    @cached_property
    def stands(self) -> tuple[Stand, ...]:
        """Every number of the devices, with the latest that is known of it."""
        if self.sheet is None:
            return ()
        sheet, history = self.sheet, self.history
        found, back = noted(history.as_found, Source.AS_FOUND), noted(history.read_backs, Source.READ_BACK)
        resets = noted(history.resets, Source.RESET)
        return _stands.once((self.head, self.decided), lambda: stands_of(sheet, found, back, resets))

    @cached_property
    def comparisons(self) -> tuple[Stand, ...]:
        """What the plan needs of them: first what is typed, in the devices' order, then what is only checked."""
        order = (RowKind.CHANGE, RowKind.REFUSED), (RowKind.CHECK,)
        return tuple(stand for kinds in order for stand in self.stands if stand.row.kind in kinds)

    @cached_property
    def matters(self) -> tuple[Matter, ...]:
        """What stands between plan and devices and must be mended or waived."""
        return () if self.held is None or self.plan is None else matters(self.stands, self.held.uncarried, self.plan)

    @property
    def unsettled(self) -> list[Matter]:
        """Those that nobody has waived."""
        return [matter for matter in self.matters if matter.about not in self.history.waivers]

    @cached_property
    def wiring(self) -> Walk | None:
        """The wiring walk of this plan along the devices of the job, with what was seen so far."""
        if self.plan is None:
            return None
        devices = () if self.kind.keypad is None else (self.profile, *self.companions)
        pumps = getattr(getattr(self.survey, "pumping", None), "count", None)
        strips = [(profile.id, profile.name, profile.strip(pumps)) for profile in devices]
        return walk(strips, self.kind.joints(self.survey, self.choices, self.typed_plan), seen_at(self.history.wires.values()))

    @property
    def wire_faults(self) -> list[Matter]:
        """What was found wrong at the terminals and is neither mended nor waived: nothing is energised before."""
        faults = self.wiring.faults if self.wiring is not None else ()
        return [fault for fault in faults if fault.about not in self.history.waivers]

    @property
    def walked(self) -> tuple[int, int]:
        """How many looks of the wiring walk were made and right, and how many there are."""
        looks = [] if self.wiring is None else [state for phase in Phase for state in self.wiring.states(phase)]
        return looks.count("ok"), len(looks)

    @property
    def temporary(self) -> list[tuple[int, Any]]:
        """Jumpers, lowered settings and the like that are still in."""
        return [(seq, point) for seq, point in self.open_points if seq in self.history.temporary]

    @cached_property
    def proofs(self) -> tuple[Proof, ...]:
        if self.plan is None:
            return ()
        return _proofs.once(self.decided, lambda: self.kind.proofs(self.survey, self.choices, self.typed_plan))

    @property
    def typed_plan(self) -> Plan | None:
        """The plan as a keypad can say it: what is typed, and so what is proved."""
        return self.rechecked or self.plan

    def proof(self, proof_id: str) -> Proof | None:
        return next((proof for proof in self.proofs if proof.id == proof_id), None)

    def proof_state(self, proof: Proof) -> tuple[Standing, Observed | None]:
        """How a proof stands, and the try that says so."""
        return standing(proof, self.history.tries(proof.id), self.as_proved)

    @property
    def as_proved(self) -> Plan:
        """The plan with the numbers as the devices hold them, as far as somebody looked: what a proof proves."""
        return self.held.plan if self.held is not None else self.typed_plan

    @property
    def read_back_codes(self) -> list[str]:
        """Codes of the numbers that were read back."""
        return [stand.row.parameter.code for stand in self.stands if stand.typed]

    @cached_property
    def held(self) -> Held[Any] | None:
        """Plan and program as the devices hold them as far as somebody looked, and as planned where nobody did."""
        keypad = self.kind.keypad
        if keypad is None or self.sheet is None:
            return None
        return _held.once((self.head, self.decided), lambda: keypad.held(self.survey, self.choices, self.device, self.display_of(self.choices)))

    def as_it_stands(self) -> tuple[Any, Any]:
        """Plan and choices with every number as the devices hold it: for what is drawn of them."""
        if self.held is None:
            return self.plan, self.choices
        return self.held.plan, self.choices_with({setting.id: setting.value for setting in self.held.plan.settings})

    def runs(self, program: str, start: float | None) -> tuple[Any, float | None, Any]:
        """Plan, start state and program for the bench: as planned, or, with `as_held`, as the devices stand."""
        return (self.plan, start, None) if program == "planned" or self.held is None else (self.held.plan, start, self.held.program)

    @cached_property
    def device(self) -> DeviceValues | None:
        """What the devices hold as far as somebody looked."""
        sheet = self.sheet
        return None if sheet is None else _devices.once((self.head, self.decided), lambda: values_of(sheet, self.stands))

    @cached_property
    def chances(self) -> dict[str, float]:
        """How likely each setting stays inside its window although the facts are not sure."""
        if self.plan is None:
            return {}
        unsure = self.reading.typical
        parts = (self.kind, self.survey, self.choices, self.plan, unsure)
        return _chances.once((self.decided, tuple(sorted(unsure.items()))), lambda: computing.answer(computing.chances, *parts))

    @property
    def left_for_later(self) -> tuple[str, ...]:
        """Facts of the survey that somebody could not read on site, with where they will come from."""
        return tuple(self.reading.later.values())

    @property
    def open_points(self) -> list[tuple[int, Any]]:
        return [
            (seq, point) for seq, point in self.history.open_points.items() if seq not in self.history.closed_points
        ]
