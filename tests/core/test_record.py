"""The record: sealed entries, what they add up to, and files of them."""

import json
import unittest
from dataclasses import replace

from goodbalance.core.errors import BrokenFile
from goodbalance.core.record.chain import FIRST_HASH, Kind, check_chain, seal
from goodbalance.core.record.history import history_of
from goodbalance.exchange.station_file import read_station, write_station

CREATED = {"uid": "0" * 32, "kind": "lift", "name": "Test pit", "place": ""}


def record(*said: tuple[Kind, dict]) -> list:
    entries, previous = [], FIRST_HASH
    for seq, (kind, body) in enumerate(((Kind.CREATED, CREATED), *said), 1):
        entry = seal(seq, kind, body, "Ada Wren", f"2026-03-0{seq}T08:00:00.000Z", previous)
        entries.append(entry)
        previous = entry.hash
    return entries


def fact(path: str, text: str) -> tuple[Kind, dict]:
    return Kind.FACTS, {"changes": {path: {"text": text, "units": "metric"}}}


class ChainTest(unittest.TestCase):
    def test_an_honest_record_passes(self) -> None:
        check_chain(record(fact("well.depth_m", "4"), fact("well.depth_m", "4.2")))

    def test_a_changed_entry_shows(self) -> None:
        entries = record(fact("well.depth_m", "4"), fact("well.depth_m", "4.2"))
        entries[1] = replace(entries[1], body={"changes": {"well.depth_m": {"text": "5", "units": "metric"}}})
        with self.assertRaisesRegex(BrokenFile, "entry 2 of the record was changed"):
            check_chain(entries)

    def test_a_resealed_entry_breaks_the_next(self) -> None:
        entries = record(fact("well.depth_m", "4"), fact("well.depth_m", "4.2"))
        entries[1] = seal(2, Kind.FACTS, entries[2].body, "Ada Wren", entries[1].at, entries[1].previous)
        with self.assertRaisesRegex(BrokenFile, "entry 3 of the record does not follow"):
            check_chain(entries)

    def test_a_missing_entry_shows(self) -> None:
        entries = record(fact("a", "1"), fact("a", "2"))
        with self.assertRaisesRegex(BrokenFile, "entry 2 of the record is numbered 3"):
            check_chain([entries[0], entries[2]])


class HistoryTest(unittest.TestCase):
    def test_the_last_word_counts_and_levels_can_be_given_back(self) -> None:
        history = history_of(
            record(
                fact("well.depth_m", "4"),
                fact("well.depth_m", "4.2"),
                (Kind.CHOICES, {"changes": {}, "chosen": {"stop": 0.7, "start_1": 1.2}}),
                (Kind.CHOICES, {"changes": {}, "chosen": {"stop": None}}),
            )
        )
        self.assertEqual(history.facts["well.depth_m"].text, "4.2")
        self.assertEqual(history.chosen, {"start_1": 1.2})

    def test_a_signature_holds_only_until_the_next_entry(self) -> None:
        signed = (Kind.SIGNATURE, {"name": "Ada Wren", "role": "technician", "statement": ""})
        self.assertIsNotNone(history_of(record(signed)).signature)
        later = history_of(record(signed, fact("well.depth_m", "4")))
        self.assertIsNone(later.signature)
        self.assertEqual(later.signatures[0].covers, record(signed)[0].hash)


class StationFileTest(unittest.TestCase):
    def setUp(self) -> None:
        self.entries = record(fact("well.depth_m", "4,2"), (Kind.OPEN_POINT, {"text": "Grüße: lid hinge \u2192 order"}))
        self.text = write_station(self.entries)

    def test_out_and_in_is_the_same_record_and_the_same_text(self) -> None:
        again = read_station(self.text.encode())
        self.assertEqual(again, self.entries)
        self.assertEqual(write_station(again), self.text)

    def test_each_broken_file_is_refused_with_its_reason(self) -> None:
        whole = json.loads(self.text)

        def changed(change) -> bytes:
            copy = json.loads(self.text)
            change(copy)
            return json.dumps(copy).encode()

        for data, reason in (
            (b"", "not JSON"),
            (b"\xff\xfe\x00", "not JSON"),
            (b"[" * 100_000, "not JSON"),
            (b'{"a": NaN}', "not JSON"),
            (b"[]", "not a station file"),
            (json.dumps({"format": "other"}).encode(), "not a station file"),
            (changed(lambda f: f.update(version=2)), "version 2"),
            (changed(lambda f: f.update(record=[])), "no record"),
            (changed(lambda f: f["record"][0].pop("hash")), "entry 1: accepted are exactly"),
            (changed(lambda f: f["record"][1].update(seq="2")), "entry 2: seq is a whole number"),
            (changed(lambda f: f["record"][1].update(kind="gossip")), "unknown kind 'gossip'"),
            (changed(lambda f: f["record"][1].update(body={"changes": 3})), "entry 2: changes"),
            (changed(lambda f: f["record"][1]["body"].update(extra=1)), "entry 2: extra"),
            (
                changed(lambda f: f["record"][2]["body"].update(text="nothing open")),
                "entry 3 of the record was changed",
            ),
            (changed(lambda f: f["record"].pop(1)), "numbered 3"),
            (changed(lambda f: f["record"].pop(0)), "starts with one entry of kind 'created'"),
        ):
            with self.subTest(reason=reason), self.assertRaisesRegex(BrokenFile, reason):
                read_station(data)
        self.assertEqual(whole["format"], "good-balance-station")


class ReadOnTest(unittest.TestCase):
    """A record read in two parts is the record read at once, wherever it is cut."""

    def whole(self) -> list:
        return record(
            fact("well.depth_m", "4"), (Kind.OPEN_POINT, {"text": "hatch loose"}), (Kind.CHOICES, {"chosen": {"start_1": 1.2, "stop": 0.5}}),
            fact("well.depth_m", "4.2"), (Kind.POINT_CLOSED, {"point": 3, "how": "new hinge"}), (Kind.CHOICES, {"chosen": {"start_1": None}}),
            (Kind.SIGNATURE, {"name": "Ada", "role": "lead", "statement": "as it stands"}),
        )  # fmt: skip

    def test_wherever_it_is_cut_it_adds_up_to_the_same_and_the_first_part_stays_as_it_was(self) -> None:
        entries = self.whole()
        for cut in range(1, len(entries)):
            first = history_of(entries[:cut])
            told = repr(first)
            self.assertEqual(history_of(entries[cut:], first), history_of(entries), cut)
            self.assertEqual(repr(first), told, cut)
        at_once = history_of(entries)
        self.assertEqual((at_once.chosen, at_once.facts["well.depth_m"].text), ({"stop": 0.5}, "4.2"))
        self.assertEqual((at_once.signature.seq, list(at_once.closed_points)), (8, [3]))

    def test_what_does_not_follow_is_told_and_what_was_broken_stays_so(self) -> None:
        entries = self.whole()
        skipped = history_of(entries[4:], history_of(entries[:3]))
        self.assertIn("entry 4 of the record is numbered 5", skipped.broken)
        changed = [*entries[:1], replace(entries[1], author="Bo"), *entries[2:]]
        first = history_of(changed[:3])
        self.assertIn("entry 2 of the record was changed", first.broken)
        self.assertEqual(history_of(changed[3:], first).broken, first.broken)
