"""The connection to the database, or to a cluster of them, writing that begins again after a collision, and the schema."""

import time
from collections.abc import Callable
from pathlib import Path
from typing import Any, TypeVar

import pymysql
import structlog
from alembic import command
from alembic.config import Config
from alembic.migration import MigrationContext
from alembic.script import ScriptDirectory
from sqlalchemy import Engine, create_engine, event, text
from sqlalchemy.engine import URL, make_url
from sqlalchemy.exc import DBAPIError
from sqlalchemy.orm import Session, sessionmaker
from tenacity import Retrying, retry_if_exception, stop_after_attempt, wait_random_exponential

log = structlog.get_logger("goodbalance")
COLLISIONS = (1062, 1205, 1213)  # a number taken meanwhile, a lock waited for too long, a deadlock or another node's write
ROW_GONE = 1452  # what a row belongs to was removed meanwhile
NOT_IN_CLUSTER = 1047  # this node has lost the others and refuses
UNKNOWN_VARIABLE = 1193
CONNECT = {"connect_timeout": 3, "read_timeout": 15, "write_timeout": 15}
CONNECTIONS = 12  # of one process: so many requests work at a time
SPARE = 4  # for what is told of a request that was refused
MIGRATION_S = 120
OTHER_NODE_S = 60.0
Done = TypeVar("Done")


def open_engine(urls: str, seal_keys: tuple[bytes, ...] = ()) -> Engine:
    """An engine with short time-outs: a page must say soon that the database is away.

    urls: one address, or those of the nodes of a cluster apart by spaces: the first that can work is used.
    seal_keys: with the first the heads of records are sealed, older ones are still known; they are in no database.
    Each statement reads what is committed by then: whoever waited for a lock must see what the one before has written.
    """
    nodes = [make_url(url) for url in urls.split()]
    more: dict[str, Any] = {"creator": lambda: _connected(nodes)} if len(nodes) > 1 else {"connect_args": CONNECT}
    engine = create_engine(
        nodes[0],
        isolation_level="READ COMMITTED",
        pool_size=CONNECTIONS,
        max_overflow=SPARE,
        pool_timeout=5,
        pool_pre_ping=True,
        execution_options={"seal_keys": seal_keys},
        **more,
    )
    event.listen(engine, "connect", _reads_what_is_written)
    event.listen(engine, "handle_error", _leaves_a_lone_node)
    return engine


def _connected(nodes: list[URL]) -> Any:
    """A connection to the first node that answers and belongs to its cluster. Raises what the last of them said."""
    refused: Exception | None = None
    for node in nodes:
        try:
            made = pymysql.connect(
                host=node.host, port=node.port or 3306, user=node.username, password=node.password or "",
                database=node.database, charset="utf8mb4", **CONNECT,
            )  # fmt: skip
            if _told(made, "VARIABLES LIKE 'wsrep_on'") != "ON" or _told(made, "STATUS LIKE 'wsrep_ready'") == "ON":
                return made
            made.close()
            refused = pymysql.err.OperationalError(NOT_IN_CLUSTER, f"{node.host}:{node.port} does not belong to its cluster")
        except pymysql.err.MySQLError as wrong:
            refused = wrong
    assert refused is not None
    raise refused


def _told(connection: Any, what: str) -> str:
    """What a server says of one variable; empty where it has none."""
    with connection.cursor() as cursor:
        cursor.execute(f"SHOW {what}")
        row = cursor.fetchone()
    return "" if row is None else str(row[1])


def _reads_what_is_written(connection: Any, _: Any) -> None:
    """In a cluster a read waits until this node has what any node had acknowledged before; alone it changes nothing."""
    with connection.cursor() as cursor:
        try:
            cursor.execute("SET SESSION wsrep_sync_wait = 1")
        except pymysql.err.OperationalError as wrong:
            if wrong.args[0] != UNKNOWN_VARIABLE:
                raise


def _leaves_a_lone_node(context: Any) -> None:
    """A node that has lost its cluster still answers: give its connection up, so that the next goes elsewhere."""
    if number_of(context.sqlalchemy_exception) == NOT_IN_CLUSTER:
        context.is_disconnect = True


def number_of(error: Any) -> int:
    """The database's own number of an error, 0 where it has none."""
    origin = getattr(error, "orig", None)
    return origin.args[0] if origin is not None and origin.args and isinstance(origin.args[0], int) else 0


def beginning_again(session: Session) -> Retrying:
    """Tries, the next after a collision with another writer; each begins with the session undone."""
    return Retrying(
        retry=retry_if_exception(lambda error: isinstance(error, DBAPIError) and number_of(error) in COLLISIONS),
        stop=stop_after_attempt(10), reraise=True, wait=wait_random_exponential(multiplier=0.02, max=0.5),
        before_sleep=lambda _: session.rollback(),
    )  # fmt: skip


def committed(session: Session, write: Callable[[], Done]) -> Done:
    """Write and commit; after a collision with another writer all of it anew. Gives what `write` gave."""
    for attempt in beginning_again(session):
        with attempt:
            done = write()
            session.commit()
    return done


def seal_keys_of(session: Session) -> tuple[bytes, ...]:
    """The keys that came with the session's engine."""
    return session.get_bind().get_execution_options().get("seal_keys", ())


def session_maker(engine: Engine) -> sessionmaker[Session]:
    return sessionmaker(engine, expire_on_commit=False)


def check_answers(session: Session) -> None:
    """Ask the database for something, and raise what SQLAlchemy raises where it does not answer or has no stations' table."""
    session.execute(text("SELECT 1 FROM station LIMIT 1"))


def migrate(engine: Engine) -> None:
    """Bring the schema to the newest version. Of many that begin at once one does it and the others wait.

    The lock is of one node. Where another node of a cluster is at it, what fails here is looked at again until the schema
    is new. Raises what the database raises if it never is.
    """
    config = Config()
    config.set_main_option("script_location", str(Path(__file__).parent / "migrations"))
    newest, until_s = ScriptDirectory.from_config(config).get_current_head(), time.monotonic() + OTHER_NODE_S
    while True:
        with engine.connect() as connection:
            clustered = _told(connection.connection, "VARIABLES LIKE 'wsrep_on'") == "ON"
            connection.execute(text("SELECT GET_LOCK('goodbalance schema', :s)"), {"s": MIGRATION_S})
            try:
                if MigrationContext.configure(connection).get_current_revision() != newest:
                    config.attributes["connection"] = connection
                    command.upgrade(config, "head")
                    connection.commit()
                return
            except DBAPIError as wrong:
                if not clustered or time.monotonic() > until_s:
                    raise
                log.warning("another node may be changing the schema: looked at again", error=str(wrong)[:300])
                connection.rollback()
            finally:
                connection.execute(text("DO RELEASE_LOCK('goodbalance schema')"))
        time.sleep(1.0)
