"""python -m goodbalance.launch COMMAND: database, schema, data, web server, and the work on all records.

Ctrl-C or SIGTERM stops them all.
"""

import argparse
import contextlib
import logging
import os
import sys
from collections.abc import Callable, Iterator
from pathlib import Path

from sqlalchemy.exc import SQLAlchemyError

from goodbalance.launch.copies import back_up, check_whole, export_all, restore
from goodbalance.launch.database_server import DatabaseServer
from goodbalance.launch.errors import CannotStart
from goodbalance.launch.keys import SEAL_KEYS, seal_keys, sealed
from goodbalance.launch.serving import MOST_WORKERS, log_as_lines, serve
from goodbalance.store import links, people, second_factor
from goodbalance.store.database import migrate, open_engine, session_maker
from goodbalance.store.deeds import Deed, note
from goodbalance.store.verify import broken_records

KEEPER = "whoever keeps the server"
SERVING = ("demo", "start", "serve")
WORK = {
    "verify": "check the records", "seal": "seal the records", "backup": "make a copy", "export": "export the stations",
    "restore": "bring the copy back", "let-in": "make a link",
}  # fmt: skip


def main(arguments: list[str]) -> int:
    """Run until stopped, or do one piece of work. Returns the exit code."""
    asked = argparse.ArgumentParser(prog="./run")
    asked.add_argument("command", choices=[*SERVING, *WORK])
    asked.add_argument("what", nargs="?", default="", help="the copy to write or to bring back; for let-in a name")
    asked.add_argument("--workers", type=int, default=0, help="for serve: processes that answer (default: cores)")
    told = asked.parse_args(arguments)
    folder = Path(os.environ.get("GOODBALANCE_VAR", "var"))
    log_as_lines(logging.INFO if told.command in SERVING else logging.WARNING)
    try:
        return _serve(told, folder) if told.command in SERVING else _work(told.command, told.what, folder)
    except CannotStart as wrong:
        return _told(told.command, str(wrong))
    except SQLAlchemyError as wrong:
        return _told(told.command, f"the database refuses: {wrong.__cause__ or wrong}")


def _told(command: str, why: str) -> int:
    print(f"Good Balance cannot {WORK.get(command, 'start')}: {why}.", file=sys.stderr)
    return 1


def _serve(told: argparse.Namespace, folder: Path) -> int:
    port = os.environ.get("GOODBALANCE_PORT", "8137")
    if not (port.isascii() and port.isdecimal()):
        raise CannotStart(f"GOODBALANCE_PORT is {port[:20]!r}, not a number")
    workers = (told.workers or os.cpu_count() or 1) if told.command == "serve" else 1
    if not 1 <= workers <= MOST_WORKERS:
        raise CannotStart(f"--workers is {workers}; accepted: 1 to {MOST_WORKERS}")
    with _database(folder) as url:
        serve(url, int(port), folder, workers, demo=told.command == "demo")
    return 0


def _work(command: str, what: str, folder: Path) -> int:
    if command == "restore":
        return _restore(folder, what)
    pieces: dict[str, Callable[[str], int]] = {
        "verify": lambda url: _verify(url, folder),
        "backup": lambda url: _back_up(url, folder, what),
        "export": lambda url: _export(url, folder, what),
        "let-in": lambda url: _let_in(url, folder, what),
        "seal": lambda url: _seal_anew(url, folder),
    }
    with _database(folder, shared=command != "seal") as url:
        return pieces[command](url)


@contextlib.contextmanager
def _database(folder: Path, shared: bool = False) -> Iterator[str]:
    """The address of the database, started here where none is told. shared: one that runs already will do."""
    url, own = os.environ.get("DATABASE_URL"), DatabaseServer(folder / "database")
    if url or (shared and (url := own.running_url())):
        yield url
        return
    with own as server:
        server.supervise()
        yield server.url


def _verify(url: str, folder: Path) -> int:
    """Check every record; 1 where one does not hold."""
    engine = open_engine(url, seal_keys(folder))
    migrate(engine)
    with session_maker(engine)() as session:
        found = [(row.name, why) for row, why in broken_records(session)]
    for name, why in found:
        print(f"{name}: {why}")
    print(f"{len(found)} record{'s do' if len(found) != 1 else ' does'} not hold." if found else "Every record holds.")
    engine.dispose()
    return 1 if found else 0


def _back_up(url: str, folder: Path, file: str) -> int:
    """Copy the database into a file, and say what must be kept beside it."""
    engine = open_engine(url)
    with contextlib.suppress(SQLAlchemyError), session_maker(engine)() as session:  # a schema from before is copied as it is
        note(session, Deed.COPY_MADE, KEEPER)
        session.commit()
    engine.dispose()
    path = back_up(url.split()[0], folder / "backups", file)
    print(f"Copied to {path} ({path.stat().st_size / 1e6:.1f} MB).")
    print(f"Keep {folder / SEAL_KEYS} too, in another place: without it nobody can tell whether the records of a copy hold.")
    return 0


def _export(url: str, folder: Path, file: str) -> int:
    """Every station as its open file, for whoever keeps them elsewhere."""
    engine = open_engine(url)
    migrate(engine)
    with session_maker(engine)() as session:
        path, count = export_all(session, folder / "exports", file)
        note(session, Deed.ALL_TAKEN_OUT, KEEPER, f"{count} stations")
        session.commit()
    engine.dispose()
    print(f"{count} station{'s' if count != 1 else ''} written to {path}, each as a station file (docs/formats.md).")
    return 0


def _restore(folder: Path, file: str) -> int:
    """Bring a copy into an empty database and check every record of it; 1 where one does not hold."""
    if not file:
        raise CannotStart("say which copy: ./run restore FILE")
    try:
        folder.mkdir(parents=True, exist_ok=True)
    except OSError as wrong:
        raise CannotStart(f"the folder {folder} cannot be made: {wrong.strerror}") from wrong
    if not seal_keys(folder):
        raise CannotStart(
            f"the keys of its seals are missing. Put the file {SEAL_KEYS} that belongs to the copy into {folder}, "
            "or its text into GOODBALANCE_SEAL_KEYS"
        )
    check_whole(Path(file))
    with _database(folder) as url:
        restore(url.split()[0], Path(file))
        return _verify(url, folder)


def _let_in(url: str, folder: Path, name: str) -> int:
    """For whoever keeps the server: a link by which somebody sets a password, and no code is asked of them any more."""
    engine = open_engine(url, seal_keys(folder))
    migrate(engine)
    with session_maker(engine)() as session:
        person = people.named(session, name)
        if person is None or person.retired_at is not None:
            raise CannotStart(f"nobody here is called {name!r}")
        second_factor.turn_off(person)
        token = links.make(session, person)
        note(session, Deed.LINK_MADE, KEEPER, person.name)
        session.commit()
    engine.dispose()
    where = os.environ.get("GOODBALANCE_PUBLIC_URL") or f"http://127.0.0.1:{os.environ.get('GOODBALANCE_PORT', '8137')}"
    print(f"Within a day, once: {where.rstrip('/')}/link/{token}")
    return 0


def _seal_anew(url: str, folder: Path) -> int:
    """A new key before the old ones, and every record that holds sealed with it."""
    engine, count = sealed(url, folder, anew=True)
    engine.dispose()
    print(f"{count} records sealed with a new key; what does not hold was left as it is.")
    return 0


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:] or ["start"]))
