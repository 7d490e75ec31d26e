"""What the web tests share: three people, a server, and stations with facts."""

import html
import unittest
import uuid

from goodbalance.store import people
from goodbalance.store.people import Role
from tools.stage.server import Visitor, WebServer, empty_session

PASSWORD = "quite long enough here"


def key() -> str:
    return uuid.uuid4().hex


class WebTest(unittest.TestCase):
    @classmethod
    def setUpClass(cls) -> None:
        cls.web = cls.enterClassContext(WebServer())

    def setUp(self) -> None:
        with empty_session() as session:
            people.add_person(session, "Ada Wren", Role.LEAD, PASSWORD)
            people.add_person(session, "Bo Lund", Role.TECHNICIAN, PASSWORD)
            people.add_person(session, "Cy Rook", Role.READER, PASSWORD)
            session.commit()
        self.ada = Visitor(self.web.address).sign_in("Ada Wren", PASSWORD)

    def station(self, facts: dict[str, str] | None = None, kind: str = "lift", name: str = "Test pit", place: str = "Yard") -> str:
        """A new station with these facts; its address."""
        answer = self.ada.form("/stations", name=name, place=place, kind=kind)
        path = str(answer.url.path).removesuffix("/survey")
        if facts:
            self.save_facts(path, facts)
        return path

    def sign(self, path: str, name: str = "Ada Wren", role: str = "lead", who: Visitor | None = None, seen: str = ""):
        """Sign what the page of the handover shows now, or what was seen before."""
        visitor = who or self.ada
        seen = seen or self.seen(path, visitor)
        return visitor.form(f"{path}/sign", name=name, role=role, save_key=key(), seen=seen, password=PASSWORD)

    def settle(self, path: str, reason: str = "agreed with the owner") -> None:
        """Let everything stand that is between plan and devices."""
        page = self.ada.get(f"{path}/enter").text
        for about in {html.unescape(piece.split('"')[0]) for piece in page.split('name="about" value="')[1:]}:
            self.ada.form(f"{path}/waivers", save_key=key(), about=about, reason=reason)

    def seen(self, path: str, who: Visitor | None = None) -> str:
        """The head of the record that the handover shows."""
        page = (who or self.ada).get(f"{path}/handover").text
        return page.split('name="seen" value="')[1].split('"')[0] if 'name="seen"' in page else "none"

    def upload(self, path: str, text: bytes, name: str = "well.csv", **fields: str):
        """A file sent from a form."""
        data = {"csrf": self.ada.token, "save_key": key(), **fields}
        return self.ada.http.post(path, data=data, files={"file": (name, text, "text/csv")}, follow_redirects=True)

    def save_facts(
        self, path: str, facts: dict[str, str], who: Visitor | None = None, base_seq: int = 0, units: str = "metric"
    ):
        body = {"save_key": key(), "base_seq": base_seq, "units": units, "changes": facts}
        return (who or self.ada).json(f"{path}/facts", body)
