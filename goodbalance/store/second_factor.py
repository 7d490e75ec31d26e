"""A second factor: the six digits that a telephone shows for half a minute (TOTP, RFC 6238).

Its secret is kept encrypted with a key that follows from the installation's seal keys, which are in no database.
"""

import base64
import hashlib
import re
from datetime import UTC, datetime

import pyotp
from cryptography.fernet import Fernet, InvalidToken, MultiFernet
from sqlalchemy import or_, update
from sqlalchemy.orm import Session

from goodbalance.core.errors import OutOfRange
from goodbalance.store.database import seal_keys_of
from goodbalance.store.models import PersonRow

ISSUER = "Good Balance"
STEPS_OFF = 1  # half minutes that a telephone's clock may be off, either way
SECRET = re.compile(r"[A-Z2-7]{32}")


def is_on(person: PersonRow) -> bool:
    """Whether this person is asked for a code."""
    return person.code_secret is not None


def new_secret() -> str:
    """A secret to offer: 160 bits in base32."""
    return pyotp.random_base32()


def address_of(secret: str, name: str) -> str:
    """The secret as a telephone takes it in, from a picture or a link."""
    return pyotp.TOTP(secret).provisioning_uri(name=name, issuer_name=ISSUER)


def turn_on(session: Session, person: PersonRow, secret: str, code: str) -> None:
    """From now on ask for codes of this secret. Raises OutOfRange where the code does not show that a telephone has it."""
    step = _step_of(secret, code) if SECRET.fullmatch(secret) else None
    if step is None:
        raise OutOfRange("code", code[:20], "the six digits that the telephone shows now")
    keys = _keys(session)
    if keys is None:
        raise OutOfRange("second factor", "without a key to keep it by", "an installation that seals its records")
    person.code_secret, person.code_step = keys.encrypt(secret.encode()).decode(), step


def turn_off(person: PersonRow) -> None:
    """Ask for the password only."""
    person.code_secret = person.code_step = None


def accepts(session: Session, person: PersonRow, code: str) -> bool:
    """Whether a code is this person's now. Each counts once: whoever looked over a shoulder is too late."""
    keys = _keys(session)
    try:
        secret = keys.decrypt((person.code_secret or "").encode()).decode() if keys else ""
    except InvalidToken:
        return False
    step = _step_of(secret, code) if secret else None
    if step is None:
        return False
    newer = or_(PersonRow.code_step.is_(None), PersonRow.code_step < step)
    taken = session.execute(update(PersonRow).where(PersonRow.id == person.id, newer).values(code_step=step))
    return taken.rowcount == 1


def _step_of(secret: str, code: str) -> int | None:
    """The time step near now whose code this is."""
    digits, totp, now = "".join(code.split()), pyotp.TOTP(secret), datetime.now(UTC)
    if not (len(digits) == totp.digits and digits.isascii() and digits.isdecimal()):
        return None
    middle = totp.timecode(now)
    steps = range(middle - STEPS_OFF, middle + STEPS_OFF + 1)
    return next((step for step in steps if pyotp.utils.strings_equal(totp.generate_otp(step), digits)), None)


def _keys(session: Session) -> MultiFernet | None:
    """The newest key encrypts, older ones still read."""
    derived = [hashlib.sha256(b"second factor " + key).digest() for key in seal_keys_of(session)]
    return MultiFernet([Fernet(base64.urlsafe_b64encode(key)) for key in derived]) if derived else None
