"""Reading a device over Modbus TCP: every number that stands in it, as its display shows it."""

from typing import NamedTuple

from pymodbus.client import ModbusTcpClient
from pymodbus.exceptions import ModbusException

from goodbalance.core.errors import BrokenFile, GoodBalanceError
from goodbalance.core.sheets.registers import (
    BEAT,
    EACH,
    LIVE,
    MARK,
    THOUSANDTHS,
    VERSION,
    Register,
    number_of,
    words_of,
)

MOST_AT_ONCE = 120  # registers in one question
WITHIN_S = 3.0  # for an answer
LIVE_WITHIN_S = 1.0


class DeviceSilent(GoodBalanceError):
    """A device does not answer, answers with an exception, or is another one than asked for."""


class Address(NamedTuple):
    """Where a device answers, and whether it may be written to."""

    host: str
    port: int
    may_write: bool = False


def allowed_devices(text: str) -> dict[str, Address]:
    """Devices that may be read, as whoever keeps the server lists them: Name=host:port, with semicolons between.

    Those with the word write behind them may be written to as well. Raises BrokenFile.
    """
    found = {}
    for part in filter(None, (each.strip() for each in text.split(";"))):
        name, _, at = part.partition("=")
        at, _, more = at.strip().partition(" ")
        host, _, port = at.rpartition(":")
        if not name.strip() or not host.strip() or not (port.isascii() and port.isdecimal() and 0 < int(port) < 65536) or more.strip() not in ("", "write"):
            raise BrokenFile(f"{part[:60]!r} is no device; accepted: a name, =, an address, :, a port from 1 to 65535, and write where it may be written to")
        found[name.strip()[:60]] = Address(host.strip(), int(port), more.strip() == "write")
    return found


def read_device(host: str, port: int, registers: tuple[Register, ...], within_s: float = WITHIN_S) -> dict[str, str]:
    """What the display shows under each code. Raises DeviceSilent with what happened; then nothing is believed."""
    client = ModbusTcpClient(host, port=port, timeout=within_s, retries=0)
    try:
        if not client.connect():
            raise DeviceSilent(f"nothing answers at {host}:{port}")
        mark, version, count, low_first = _words(client, 0, 4, host, port)
        if (mark, version) != (MARK, VERSION):
            raise DeviceSilent(f"what answers at {host}:{port} is no device with this map of registers")
        if count != len(registers):
            raise DeviceSilent(f"the device at {host}:{port} has {count} numbers, this sheet's has {len(registers)}: it is another one")
        words: list[int] = []
        first, whole = registers[0].address, EACH * len(registers)
        while len(words) < whole:
            words += _words(client, first + len(words), min(MOST_AT_ONCE, whole - len(words)), host, port)
        pairs = zip(words[0::2], words[1::2], strict=True)
        return {register.code: register.shown(number_of(pair, bool(low_first))) for register, pair in zip(registers, pairs, strict=True)}
    finally:
        client.close()


def read_live(host: str, port: int, count: int, within_s: float = LIVE_WITHIN_S) -> tuple[int, tuple[float, ...]]:
    """The beat of a device and what happens in it now, in SI. Raises DeviceSilent; then nothing is believed."""
    client = ModbusTcpClient(host, port=port, timeout=within_s, retries=0)
    try:
        if not client.connect():
            raise DeviceSilent(f"nothing answers at {host}:{port}")
        mark, version, _, low_first = _words(client, 0, 4, host, port)
        if (mark, version) != (MARK, VERSION):
            raise DeviceSilent(f"what answers at {host}:{port} is no device with this map of registers")
        words: list[int] = []
        whole = LIVE + EACH * count
        while len(words) < whole:
            words += _words(client, len(words), min(MOST_AT_ONCE, whole - len(words)), host, port, live=True)
        if words[0] != count:
            raise DeviceSilent(f"the device at {host}:{port} tells {words[0]} values, this station's tells {count}: it is another one")
        pairs = zip(words[LIVE::2], words[LIVE + 1 :: 2], strict=True)
        return words[BEAT], tuple(number_of(pair, bool(low_first)) / THOUSANDTHS for pair in pairs)
    finally:
        client.close()


def write_number(host: str, port: int, registers: tuple[Register, ...], code: str, old: str, new: str, within_s: float = WITHIN_S) -> str:
    """Write one number where another stands, and read it back: what the display shows then.

    Raises DeviceSilent where it does not stand there any more, or the device refuses; ValueError for what the display cannot show.
    """
    register = next(each for each in registers if each.code == code)
    number = register.number(new)
    there = read_device(host, port, registers, within_s)[code]
    if there.casefold() != old.casefold():
        raise DeviceSilent(f"{code} at {host}:{port} stands at {there or 'nothing'} now, not at {old or 'nothing'}: it was changed meanwhile. Nothing was written")
    client = ModbusTcpClient(host, port=port, timeout=within_s, retries=0)
    try:
        if not client.connect():
            raise DeviceSilent(f"nothing answers at {host}:{port}")
        low_first = bool(_words(client, 3, 1, host, port)[0])
        try:
            answer = client.write_registers(register.address, list(words_of(number, low_first)))
        except ModbusException as wrong:
            raise DeviceSilent(f"the device at {host}:{port} stopped answering while {code} was written: look what stands there. {wrong}") from wrong
        if answer.isError():
            raise DeviceSilent(f"the device at {host}:{port} refuses {new} under {code}: {answer}")
    finally:
        client.close()
    return read_device(host, port, registers, within_s)[code]


def _words(client: ModbusTcpClient, address: int, count: int, host: str, port: int, live: bool = False) -> list[int]:
    try:
        answer = client.read_input_registers(address, count=count) if live else client.read_holding_registers(address, count=count)
    except ModbusException as wrong:
        raise DeviceSilent(f"the device at {host}:{port} stopped answering at register {address}: {wrong}") from wrong
    if answer.isError() or len(answer.registers) != count:
        raise DeviceSilent(f"the device at {host}:{port} answers register {address} with {answer}")
    return list(answer.registers)
