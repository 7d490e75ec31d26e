"""The connection to the database and its schema."""

from pathlib import Path

from alembic import command
from alembic.config import Config
from sqlalchemy import Engine, create_engine, text
from sqlalchemy.orm import Session, sessionmaker


def open_engine(url: str, seal_keys: tuple[bytes, ...] = ()) -> Engine:
    """An engine with short time-outs: a page must say soon that the database is away.

    seal_keys: with the first the heads of records are sealed, older ones are still known; they are in no database.
    Each statement reads what is committed by then: whoever waited for a lock must see what the one before has written.
    """
    return create_engine(
        url,
        isolation_level="READ COMMITTED",
        pool_size=8,
        max_overflow=8,
        pool_timeout=5,
        pool_pre_ping=True,
        connect_args={"connect_timeout": 3, "read_timeout": 15, "write_timeout": 15},
        execution_options={"seal_keys": seal_keys},
    )


def seal_keys_of(session: Session) -> tuple[bytes, ...]:
    """The keys that came with the session's engine."""
    return session.get_bind().get_execution_options().get("seal_keys", ())


def session_maker(engine: Engine) -> sessionmaker[Session]:
    return sessionmaker(engine, expire_on_commit=False)


def check_answers(session: Session) -> None:
    """Ask the database for something, and raise what SQLAlchemy raises where it does not answer or has no stations' table."""
    session.execute(text("SELECT 1 FROM station LIMIT 1"))


def migrate(engine: Engine) -> None:
    """Bring the schema to the newest version."""
    config = Config()
    config.set_main_option("script_location", str(Path(__file__).parent / "migrations"))
    with engine.begin() as connection:
        config.attributes["connection"] = connection
        command.upgrade(config, "head")
