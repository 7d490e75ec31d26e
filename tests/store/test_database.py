"""The way to the database: several nodes, a schema made once, writing that begins again, rows that were changed."""

import json
import threading
import unittest

from sqlalchemy import text
from sqlalchemy.exc import OperationalError

from goodbalance.core.errors import OutOfRange
from goodbalance.core.record.chain import Kind, check_chain
from goodbalance.exchange.station_file import read_station, write_station
from goodbalance.launch.database_server import free_port
from goodbalance.store import links, people, records, second_factor, summaries
from goodbalance.store.database import committed, migrate, open_engine, session_maker
from goodbalance.store.models import LinkRow, utc_now
from tools.stage.server import TABLES, empty_session, engine, server

PASSWORD, OTHER = "quite long enough here", "nine grey herons waited"


class NodesTest(unittest.TestCase):
    def test_the_first_node_that_answers_is_used_and_where_none_does_it_is_told(self) -> None:
        here = server().url
        dead = f"mysql+pymysql://nobody:x@127.0.0.1:{free_port()}/goodbalance"
        for urls in (f"{dead} {here}", f"{here} {dead}", here):
            reached = open_engine(urls)
            with reached.connect() as connection:
                self.assertEqual(connection.execute(text("SELECT 1")).scalar(), 1)
            reached.dispose()
        nowhere = open_engine(f"{dead} {dead}")
        with self.assertRaisesRegex(OperationalError, "Can't connect"):
            nowhere.connect()

    def test_of_four_that_begin_at_once_one_makes_the_schema(self) -> None:
        with engine().connect() as connection:
            connection.execute(text(f"DROP TABLE {', '.join(TABLES)}, alembic_version"))
        wrong: list[Exception] = []

        def begin() -> None:
            mine = open_engine(server().url)
            try:
                migrate(mine)
            except Exception as error:
                wrong.append(error)
            mine.dispose()

        beginners = [threading.Thread(target=begin) for _ in range(4)]
        for each in beginners:
            each.start()
        for each in beginners:
            each.join()
        self.assertEqual(wrong, [])
        with engine().connect() as connection:
            self.assertEqual(connection.execute(text("SELECT COUNT(*) FROM alembic_version")).scalar(), 1)


class WritingTest(unittest.TestCase):
    def setUp(self) -> None:
        self.session = empty_session()
        self.addCleanup(lambda: self.session.close())

    def test_two_that_lock_each_other_both_get_through(self) -> None:
        """Each takes one row and then the other's: the database ends one of them, which begins again."""
        rows = [records.create_station(self.session, name, "Yard", "lift", "Ada").id for name in ("North", "South")]
        self.session.commit()
        met, tries = threading.Barrier(2), []

        def write(first: int, second: int) -> None:
            with session_maker(engine())() as session:

                def both() -> None:
                    tries.append(first)
                    for number, row in enumerate((first, second)):
                        session.execute(text("UPDATE station SET place = CONCAT(place, 'x') WHERE id = :id"), {"id": row})
                        if number == 0 and len(tries) <= 2:
                            met.wait(20.0)

                committed(session, both)

        writers = [threading.Thread(target=write, args=pair) for pair in (rows, rows[::-1])]
        for writer in writers:
            writer.start()
        for writer in writers:
            writer.join()
        places = list(self.session.execute(text("SELECT place FROM station")).scalars())
        self.assertEqual(places, ["Yardxx", "Yardxx"])
        self.assertGreater(len(tries), 2)

    def test_reading_on_adds_what_is_new_and_a_changed_old_row_shows(self) -> None:
        station = records.create_station(self.session, "North", "Yard", "lift", "Ada")
        for number in range(5):
            records.append(self.session, station.id, Kind.OPEN_POINT, {"text": f"point {number}"}, "Ada")
        self.session.commit()
        known = records.read_on(self.session, station.id)
        records.append(self.session, station.id, Kind.OPEN_POINT, {"text": "one more"}, "Ada")
        self.session.commit()
        newer = records.read_on(self.session, station.id, known)
        self.assertEqual((newer.history.seq, newer.history.broken), (7, ""))
        self.assertEqual(newer.history, records.history(self.session, station.id))
        self.assertEqual(newer.rows_sum, records.read_on(self.session, station.id).rows_sum)
        self.assertTrue(records.is_as_known(self.session, station.id, newer))
        self.session.execute(text("UPDATE entry SET author = 'Bo' WHERE seq = 3"))
        self.session.commit()
        self.assertFalse(records.is_as_known(self.session, station.id, newer))
        self.assertIn("entry 3", records.read_on(self.session, station.id).history.broken)


class ApartTest(unittest.TestCase):
    BODY = {"name": "week.csv", "text": "time,level\n" + "\n".join(f"{n},{1.0 + n % 7 * 0.1:.1f}" for n in range(20_000))}

    def test_a_trend_stands_apart_once_and_comes_back_whole_and_its_loss_or_change_shows(self) -> None:
        session = empty_session()
        self.addCleanup(session.close)
        one, two = (records.create_station(session, name, "Yard", "lift", "Ada") for name in ("North", "South"))
        for _ in range(2):
            records.append(session, one.id, Kind.TREND, self.BODY, "Ada")
        session.commit()
        sizes = list(session.execute(text("SELECT LENGTH(body) FROM entry WHERE kind = 'trend'")).scalars())
        self.assertTrue(all(size < 300 for size in sizes), sizes)
        self.assertEqual(session.execute(text("SELECT COUNT(*) FROM attachment")).scalar(), 1)
        kept = records.entries(session, one.id)
        self.assertEqual([entry.body for entry in kept[1:]], [self.BODY, self.BODY])
        check_chain(kept)
        file = write_station(kept).encode()
        self.assertIn(self.BODY["text"][:40], json.loads(file)["record"][1]["body"]["text"])
        summaries.remove(session, one, "Ada")
        self.assertEqual(session.execute(text("SELECT COUNT(*) FROM attachment")).scalar(), 0)
        session.execute(text("DELETE FROM station WHERE id = :id"), {"id": one.id})
        row, added = records.take_in(session, read_station(file), "Bo")
        session.commit()
        self.assertEqual((added, records.entries(session, row.id)[2].body), (3, self.BODY))
        self.assertEqual(records.history(session, row.id).broken, "")
        for change in ("UPDATE attachment SET text = CONCAT(text, ' ')", "DELETE FROM attachment"):
            session.execute(text(change))
            session.commit()
            self.assertIn("entry 2 of the record was changed", records.history(session, row.id).broken)
        self.assertEqual(records.history(session, two.id).broken, "")


class SummaryTest(unittest.TestCase):
    def test_of_a_station_removed_meanwhile_nothing_is_kept_and_nobody_is_hindered(self) -> None:
        session = empty_session()
        self.addCleanup(session.close)
        station = records.create_station(session, "North", "Yard", "lift", "Ada")
        session.commit()
        self.assertEqual(summaries.put(session, station, "Ada", {"survey": ("ok", "complete")}).author, "Ada")
        self.assertEqual(session.execute(text("SELECT COUNT(*) FROM summary")).scalar(), 1)
        session.execute(text("DELETE FROM station WHERE id = :id"), {"id": station.id})
        session.commit()
        summaries.put(session, station, "Ada", {"survey": ("ok", "complete")})
        self.assertEqual(session.execute(text("SELECT COUNT(*) FROM summary")).scalar(), 0)


class LinkTest(unittest.TestCase):
    def setUp(self) -> None:
        self.session = empty_session()
        self.addCleanup(lambda: self.session.close())
        self.ada = people.add_person(self.session, "Ada Wren", people.Role.LEAD, None)
        self.session.commit()

    def test_a_link_is_good_once_for_a_day_and_the_last_one_only(self) -> None:
        old, new = links.make(self.session, self.ada), links.make(self.session, self.ada)
        self.session.commit()
        self.assertIsNone(links.person_of(self.session, old))
        with self.assertRaisesRegex(OutOfRange, "12 to 200 letters"):
            links.use(self.session, new, "short")
        self.assertEqual(links.use(self.session, new, PASSWORD).name, "Ada Wren")
        self.session.commit()
        self.assertIsNone(links.use(self.session, new, OTHER))
        self.assertIsNotNone(people.signed_in(self.session, "Ada Wren", PASSWORD))
        late = links.make(self.session, self.ada)
        self.session.query(LinkRow).update({"until": utc_now()})
        self.session.commit()
        self.assertIsNone(links.use(self.session, late, OTHER))

    def test_of_two_browsers_with_one_link_one_sets_the_password(self) -> None:
        token, ready, done = links.make(self.session, self.ada), threading.Barrier(2), []
        self.session.commit()

        def use(password: str) -> None:
            with session_maker(engine())() as session:
                ready.wait(20.0)
                done.append(links.use(session, token, password) is not None)
                session.commit()

        browsers = [threading.Thread(target=use, args=(password,)) for password in (PASSWORD, OTHER)]
        for browser in browsers:
            browser.start()
        for browser in browsers:
            browser.join()
        self.assertEqual(sorted(done), [False, True])

    def test_a_second_factor_is_read_with_the_keys_it_was_made_with_and_no_others(self) -> None:
        import pyotp

        secret = second_factor.new_secret()
        second_factor.turn_on(self.session, self.ada, secret, pyotp.TOTP(secret).now())
        self.ada.code_step = None
        self.session.commit()
        for keys, accepted in (((b"another",), False), ((b"newer", b"test seal"), True)):
            other = open_engine(server().url, keys)
            with session_maker(other)() as session:
                ada = people.named(session, "Ada Wren")
                self.assertEqual(second_factor.accepts(session, ada, pyotp.TOTP(secret).now()), accepted, keys)
                session.rollback()
            other.dispose()
