"""Everything in one file while people work: the database, with its own tools, and the way back; or every station to read elsewhere."""

import contextlib
import gzip
import os
import shutil
import subprocess
import tempfile
import zipfile
import zlib
from collections.abc import Iterator
from datetime import UTC, datetime
from pathlib import Path
from typing import IO

from sqlalchemy import create_engine, inspect, make_url, text
from sqlalchemy.orm import Session

from goodbalance.exchange.station_file import file_stem, write_station
from goodbalance.launch.errors import CannotStart
from goodbalance.store import records
from goodbalance.store.verify import stations

LAST_LINE = b"-- Dump completed"  # the tool writes it only when everything before it was written
CHUNK_BYTES = 1 << 20


def back_up(url: str, folder: Path, told: str) -> Path:
    """Write everything but who is signed in, as it stands at one moment, into a new file that only we may read.

    told: its path; otherwise a name of its own in `folder`. The file appears whole or not at all.
    """
    path = _named(folder, told, "sql.gz")
    with _new_file(path) as file:
        _dump(url, file)
        file.flush()
        check_whole(Path(file.name))
    return path


def export_all(session: Session, folder: Path, told: str) -> tuple[Path, int]:
    """Write the station file of every station into one zip, named by number and name. Returns its path and how many there are.

    A record is written as it stands, whether it holds or not: nothing is kept back, and whoever reads it checks its chain.
    """
    path, count = _named(folder, told, "zip"), 0
    with _new_file(path) as file, zipfile.ZipFile(file, "w", zipfile.ZIP_DEFLATED) as packed:
        for row in stations(session):
            packed.writestr(f"{row.id:05d}-{file_stem(row.name)}.json", write_station(records.entries(session, row.id)))
            session.expunge_all()
            count += 1
    return path, count


def _named(folder: Path, told: str, ending: str) -> Path:
    return Path(told) if told else folder / f"goodbalance-{datetime.now(UTC):%Y-%m-%dT%H%M%SZ}.{ending}"


@contextlib.contextmanager
def _new_file(path: Path) -> Iterator[IO[bytes]]:
    """A file that only we may read and that appears whole or not at all, never in the place of another."""
    part = path.with_name(f"{path.name}.{os.getpid()}.part")
    try:
        if path.exists():
            raise CannotStart(f"{path} is there already; name another file")
        path.parent.mkdir(parents=True, exist_ok=True)
        os.close(os.open(part, os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o600))
        with part.open("wb") as file:
            yield file
            file.flush()
            os.fsync(file.fileno())
        os.close(os.open(path, os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o600))  # nobody's file: what came there meanwhile stays
        part.replace(path)
    except OSError as wrong:
        raise CannotStart(f"{path} cannot be written: {wrong.strerror}") from wrong
    finally:
        with contextlib.suppress(OSError):
            part.unlink(missing_ok=True)


def restore(url: str, path: Path) -> None:
    """Fill an empty database from a file that `check_whole` has accepted. After a failure it is empty again."""
    _check_empty(url)
    tool = _tool("mariadb", url, "--batch", "--sandbox")
    with tempfile.TemporaryFile() as errors:
        with subprocess.Popen(tool, env=_secretly(url), stdin=subprocess.PIPE, stderr=errors) as running:
            assert running.stdin is not None
            try:
                with gzip.open(path) as file:
                    shutil.copyfileobj(file, running.stdin, CHUNK_BYTES)
                running.stdin.close()
            except BrokenPipeError:
                pass  # it has ended; its exit code and its words say why
        if running.returncode != 0:
            _empty(url)
            raise CannotStart(f"the database refuses {path}, and is empty again: {_said(errors)}")


def _dump(url: str, file: IO[bytes]) -> None:
    database = make_url(url).database
    tool = _tool("mariadb-dump", url, "--single-transaction", "--quick", "--hex-blob", f"--ignore-table-data={database}.session")
    with (
        tempfile.TemporaryFile() as errors,
        gzip.GzipFile(fileobj=file, mode="wb") as packed,
        subprocess.Popen(tool, env=_secretly(url), stdout=subprocess.PIPE, stderr=errors) as running,
    ):
        assert running.stdout is not None
        shutil.copyfileobj(running.stdout, packed, CHUNK_BYTES)
        if running.wait() != 0:
            raise CannotStart(f"mariadb-dump failed: {_said(errors)}")


def check_whole(path: Path) -> None:
    """Read a copy to its end: cut off, or something else, it is refused before anything is done with it."""
    last = b""
    try:
        with gzip.open(path) as file:
            for chunk in _chunks(file):
                last = (last + chunk)[-200:]
    except (EOFError, gzip.BadGzipFile, zlib.error) as wrong:
        raise CannotStart(f"{path} is not a whole copy: {wrong}") from wrong
    except OSError as wrong:
        raise CannotStart(f"{path} cannot be read: {wrong.strerror or wrong}") from wrong
    if LAST_LINE not in last:
        raise CannotStart(f"{path} is not a whole copy: its last line is missing")


def _chunks(file: IO[bytes]) -> Iterator[bytes]:
    while chunk := file.read(CHUNK_BYTES):
        yield chunk


def _check_empty(url: str) -> None:
    engine = create_engine(url)
    try:
        with engine.connect() as connection:
            for table in set(inspect(connection).get_table_names()) & {"person", "station"}:
                if connection.scalar(text(f"SELECT COUNT(*) FROM {table}")):
                    raise CannotStart(
                        "the database is not empty, and nothing is written over. Restore into a new folder (GOODBALANCE_VAR) "
                        "or an empty database (DATABASE_URL)"
                    )
    finally:
        engine.dispose()


def _empty(url: str) -> None:
    """Take out the tables of a copy that came in only in part."""
    engine = create_engine(url)
    with engine.begin() as connection:
        connection.execute(text("SET foreign_key_checks = 0"))
        for table in inspect(connection).get_table_names():
            connection.execute(text(f"DROP TABLE `{table}`"))
    engine.dispose()


def _tool(name: str, url: str, *options: str) -> list[str]:
    """The command line of one of the server's own tools; the password goes by the environment, where others cannot see it."""
    if shutil.which(name) is None:
        raise CannotStart(f"{name} is not installed (Debian package mariadb-client)")
    at = make_url(url)
    place = [f"--host={at.host or '127.0.0.1'}", f"--port={at.port or 3306}", "--protocol=tcp", f"--user={at.username or ''}"]
    return [name, "--no-defaults", *place, "--default-character-set=utf8mb4", *options, at.database or ""]


def _secretly(url: str) -> dict[str, str]:
    return {**os.environ, "MYSQL_PWD": make_url(url).password or ""}


def _said(errors: IO[bytes]) -> str:
    errors.seek(0)
    return errors.read().decode(errors="replace").strip()[-400:]
