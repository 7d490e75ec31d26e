"""A pressure sensor at a line: where it sits, what it speaks, how far off it may be, and how late the controller acts on it."""

from enum import StrEnum

from goodbalance.core.balance.facts import Facts, choice, fact
from goodbalance.core.balance.quantities import Quantity as Q
from goodbalance.core.physics.signals import MA_0_20, MA_4_20, V_0_10
from goodbalance.core.stations.shared.facts import LoopBudget, least_loop_v, loop_ohm, loop_supply_v, second_input_ohm


class PressureSignal(StrEnum):
    """The signal of a pressure sensor."""

    MA_4_20 = "4_20_ma"
    MA_0_20 = "0_20_ma"
    V_0_10 = "0_10_v"


SIGNALS = {PressureSignal.MA_4_20: MA_4_20, PressureSignal.MA_0_20: MA_0_20, PressureSignal.V_0_10: V_0_10}


class PressureSensor(Facts):
    """What reads the pressure of the line at the pump."""

    height_m: float = fact("Height of the pressure sensor", Q.LENGTH, -500.0, 5000.0, hint="above the same datum as every other height")
    range_pa: float = fact("Range, as pressure", Q.PRESSURE, 5e4, 1e7, usual=(2e5, 25e5), hint="the full signal; none stands for 0")
    range_head_m: float | None = fact("The same range in metres of head, if its label says so", Q.HEAD, 1.0, 1100.0, default=None, hint="both are compared: the same number said twice")
    signal: PressureSignal = choice(
        "Signal", PressureSignal, {"4_20_ma": "4 to 20 mA", "0_20_ma": "0 to 20 mA", "0_10_v": "0 to 10 V"}, default=PressureSignal.MA_4_20
    )
    error_share: float = fact("Error of sensor and input", Q.PERCENT, 0.0, 0.1, usual=(0.001, 0.02), default=0.005, hint="of the range; after the scaling check what it showed")
    noise_pa: float = fact("Wobble of the reading", Q.PRESSURE, 0.0, 5e5, usual=(0.0, 2e4), default=3e3, hint="half the spread while the flow is steady")
    counts: int = fact("Counts of the controller's input", Q.COUNT, 100, 16_777_216, default=4000)
    filter_s: float = fact("The controller averages over", Q.TIME, 0.0, 60.0, usual=(0.0, 5.0), default=1.0, hint="its filter, as a time constant")
    scan_s: float = fact("It looks every", Q.TIME, 0.01, 10.0, usual=(0.02, 2.0), default=1.0)
    run_down_s: float = fact("From its command until the pump stands", Q.TIME, 0.0, 60.0, usual=(0.2, 5.0), default=1.0, hint="contactor and run-down")
    loop_supply_v: float | None = loop_supply_v()
    loop_ohm: float | None = loop_ohm()
    second_input_ohm: float | None = second_input_ohm()
    least_loop_v: float | None = least_loop_v()

    @property
    def budget(self) -> LoopBudget:
        """What its loop has and needs."""
        return LoopBudget(self.loop_supply_v, self.loop_ohm, self.second_input_ohm, self.least_loop_v)

    @property
    def reacts_s(self) -> float:
        """From a pressure in the pipe until the pump gives no more: filter, scan and run-down. [s]"""
        return self.filter_s + self.scan_s + self.run_down_s
