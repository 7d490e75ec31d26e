"""Records on a real MariaDB: appended once, in order, in full, and taken in from files."""

import threading
import unittest

from pydantic import ValidationError
from sqlalchemy import inspect, select

from goodbalance.core.errors import BrokenFile, OutOfRange
from goodbalance.core.record.chain import Kind, check_chain
from goodbalance.exchange.station_file import read_station, write_station
from goodbalance.store import people, records
from goodbalance.store.database import migrate, session_maker
from goodbalance.store.models import Base, EntryRow
from tools.stage.server import empty_session, engine

DEPTH = {"changes": {"well.depth_m": {"text": "4,2", "units": "metric"}}}


class RecordsTest(unittest.TestCase):
    def setUp(self) -> None:
        self.session = empty_session()
        self.addCleanup(lambda: self.session.close())
        self.station = records.create_station(self.session, "Test pit", "Yard", "lift", "Ada Wren")
        self.session.commit()

    def test_the_schema_is_what_the_models_say(self) -> None:
        migrate(engine())  # a second time changes nothing
        seen = inspect(engine())
        for table in Base.metadata.tables.values():
            self.assertEqual({c["name"] for c in seen.get_columns(table.name)}, {c.name for c in table.columns})

    def test_a_repeated_save_counts_once(self) -> None:
        first = records.append(self.session, self.station.id, Kind.FACTS, DEPTH, "Ada Wren", "key-00000001")
        again = records.append(self.session, self.station.id, Kind.FACTS, DEPTH, "Ada Wren", "key-00000001")
        self.assertEqual((first.repeated, again.repeated), (False, True))
        self.assertEqual(first.entry, again.entry)
        self.assertEqual(len(records.entries(self.session, self.station.id)), 2)

    def test_many_writers_make_one_chain(self) -> None:
        def write(author: str) -> None:
            with session_maker(engine())() as session:
                for _ in range(10):
                    records.append(session, self.station.id, Kind.FACTS, DEPTH, author)
                    session.commit()

        writers = [threading.Thread(target=write, args=(name,)) for name in ("Ada", "Bo", "Cy")]
        for writer in writers:
            writer.start()
        for writer in writers:
            writer.join()
        found = records.entries(self.session, self.station.id)
        self.assertEqual(len(found), 31)
        check_chain(found)

    def test_twelve_saves_at_once_are_all_kept_however_stale_what_their_sessions_had_read(self) -> None:
        """Each session has loaded the station before, as a request does, and all begin together."""
        ready, errors = threading.Barrier(12), []

        def write(number: int) -> None:
            try:
                with session_maker(engine())() as session:
                    records.station(session, self.station.id)
                    ready.wait(10.0)
                    point = {"text": f"point {number}"}
                    records.keep(session, self.station.id, "Ada Wren", [records.Draft(Kind.OPEN_POINT, point)])
            except Exception as wrong:  # a thread's failure must fail the test
                errors.append(wrong)

        writers = [threading.Thread(target=write, args=(number,)) for number in range(12)]
        for writer in writers:
            writer.start()
        for writer in writers:
            writer.join()
        self.assertEqual(errors, [])
        found = records.entries(self.session, self.station.id)
        check_chain(found)
        self.assertEqual(sorted(e.body["text"] for e in found[1:]), sorted(f"point {n}" for n in range(12)))

    def test_a_save_key_belongs_to_a_station_a_person_and_what_was_typed(self) -> None:
        other = records.create_station(self.session, "Other pit", "Yard", "lift", "Ada Wren")
        self.session.commit()
        one, two = {"text": "Lid hinge"}, {"text": "Lid hinge on order"}
        for station_id, author, body, key in (
            (self.station.id, "Ada Wren", one, "k" * 90), (self.station.id, "Ada Wren", one, "k" * 90),
            (other.id, "Ada Wren", one, "k" * 90), (self.station.id, "Bo Lund", one, "k" * 90),
            (self.station.id, "Ada Wren", two, "k" * 90),
        ):  # fmt: skip
            records.keep(self.session, station_id, author, [records.Draft(Kind.OPEN_POINT, body, key)])
        texts = [(e.author, e.body["text"]) for e in records.entries(self.session, self.station.id)[1:]]
        expected = [("Ada Wren", one["text"]), ("Bo Lund", one["text"]), ("Ada Wren", two["text"])]
        self.assertEqual(texts, expected)
        self.assertEqual(len(records.entries(self.session, other.id)), 2)
        # what the server works out beside may differ when it is sent again
        for verdict in ("passed", "failed"):
            seen = {"proof": "p", "seen": "1", "units": "metric", "method": "bench", "verdict": verdict, "expected": None}
            draft = records.Draft(Kind.OBSERVATION, seen, "key-2", typed=["p", "1"])
            (last,) = records.keep(self.session, other.id, "Ada Wren", [draft])
        self.assertEqual((last.repeated, last.entry.body["verdict"]), (True, "passed"))

    def test_what_is_made_from_the_record_sees_what_was_written_meanwhile(self) -> None:
        known = records.history(self.session, self.station.id)
        with session_maker(engine())() as session:
            records.keep(session, self.station.id, "Bo Lund", [records.Draft(Kind.FACTS, DEPTH)])

        def make(history) -> list[records.Draft]:
            return [records.Draft(Kind.OPEN_POINT, {"text": f"depth is {history.facts['well.depth_m'].text}"})]

        (kept,) = records.keep(self.session, self.station.id, "Ada Wren", make, known)
        self.assertEqual((kept.entry.seq, kept.entry.body["text"]), (3, "depth is 4,2"))

    def test_a_changed_row_shows(self) -> None:
        records.append(self.session, self.station.id, Kind.FACTS, DEPTH, "Ada Wren")
        row = self.session.scalars(select(EntryRow).where(EntryRow.seq == 2)).one()
        row.body = row.body.replace("4,2", "5,2")
        self.session.flush()
        with self.assertRaises(BrokenFile):
            check_chain(records.entries(self.session, self.station.id))

    def test_a_body_of_the_wrong_shape_is_not_written(self) -> None:
        with self.assertRaises(ValidationError):
            records.append(self.session, self.station.id, Kind.OPEN_POINT, {"text": ""}, "Ada Wren")
        with self.assertRaises(LookupError):
            records.append(self.session, 10**6, Kind.FACTS, DEPTH, "Ada Wren")
        self.assertEqual(len(records.entries(self.session, self.station.id)), 1)

    def test_a_file_makes_an_identical_station(self) -> None:
        records.append(
            self.session, self.station.id, Kind.OPEN_POINT, {"text": "Deckel \u00fc \u2192 bestellt"}, "Ada Wren"
        )
        text = write_station(records.entries(self.session, self.station.id))
        self.session.rollback()
        self.session = empty_session()
        row, added = records.take_in(self.session, read_station(text.encode()), "Bo Lund")
        self.session.commit()
        self.assertEqual(added, 2)
        self.assertEqual(write_station(records.entries(self.session, row.id)), text)

    def test_a_file_adds_only_what_is_new_and_never_overwrites(self) -> None:
        older = records.entries(self.session, self.station.id)
        records.append(self.session, self.station.id, Kind.FACTS, DEPTH, "Ada Wren")
        newer = records.entries(self.session, self.station.id)
        self.assertEqual(records.take_in(self.session, newer, "Bo Lund")[1], 0)
        with self.assertRaisesRegex(BrokenFile, "record differs"):
            records.take_in(self.session, older, "Bo Lund")
        self.session.rollback()
        self.session = empty_session()
        records.take_in(self.session, older, "Bo Lund")
        self.assertEqual(records.take_in(self.session, newer, "Bo Lund")[1], 1)


class PeopleTest(unittest.TestCase):
    def test_names_and_passwords(self) -> None:
        with empty_session() as session:
            self.assertTrue(people.nobody_yet(session))
            people.add_person(session, " Ada  Wren ", people.Role.LEAD, "quite long enough here")
            self.assertIsNotNone(people.signed_in(session, "Ada Wren", "quite long enough here"))
            self.assertIsNone(people.signed_in(session, "Ada Wren", "wrong one"))
            self.assertIsNone(people.signed_in(session, "Nobody", "quite long enough here"))
            for name, password in (("Ada Wren", "quite long enough here"), ("", "quite long enough here"), ("Bo", "short")):
                with self.assertRaises(OutOfRange):
                    people.add_person(session, name, people.Role.READER, password)
