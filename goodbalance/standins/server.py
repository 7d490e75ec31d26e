"""A stand-in on Modbus TCP: its numbers and what happens now in registers, and the ways it can be broken."""

import asyncio
import os
from enum import StrEnum

from pymodbus.constants import ExcCodes
from pymodbus.server import ModbusTcpServer
from pymodbus.simulator import DataType, SimData, SimDevice

from goodbalance.core.sheets.registers import (
    BEAT,
    EACH,
    FIRST,
    LIVE,
    MARK,
    SAVE,
    SWITCHES,
    THOUSANDTHS,
    VERSION,
    number_of,
    words_of,
)
from goodbalance.standins.station import StandIn

MOST_LIVE = 200  # input registers
READS, WRITES = (3, 4), (6, 16)
LATE_S = 5.0


class Broken(StrEnum):
    """How a device fails on purpose."""

    SILENT = "no-answer"
    SLOW = "slow"
    EXCEPTIONS = "exceptions"
    FROZEN = "frozen"


class DeviceServer:
    """One stand-in and the registers through which others see it."""

    def __init__(self, device: StandIn, broken: Broken | None = None) -> None:
        self.device, self.broken = device, broken
        self.low_first = device.sheet.profile.low_word_first
        self.by_address = {register.address: register for register in device.registers}

    def holding(self) -> list[int]:
        """All holding registers as they stand."""
        device = self.device
        words = [0] * (FIRST + EACH * len(device.registers))
        words[0:4] = [MARK, VERSION, len(device.registers), int(self.low_first)]
        for register in device.registers:
            words[register.address : register.address + EACH] = words_of(register.number(device.shown[register.code]), self.low_first)
        return words

    def inputs(self) -> list[int]:
        """What happens now, in thousandths, from LIVE on; register 0 says how many values there are."""
        words, live = [0] * MOST_LIVE, self.device.live()[: (MOST_LIVE - LIVE) // EACH]
        words[0], words[BEAT] = len(live), self.device.beat
        for place, (_, value) in enumerate(live):
            at = LIVE + EACH * place
            words[at : at + EACH] = words_of(max(-(2**31), min(2**31 - 1, round(value * THOUSANDTHS))), self.low_first)
        return words

    async def asked(
        self, function: int, start: int, address: int, count: int, registers: list[int], values: list[int] | list[bool] | None
    ) -> ExcCodes | None:
        """Before an answer: the registers as they stand, or what was written taken in."""
        if self.broken in (Broken.SILENT, Broken.SLOW):
            await asyncio.sleep(3600.0 if self.broken is Broken.SILENT else LATE_S)
        if self.broken is Broken.EXCEPTIONS:
            return ExcCodes.DEVICE_BUSY
        if function in WRITES:
            return self._take([int(value) for value in values or ()], address)
        if self.broken is not Broken.FROZEN:
            fresh = self.holding() if function == 3 else self.inputs()
            registers[: len(fresh)] = fresh[: len(registers)]
        return None

    def _take(self, words: list[int], address: int) -> ExcCodes | None:
        """A whole number typed, or the word that saves; anything else is refused."""
        if address == SAVE and words == [1]:
            self.device.save()
            return None
        if len(words) == 1 and self.device.turn(address - SWITCHES + 1, words[0]):
            return None
        register = self.by_address.get(address)
        if register is None or len(words) != EACH:
            return ExcCodes.ILLEGAL_ADDRESS
        number = number_of((words[0], words[1]), self.low_first)
        parameter = next(row.parameter for row in self.device.rows if row.parameter.code == register.code)
        possible = range(len(register.options)) if register.options else None
        if parameter.read_only or (possible is not None and number not in possible):
            return ExcCodes.ILLEGAL_VALUE
        self.device.type_in(register.code, register.shown(number))
        return None

    def simulated(self) -> SimDevice:
        """The registers in the library's terms."""
        plain = lambda words: [SimData(address=0, values=words, datatype=DataType.REGISTERS)]  # noqa: E731
        bits = [SimData(address=0, values=[False] * 16, datatype=DataType.BITS)]
        return SimDevice(1, (bits, bits, plain(self.holding()), plain(self.inputs())), action=self.asked)


async def serve_device(device: StandIn, port: int, broken: Broken | None = None, pace: float = 1.0, parent: int | None = None) -> None:
    """Answer on this machine until cancelled, or until a parent process is gone, with the station going on behind it."""
    if broken is Broken.FROZEN:
        device.go_on(pace)  # it stood still at some time, and not at none
    served = DeviceServer(device, broken)
    server = ModbusTcpServer(served.simulated(), address=("127.0.0.1", port))
    await server.serve_forever(background=True)
    try:
        while parent is None or os.getppid() == parent:
            if broken is not Broken.FROZEN:
                device.go_on(pace)
            await asyncio.sleep(1.0)
    finally:
        await server.shutdown()
