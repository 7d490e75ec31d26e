"""python -m goodbalance.launch demo|start|verify|seal|backup|restore|export: database, schema, data, web server.

Ctrl-C or SIGTERM stops them all.
"""

import contextlib
import gc
import os
import secrets
import signal
import socket
import sys
from collections.abc import Iterator
from pathlib import Path

import structlog
import uvicorn
from sqlalchemy import Engine
from sqlalchemy.exc import SQLAlchemyError

from goodbalance.launch.copies import back_up, check_whole, export_all, restore
from goodbalance.launch.database_server import DatabaseServer
from goodbalance.launch.errors import CannotStart
from goodbalance.store.database import migrate, open_engine, session_maker
from goodbalance.store.verify import broken_records, seal_all

SEAL_KEYS = "seal-keys"
WORK = {"verify": "check the records", "seal": "seal the records", "backup": "make a copy", "export": "export the stations", "restore": "bring the copy back"}


def main(command: str, file: str = "") -> int:
    """Run until stopped, or do one piece of work. file: the copy to write or to bring back. Returns the exit code."""
    structlog.configure(
        processors=[
            structlog.contextvars.merge_contextvars,
            structlog.processors.add_log_level,
            structlog.processors.TimeStamper(fmt="iso", utc=True),
            structlog.processors.dict_tracebacks,
            structlog.processors.JSONRenderer(),
        ],
        logger_factory=structlog.PrintLoggerFactory(sys.stderr),
    )
    folder = Path(os.environ.get("GOODBALANCE_VAR", "var"))
    try:
        port = _port()
        if command == "verify":
            with _database(folder, shared=True) as url:
                return _verify(url, folder)
        if command == "backup":
            with _database(folder, shared=True) as url:
                return _back_up(url, folder, file)
        if command == "export":
            with _database(folder, shared=True) as url:
                return _export(url, folder, file)
        if command == "restore":
            return _restore(folder, file)
        if command == "seal":
            with _database(folder) as url:
                return _seal_anew(url, folder)
        _check_port(port)
        with _database(folder) as url:
            _serve(command, url, port, folder)
    except CannotStart as wrong:
        return _told(command, str(wrong))
    except SQLAlchemyError as wrong:
        return _told(command, f"the database refuses: {wrong.__cause__ or wrong}")
    return 0


def _told(command: str, why: str) -> int:
    print(f"Good Balance cannot {WORK.get(command, 'start')}: {why}.", file=sys.stderr)
    return 1


def _port() -> int:
    told = os.environ.get("GOODBALANCE_PORT", "8137")
    if not (told.isascii() and told.isdecimal()):
        raise CannotStart(f"GOODBALANCE_PORT is {told[:20]!r}, not a number")
    return int(told)


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


def _serve(command: str, url: str, port: int, folder: Path) -> None:
    from goodbalance.web.app import create_app  # after the database: the first start should say soon what fails

    engine, _ = _sealed(url, folder, anew=False)
    if command == "demo":
        from goodbalance.demo.kestrel_point import load_demo

        with session_maker(engine)() as session:
            sign_in = load_demo(session)
            session.commit()
        print(f"Demo: sign in as {sign_in}", flush=True)
    public_url = os.environ.get("GOODBALANCE_PUBLIC_URL", "")
    app = create_app(engine, _secret(folder), public_url)
    reached = f", for others at {public_url}" if public_url else ""
    print(f"Good Balance is at http://127.0.0.1:{port}{reached}  (Ctrl-C stops it)", flush=True)
    gc.collect()
    gc.freeze()
    server = uvicorn.Server(uvicorn.Config(app, host="127.0.0.1", port=port, log_level="warning", access_log=False, server_header=False))
    # uvicorn raises the signal again when it has stopped; it must not end the process before the database has stopped
    signal.signal(signal.SIGTERM, lambda *_: setattr(server, "should_exit", True))
    with contextlib.suppress(KeyboardInterrupt):
        server.run()
    engine.dispose()


def _verify(url: str, folder: Path) -> int:
    """Check every record; 1 where one does not hold."""
    engine = open_engine(url, _seal_keys(folder))
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
    path = back_up(url, folder / "backups", file)
    print(f"Copied to {path} ({path.stat().st_size / 1e6:.1f} MB).")
    print(f"Keep {folder / SEAL_KEYS} too, in another place: without it nobody can tell whether the records of a copy hold.")
    return 0


def _export(url: str, folder: Path, file: str) -> int:
    """Every station as its open file, for whoever keeps them elsewhere."""
    engine = open_engine(url)
    migrate(engine)
    with session_maker(engine)() as session:
        path, count = export_all(session, folder / "exports", file)
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
    if not _seal_keys(folder):
        raise CannotStart(
            f"the keys of its seals are missing. Put the file {SEAL_KEYS} that belongs to the copy into {folder}, "
            "or its text into GOODBALANCE_SEAL_KEYS"
        )
    check_whole(Path(file))
    with _database(folder) as url:
        restore(url, Path(file))
        return _verify(url, folder)


def _seal_anew(url: str, folder: Path) -> int:
    """A new key before the old ones, and every record that holds sealed with it."""
    engine, count = _sealed(url, folder, anew=True)
    engine.dispose()
    print(f"{count} records sealed with a new key; what does not hold was left as it is.")
    return 0


def _check_port(port: int) -> None:
    if not 1 <= port <= 65535:
        raise CannotStart(f"GOODBALANCE_PORT is {port}; accepted: 1 to 65535")
    with socket.socket() as probe:
        probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            probe.bind(("127.0.0.1", port))
        except OSError as wrong:
            raise CannotStart(f"port {port} is in use or not allowed. Set GOODBALANCE_PORT to another one") from wrong


def _secret(folder: Path) -> str:
    """The key that signs sessions: from the environment, or made once and kept in a 0600 file."""
    if key := os.environ.get("GOODBALANCE_SESSION_KEY"):
        return key
    path = folder / "session-key"
    if not path.exists():
        _write_secret(path, secrets.token_hex(32))
    return _read_secret(path)


def _seal_keys(folder: Path) -> tuple[bytes, ...]:
    """The keys that seal records, the newest first; none where there is none yet. They are not kept in the database."""
    told, path = os.environ.get("GOODBALANCE_SEAL_KEYS"), folder / SEAL_KEYS
    text = told or (_read_secret(path) if path.exists() else "")
    return tuple(line.encode() for line in text.split())


def _sealed(url: str, folder: Path, anew: bool) -> tuple[Engine, int]:
    """An engine over a migrated database whose records are sealed, and how many were sealed just now.

    Where there is no key yet, or with `anew`, one is made; it is kept only after the records bear its seal.
    """
    old = _seal_keys(folder)
    make = anew or not old
    keys = (secrets.token_hex(32).encode(), *old) if make else old
    engine, count = open_engine(url, keys), 0
    migrate(engine)
    if make:
        with session_maker(engine)() as session:
            count = seal_all(session, first=not old)
            session.commit()
        _write_secret(folder / SEAL_KEYS, "\n".join(key.decode() for key in keys))
    return engine, count


def _read_secret(path: Path) -> str:
    try:
        return path.read_text().strip()
    except OSError as wrong:
        raise CannotStart(f"{path} cannot be read: {wrong.strerror}") from wrong


def _write_secret(path: Path, text: str) -> None:
    """Whole or not at all, and for nobody else to read."""
    made = path.with_suffix(".new")
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
        with os.fdopen(os.open(made, os.O_WRONLY | os.O_CREAT | os.O_TRUNC, 0o600), "w") as file:
            file.write(text)
        made.replace(path)
    except OSError as wrong:
        raise CannotStart(f"{path} cannot be made: {wrong.strerror}") from wrong


if __name__ == "__main__":
    sys.exit(main(*(sys.argv[1:3] or ["start"])))
