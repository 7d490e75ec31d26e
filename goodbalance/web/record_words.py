"""What an entry of a record is about, in the words its pages use: labels for facts, settings and proofs in the place of our ids."""

from functools import cached_property
from typing import Any

from goodbalance.core.balance.facts import AskedFact, sections
from goodbalance.core.balance.proof import Answer, Proof
from goodbalance.core.balance.quantities import UnitSystem, display_unit
from goodbalance.web.survey import OF_SURVEY
from goodbalance.web.work import Work

KINDS = {
    "created": "station made", "facts": "survey", "choices": "choices and settings", "declined": "protections left out", "drawdown": "timed drawdown", "scaling": "scaling check", "motor": "motor readings",
    "energising": "first energising", "trend": "trends", "hand_sweep": "hand sweep", "step_test": "step test", "rehearsal": "kept runs", "family": "controller family", "wire": "wiring walk", "photo": "photos",
    "as_found": "as found at the keypad", "reset": "factory reset", "read_back": "read back", "waiver": "let stand", "stored": "settings stored", "observation": "proofs seen", "open_point": "open points",
    "point_closed": "open points closed", "signature": "signatures",
}  # fmt: skip


class Words:
    """The words of one station's record."""

    def __init__(self, work: Work) -> None:
        self.work = work

    @cached_property
    def _facts(self) -> dict[str, tuple[str, AskedFact]]:
        models = (self.work.kind.survey_model, self.work.kind.choices_model)
        return {question.path: (part.title, question) for model in models for part in sections(model) for question in part.facts}

    @cached_property
    def _settings(self) -> dict[str, str]:
        return {} if self.work.plan is None else {setting.id: setting.label for setting in (*self.work.plan.settings, *self.work.plan.declined)}

    @cached_property
    def _proofs(self) -> dict[str, Proof]:
        return {proof.id: proof for proof in self.work.proofs}

    def fact(self, path: str) -> str:
        """A fact as its form calls it: section, line of a table, label."""
        if path not in self._facts:
            return path.replace("_", " ").replace(".", ", ")
        title, question = self._facts[path]
        line = path.split(".")[-2]
        return f"{title}, {f'line {int(line) + 1}, ' if line.isdecimal() else ''}{question.fact.label[:1].lower()}{question.fact.label[1:]}"

    def answer(self, path: str, change: dict[str, Any]) -> str:
        """What was written there, an answer in its own words, a number with the unit it was typed in."""
        text = str(change.get("text", "")).strip()
        if path not in self._facts or not text:
            return text or "(emptied)"
        asked = self._facts[path][1].fact
        if asked.options:
            return dict(asked.options).get(text, text).partition(" (")[0]
        symbol = display_unit(asked.quantity, UnitSystem(change.get("units", "metric"))).symbol if asked.quantity is not None else ""
        return f"{text} {symbol}" if symbol and text[-1:].isdigit() else text

    def photo(self, body: dict[str, Any]) -> str:
        """What a photo shows: a section of the survey by its title, terminals by their place."""
        titles = {part.id: part.title for part in sections(self.work.kind.survey_model)}
        return titles.get(body["place"], body["place"]) if body["device"] == OF_SURVEY else str(body["place"])

    def setting(self, setting_id: str) -> str:
        """A setting as Reckon calls it."""
        return self._settings.get(setting_id, setting_id.replace("_", " "))

    def proof(self, proof_id: str) -> str:
        """A proof by its title."""
        proof = self._proofs.get(proof_id)
        return proof_id.replace("_", " ") if proof is None else proof.title

    def seen(self, body: dict[str, Any]) -> str:
        """What was seen of a proof, with the unit it was typed in."""
        proof, text = self._proofs.get(str(body.get("proof", ""))), str(body.get("seen", ""))
        if proof is None or proof.answer is not Answer.NUMBER or not text[-1:].isdigit():
            return text
        return f"{text} {display_unit(proof.quantity, UnitSystem(body.get('units', 'metric'))).symbol}".rstrip()
