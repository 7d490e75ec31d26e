"""python -m goodbalance.launch demo|start: database, schema, data, web server; Ctrl-C or SIGTERM stops them all."""

import contextlib
import gc
import os
import secrets
import signal
import socket
import sys
from collections.abc import Iterator
from pathlib import Path

import uvicorn
from sqlalchemy.exc import SQLAlchemyError

from goodbalance.launch.database_server import DatabaseServer
from goodbalance.launch.errors import CannotStart
from goodbalance.store.database import migrate, open_engine, session_maker


def main(command: str) -> int:
    """Run until stopped. Returns the exit code."""
    folder = Path(os.environ.get("GOODBALANCE_VAR", "var"))
    try:
        port = int(os.environ.get("GOODBALANCE_PORT", "8137"))
        _check_port(port)
        with _database(folder) as url:
            _serve(command, url, port, _secret(folder))
    except CannotStart as wrong:
        print(f"Good Balance cannot start: {wrong}.", file=sys.stderr)
        return 1
    except ValueError:
        print("Good Balance cannot start: GOODBALANCE_PORT is not a number.", file=sys.stderr)
        return 1
    return 0


@contextlib.contextmanager
def _database(folder: Path) -> Iterator[str]:
    if url := os.environ.get("DATABASE_URL"):
        yield url
        return
    with DatabaseServer(folder / "database") as server:
        server.supervise()
        yield server.url


def _serve(command: str, url: str, port: int, secret: str) -> None:
    from goodbalance.web.app import create_app  # after the database: the first start should say soon what fails

    engine = open_engine(url)
    try:
        migrate(engine)
    except SQLAlchemyError as wrong:
        raise CannotStart(f"the database refuses: {wrong.__cause__ or wrong}") from wrong
    if command == "demo":
        from goodbalance.demo.kestrel_point import load_demo

        with session_maker(engine)() as session:
            sign_in = load_demo(session)
            session.commit()
        print(f"Demo: sign in as {sign_in}", flush=True)
    app = create_app(engine, secret)
    print(f"Good Balance is at http://127.0.0.1:{port}  (Ctrl-C stops it)", flush=True)
    gc.collect()
    gc.freeze()
    server = uvicorn.Server(uvicorn.Config(app, host="127.0.0.1", port=port, log_level="warning", access_log=False))
    # uvicorn raises the signal again when it has stopped; it must not end the process before the database has stopped
    signal.signal(signal.SIGTERM, lambda *_: setattr(server, "should_exit", True))
    with contextlib.suppress(KeyboardInterrupt):
        server.run()
    engine.dispose()


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
    """The key that signs sessions: made once, kept in a 0600 file."""
    path = folder / "session-key"
    try:
        if not path.exists():
            folder.mkdir(parents=True, exist_ok=True)
            with os.fdopen(os.open(path, os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o600), "w") as file:
                file.write(secrets.token_hex(32))
        return path.read_text().strip()
    except OSError as wrong:
        raise CannotStart(f"{path} cannot be read or made: {wrong.strerror}") from wrong


if __name__ == "__main__":
    sys.exit(main(sys.argv[1] if len(sys.argv) > 1 else "start"))
