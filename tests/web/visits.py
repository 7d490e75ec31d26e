"""What the web tests share: three people, a server, and stations with facts."""

import unittest
import uuid

from goodbalance.store import people
from goodbalance.store.people import Role
from tests.support import Visitor, WebServer, empty_session


def key() -> str:
    return uuid.uuid4().hex


class WebTest(unittest.TestCase):
    @classmethod
    def setUpClass(cls) -> None:
        cls.web = cls.enterClassContext(WebServer())

    def setUp(self) -> None:
        with empty_session() as session:
            people.add_person(session, "Ada Wren", Role.LEAD, "long enough")
            people.add_person(session, "Bo Lund", Role.TECHNICIAN, "long enough")
            people.add_person(session, "Cy Rook", Role.READER, "long enough")
            session.commit()
        self.ada = Visitor(self.web.address).sign_in("Ada Wren", "long enough")

    def station(self, facts: dict[str, str] | None = None) -> str:
        """A new station with these facts; its address."""
        answer = self.ada.form("/stations", name="Test pit", place="Yard", kind="lift")
        path = str(answer.url.path).removesuffix("/survey")
        if facts:
            self.save_facts(path, facts)
        return path

    def save_facts(
        self, path: str, facts: dict[str, str], who: Visitor | None = None, base_seq: int = 0, units: str = "metric"
    ):
        body = {"save_key": key(), "base_seq": base_seq, "units": units, "changes": facts}
        return (who or self.ada).json(f"{path}/facts", body)
