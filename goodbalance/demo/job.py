"""One station of the demo, worked on as its technician would: everything goes through the record."""

from typing import Any

import numpy as np
from sqlalchemy.orm import Session

from goodbalance.core.balance.plan import Plan
from goodbalance.core.balance.proof import Proof, judge
from goodbalance.core.balance.quantities import UnitSystem, display_unit
from goodbalance.core.protection.energising import Does, Step, steps
from goodbalance.core.protection.readings import At
from goodbalance.core.record.chain import Kind
from goodbalance.core.record.proved import noted
from goodbalance.core.rehearsal.engine import TimedAction, rehearse
from goodbalance.core.sheets.entry_sheet import EntrySheet, entry_sheet
from goodbalance.core.sheets.wiring import Phase, walk
from goodbalance.core.stations.kind import StationKind
from goodbalance.core.stations.lift.survey.survey import Arrangement
from goodbalance.exchange.profiles import shipped_profiles
from goodbalance.exchange.typed import Typed, answers_of, facts_from, read_facts
from goodbalance.store import records


class Job:
    """A station made and worked on by one person."""

    def __init__(
        self, session: Session, kind: StationKind, author: str, name: str, place: str, facts: dict[str, str],
        choices: dict[str, str] | None = None,
    ) -> None:  # fmt: skip
        self.session, self.kind, self.author = session, kind, author
        self.row = records.create_station(session, name, place, kind.id, author)
        groups: dict[str, dict[str, dict[str, str]]] = {}
        for path, text in facts.items():
            groups.setdefault(path.split(".")[0], {})[path] = {"text": text, "units": "metric"}
        for changes in groups.values():
            self.write(Kind.FACTS, {"changes": changes})
        if choices:
            changes = {path: {"text": text, "units": "metric"} for path, text in choices.items()}
            self.write(Kind.CHOICES, {"changes": changes})
        typed = {path: Typed(text) for path, text in facts.items()}
        self.answers = answers_of(kind.survey_model, typed)
        self.survey: Any = facts_from(kind.survey_model, read_facts(kind.survey_model, typed, UnitSystem.METRIC))
        decided = {path: Typed(text) for path, text in (choices or {}).items()}
        read = read_facts(kind.choices_model, decided, UnitSystem.METRIC, self.answers)
        self.choices: Any = facts_from(kind.choices_model, read)
        family = kind.keypad.family_of(self.answers)
        self.profile = next(profile for profile in shipped_profiles().values() if profile.family == family)
        self.scale = kind.keypad.scale(self.survey, self.profile, self.choices.keypad.display)
        self.choices = self.choices.stepped(round(self.scale.step * self.scale.per_unit, 9))
        self.plan = kind.reckon(self.survey, self.choices)

    def write(self, kind: Kind, body: dict[str, Any], author: str = "") -> None:
        """One entry of the record, by this person unless another is named."""
        records.append(self.session, self.row.id, kind, body, author or self.author)

    def choose(self, chosen: dict[str, float]) -> None:
        """Settings set by hand, in SI."""
        self.write(Kind.CHOICES, {"chosen": chosen})
        self.choices = self.choices.model_copy(update={"chosen": {**self.choices.chosen, **chosen}})
        self.plan = self.kind.reckon(self.survey, self.choices)

    def draw_down(self, pump: int, runs: list[dict[str, dict[str, float]]]) -> None:
        """A timed drawdown."""
        self.write(Kind.DRAWDOWN, {"pump": pump, "runs": runs})

    def read_motor(self, pump: int, at: At, amps: tuple[float, ...], volts: tuple[float, ...] = (), note: str = "") -> None:
        """Currents read with a clamp meter."""
        self.write(Kind.MOTOR, {"pump": pump, "at": at.value, "amps": list(amps), "volts": list(volts), "note": note})

    def energise(self, count: int, numbers: dict[str, dict[str, float]], odd: dict[str, str]) -> None:
        """The first steps of the first energising, right but for those in odd, which say what was found; swapped leads only after a wrong bump."""
        motors = self.kind.motors
        listed = steps(motors.duties(self.survey), motors.water_side(self.survey), "as in the plan", motors.has_floats(self.survey), motors.protection(self.survey).watches_leakage, motors.told(self.survey))
        made: list[tuple[Step, bool]] = []
        for step in listed[:count]:
            wrong = step.id in odd
            if step.does is Does.SWAP:
                if f"{Does.ROTATION}.{step.pump}" in odd:
                    turned = next(each for each in listed if each.does is Does.ROTATION and each.pump == step.pump)
                    made += [(step, True), (turned, True)]
                continue
            made.append((step, not wrong))
        for step, good in made:
            body = {"step": step.id, "good": good, "confirmed": step.must.value, "numbers": numbers.get(step.id, {}), "why_now": ""}
            self.write(Kind.ENERGISING, {**body, "note": "" if good else odd[step.id]})

    def take_trend(self, name: str, clogged: str, pumps: int) -> None:
        """Thirty hours as the old controller ran it: so many pumps in one group, levels as found, full speed; one is clogged.

        A row each 20 s.
        """
        pumping = self.survey.pumping.model_copy(update={"count": pumps, "arrangement": Arrangement.ONE_GROUP})
        drives = self.survey.drives.model_copy(update={"fitted": False})
        old = self.survey.model_copy(update={"drives": drives, "pumping": pumping})
        noted = {setting: self.kind.as_found(old, setting) for setting in ("stop", "start_1", "start_2", "high_alarm")}
        never = {f"start_{call}": old.inlet.overflow_m + 0.2 for call in range(3, old.pumping.duty_count + 1)}
        as_was = self.choices.model_copy(update={"chosen": {**noted, **never}})
        bench = self.kind.bench(old, as_was, self.kind.reckon(old, as_was, False))
        pattern = (TimedAction(0.0, "pattern", "", 1.0), TimedAction(0.0, "clogged", clogged, 1.0))
        run = rehearse(bench, pattern, 30 * 3600.0)
        names = [f"pump_{number}" for number in range(1, pumps + 1)]
        at = [bench.columns.index(column) + 1 for column in ("level_m", *names)]  # type: ignore[attr-defined]
        times_s = np.arange(0.0, run.now_s, 20.0)
        trace = np.array(run.trace)
        level = np.interp(times_s, trace[:, 0], trace[:, at[0]])
        row_of = np.searchsorted(trace[:, 0], times_s, side="right") - 1
        states = trace[row_of][:, at[1:]].astype(int)
        rows = [f"{second:.0f},{h:.3f}," + ",".join(map(str, on)) for second, h, on in zip(times_s, level, states)]
        text = "\n".join([",".join(["time_s", "level_m", *names]), *rows]) + "\n"
        self.write(Kind.TREND, {"name": name, "text": text})

    def check_scaling(self, points: list[tuple[float, float]], note: str) -> None:
        """True values beside what the display showed, in SI."""
        listed = [{"applied": true, "shown": shown} for true, shown in points]
        body = {
            "by": "level",
            "points": listed,
            "zero": self.scale.zero,
            "full": self.scale.zero + self.scale.span,
            "note": note,
        }
        self.write(Kind.SCALING, body)

    def keep_run(self, note: str, actions: tuple[dict[str, Any], ...], until_s: float) -> None:
        """A run on the bench, kept."""
        bench: Any = self.kind.bench(self.survey, self.choices, self.plan)
        start = bench.start
        run = rehearse(bench, tuple(TimedAction(**act) for act in actions), until_s)
        covers = len(records.entries(self.session, self.row.id))
        body = {"covers": covers, self.kind.start_name: start, "until_s": until_s, "actions": list(actions)}
        self.write(Kind.REHEARSAL, {**body, "digest": run.digest(), "note": note})

    @property
    def sheet(self) -> EntrySheet:
        """What is typed, device by device."""
        values = self.kind.keypad.values(self.survey, self.choices, self.plan, self.choices.keypad.display)
        wanted = self.kind.keypad.companions_of(self.answers)
        first = {profile.family: profile for profile in reversed(shipped_profiles().values())}
        return entry_sheet(
            self.profile, values, self.scale, tuple(first[family] for family in wanted if family in first)
        )

    @property
    def typed_plan(self) -> Plan:
        """The plan as its keypads can say it."""
        return self.kind.keypad.recheck(self.survey, self.choices, self.sheet)

    def walk_wiring(self, live: int | None, seen: dict[str, str]) -> None:
        """Every group of terminals right dead, and the first `live` of them live too; all where it is None. seen: what was noted, by place."""
        first = {profile.family: profile for profile in reversed(shipped_profiles().values())}
        devices = (self.profile, *(first[family] for family in self.kind.keypad.companions_of(self.answers) if family in first))
        strips = [(each.id, each.name, each.strip(self.survey.pumping.count)) for each in devices]
        steps = list(walk(strips, self.kind.joints(self.survey, self.choices, self.typed_plan), {}))
        for phase, count in ((Phase.DEAD, len(steps)), (Phase.LIVE, len(steps) if live is None else live)):
            for step in [step for step in steps if step.looks(phase)][:count]:
                body = {"device": step.device, "place": step.place, "phase": phase.value, "found": "ok", "wants": step.wants}
                self.write(Kind.WIRE, {**body, "seen": seen.get(step.place, "") if phase is Phase.LIVE else ""})

    def read_back(self, count: int | None = None) -> None:
        """The first numbers of the sheet, or all, read off the display as they should stand."""
        sheet = self.sheet
        for row in (*sheet.changes, *sheet.checks)[:count]:
            self.write(Kind.READ_BACK, {"code": row.parameter.code, "typed": row.shows, "device": row.device})

    def observe(self, proof_id: str, off: float, note: str = "") -> None:
        """A number seen with real water, this far from what was expected, in SI."""
        proof = next(p for p in self.kind.proofs(self.survey, self.choices, self.typed_plan) if p.id == proof_id)
        seen = proof.expected + off
        unit = display_unit(proof.quantity, UnitSystem.METRIC)
        self.observation(
            proof, f"{unit.from_si(seen):.{max(2, unit.decimals)}f}", "real_water", note, judge(proof, seen).value
        )

    def prove_on_bench(self) -> None:
        """Every proof the bench can show."""
        for shown in self.kind.prove_on_bench(self.survey, self.choices, self.typed_plan):
            unit = display_unit(shown.proof.quantity, UnitSystem.METRIC)
            text = f"{unit.from_si(shown.seen):.3f}" if isinstance(shown.seen, float) else "yes"
            text = " ".join(map(str, shown.seen)) if isinstance(shown.seen, tuple) else text
            self.observation(shown.proof, text, "bench", shown.scene.name, shown.verdict.value)

    def observation(self, proof: Proof, seen: str, method: str, note: str, verdict: str) -> None:
        """One try at a proof."""
        body = {"proof": proof.id, "seen": seen, "units": "metric", "method": method, "note": note}
        self.write(Kind.OBSERVATION, {**body, "verdict": verdict, **noted(proof, self.typed_plan)})

    def open_point(self, text: str, temporary: str = "") -> None:
        """Something left to do, or something put in that must come out again."""
        self.write(Kind.OPEN_POINT, {"text": text, **({"temporary": temporary} if temporary else {})})
