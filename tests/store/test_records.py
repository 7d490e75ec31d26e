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
from tests.support import empty_session, engine

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
        row, added = records.take_in(self.session, read_station(text.encode()))
        self.session.commit()
        self.assertEqual(added, 2)
        self.assertEqual(write_station(records.entries(self.session, row.id)), text)

    def test_a_file_adds_only_what_is_new_and_never_overwrites(self) -> None:
        older = records.entries(self.session, self.station.id)
        records.append(self.session, self.station.id, Kind.FACTS, DEPTH, "Ada Wren")
        newer = records.entries(self.session, self.station.id)
        self.assertEqual(records.take_in(self.session, newer)[1], 0)
        with self.assertRaisesRegex(BrokenFile, "record differs"):
            records.take_in(self.session, older)
        self.session.rollback()
        self.session = empty_session()
        records.take_in(self.session, older)
        self.assertEqual(records.take_in(self.session, newer)[1], 1)


class PeopleTest(unittest.TestCase):
    def test_names_and_passwords(self) -> None:
        with empty_session() as session:
            self.assertTrue(people.nobody_yet(session))
            people.add_person(session, " Ada  Wren ", people.Role.LEAD, "long enough")
            self.assertIsNotNone(people.signed_in(session, "Ada Wren", "long enough"))
            self.assertIsNone(people.signed_in(session, "Ada Wren", "wrong one"))
            self.assertIsNone(people.signed_in(session, "Nobody", "long enough"))
            for name, password in (("Ada Wren", "long enough"), ("", "long enough"), ("Bo", "short")):
                with self.assertRaises(OutOfRange):
                    people.add_person(session, name, people.Role.READER, password)
