"""A real MariaDB and a real web server for tests, on their own folder and ports."""

import multiprocessing.util
import re
import shutil
import tempfile
import threading
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

import httpx
import structlog
import uvicorn
from sqlalchemy import Engine, text
from sqlalchemy.orm import Session

from goodbalance.launch.database_server import DatabaseServer, free_port
from goodbalance.store.database import migrate, open_engine, session_maker
from goodbalance.web.app import create_app

structlog.configure(wrapper_class=structlog.make_filtering_bound_logger(40))  # what is done is not told among the tests
_shared: dict[str, object] = {}
TABLES = ("entry", "attachment", "summary", "share", "station", "session", "link", "attempt", "deed", "person", "family", "columns_told")


def server() -> DatabaseServer:
    """The one database server of this process, started on first use."""
    if "server" not in _shared:
        Path("var").mkdir(exist_ok=True)
        folder = Path(tempfile.mkdtemp(prefix="test-database-", dir="var"))
        started = DatabaseServer(folder)
        started.__enter__()
        _shared["server"] = started
        # unlike atexit this is called at the end of a process of the runner's pool too
        multiprocessing.util.Finalize(None, _end_server, (started, folder), exitpriority=1)
    return _shared["server"]  # type: ignore[return-value]


def _end_server(started: DatabaseServer, folder: Path) -> None:
    started.__exit__(None, None, None)
    shutil.rmtree(folder, ignore_errors=True)


def engine() -> Engine:
    """A migrated engine on the test database."""
    if "engine" not in _shared:
        made = open_engine(server().url, (b"test seal",))
        migrate(made)
        _shared["engine"] = made
    return _shared["engine"]  # type: ignore[return-value]


def empty_session() -> Session:
    """A session on emptied tables."""
    session = session_maker(engine())()
    for table in TABLES:
        session.execute(text(f"DELETE FROM {table}"))
    session.commit()
    return session


class WebServer:
    """The application on a loopback port, in a thread of the test run."""

    def __init__(self) -> None:
        self.port = free_port()
        self.app = create_app(engine(), "test key")
        self.address = f"http://127.0.0.1:{self.port}"

    def __enter__(self) -> "WebServer":
        config = uvicorn.Config(self.app, host="127.0.0.1", port=self.port, log_level="error")
        self.server = uvicorn.Server(config)
        self._thread = threading.Thread(target=self.server.run, daemon=True)
        self._thread.start()
        while not self.server.started:
            if not self._thread.is_alive():
                raise RuntimeError("the web server of the tests did not start")
        return self

    def __exit__(self, *_: object) -> None:
        self.server.should_exit = True
        self._thread.join(timeout=20)

    @contextmanager
    def away(self) -> Iterator[None]:
        """Nobody answers at the address meanwhile, as where there is no signal."""
        self.__exit__()
        try:
            yield
        finally:
            self.__enter__()


KEPT = re.compile(rb"(<(textarea|pre)\b.*?</\2>)", re.DOTALL)


def unwrapped(answer: httpx.Response) -> None:
    """A page's lines joined where a browser would: where a template wraps is nothing to a reader."""
    if answer.headers.get("content-type", "").startswith("text/html"):
        parts = KEPT.split(answer.read())  # plain, kept, its tag, plain ...
        plain = [re.sub(rb"\s*\n\s*", b" ", part) for part in parts[::3]]
        kept = [*parts[1::3], b""]
        answer._content = b"".join(line + block for line, block in zip(plain, kept, strict=True))


class Visitor:
    """Someone with a browser's cookies but no scripts: reads pages, posts forms and JSON with the page's token."""

    def __init__(self, address: str) -> None:
        hooks = {"response": [unwrapped]}
        self.http = httpx.Client(base_url=address, follow_redirects=True, timeout=30.0, event_hooks=hooks)
        self.token = ""

    def get(self, path: str, **more: object) -> httpx.Response:
        answer = self.http.get(path, **more)  # type: ignore[arg-type]
        marker = '<meta name="csrf" content="'
        if marker in answer.text:
            self.token = answer.text.split(marker)[1].split('"')[0]
        return answer

    def form(self, path: str, **fields: str) -> httpx.Response:
        return self.http.post(path, data={"csrf": self.token, **fields})

    def json(self, path: str, body: object) -> httpx.Response:
        return self.http.post(path, json=body, headers={"X-CSRF-Token": self.token, "Accept": "application/json"})

    def sign_in(self, name: str, password: str) -> "Visitor":
        self.get("/sign-in")
        answer = self.form("/sign-in", name=name, password=password)
        assert answer.status_code == 200, answer.text
        self.get("/")
        return self
