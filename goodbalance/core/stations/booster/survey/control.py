"""How a booster set is controlled, and by which sensors it knows its pressures."""

from enum import StrEnum

from goodbalance.core.balance.facts import Facts, choice, fact, yes_no
from goodbalance.core.balance.quantities import Quantity as Q
from goodbalance.core.stations.shared.facts import (
    LoopBudget,
    Permits,
    least_loop_v,
    loop_ohm,
    loop_supply_v,
    permits,
    second_input_ohm,
)

SHORT_STOP_S = 5.0  # how long pumps stand still to see whether anybody draws


class ControlKind(StrEnum):
    """How the set is controlled: at constant pressure, on and off, until the flow ends, or at one fixed speed."""

    CONSTANT = "constant"
    ON_OFF = "on_off"
    FLOW_STOP = "flow_stop"
    FIXED = "fixed"


class Device(StrEnum):
    """Where the regulator sits."""

    MOTOR_MOUNTED = "motor_mounted"
    WALL_DRIVE = "wall_drive"
    PANEL_REGULATOR = "panel_regulator"


class PressureSignal(StrEnum):
    """The signal of a pressure sensor."""

    MA_4_20 = "4_20_ma"
    MA_0_20 = "0_20_ma"
    V_0_10 = "0_10_v"


class SuctionBy(StrEnum):
    """What watches for lack of water."""

    SENSOR = "sensor"
    SWITCH = "switch"
    FLOAT = "float"
    NONE = "none"


class OutsideSet(StrEnum):
    """What can ask for another set pressure from outside."""

    NONE = "none"
    SIGNAL = "signal"
    LINK = "link"


DRIVEN = (("control.kind", ("constant", "fixed")),)
_CONSTANT = (("control.kind", ("constant",)),)
_SWITCHED = (("control.kind", ("on_off",)), ("pumping.count", ("2", "3", "4", "5")))
_OUTSIDE = (*_CONSTANT, ("control.outside", ("signal", "link")))


class Control(Facts):
    """What starts, stops and regulates the pumps."""

    kind: ControlKind = choice(
        "Kind of control",
        ControlKind,
        {
            "constant": "Drives hold a constant pressure",
            "on_off": "On and off by cut-in and cut-out pressure",
            "flow_stop": "Starts by cut-in pressure, stops when the flow ends",
            "fixed": "Drives turn at one fixed speed, by cut-in and cut-out",
        },
        default=ControlKind.CONSTANT,
    )
    device: Device = choice(
        "The pressure is held by",
        Device,
        {
            "motor_mounted": "A speed controller on each motor",
            "wall_drive": "A drive with PID on the wall for each pump",
            "panel_regulator": "One regulator in the panel, whose signal plain drives follow",
        },
        default=Device.MOTOR_MOUNTED,
        only_if=_CONSTANT,
    )
    own_switches: bool = yes_no(
        "Each pump has a pressure switch of its own", default=False, only_if=_SWITCHED,
        hint="with its own cut-in and cut-out at the header; a monitor with the discharge sensor stops them all",
    )  # fmt: skip
    flow_switch: bool = yes_no(
        "A flow switch tells when the flow ends", default=False, only_if=(("control.kind", ("constant",)),)
    )
    flow_switch_m3s: float | None = fact(
        "The flow switch opens under", Q.FLOW, 1e-6, 1.0, default=None,
        hint="with cut-in and flow stop, or where a flow switch is fitted",
    )  # fmt: skip
    trickle: bool = yes_no(
        "A very small flow goes on all day", default=False, hint="a drip line, a trough kept topped up, a weeping cistern"
    )
    suction_by: SuctionBy = choice(
        "Lack of water at the suction is seen by",
        SuctionBy,
        {"sensor": "A pressure sensor", "switch": "A pressure switch in the suction pipe", "float": "A float or level switch in the tank", "none": "Nothing"},
        default=SuctionBy.SENSOR,
    )
    outside: OutsideSet = choice(
        "Its set pressure can be changed from outside by",
        OutsideSet,
        {
            "none": "Nobody: only at its own keypad (default)", "signal": "A 4-20 mA signal of the building control",
            "link": "A link to the building control",
        },
        default=OutsideSet.NONE,
        only_if=_CONSTANT,
    )  # fmt: skip
    outside_zero_pa: float | None = fact("The least it can ask for stands for", Q.PRESSURE, 0.0, 5e6, only_if=_OUTSIDE, hint="an empty signal, or 0 on the link")
    outside_full_pa: float | None = fact("The most it can ask for stands for", Q.PRESSURE, 1e4, 5e6, only_if=_OUTSIDE, hint="a full signal, or 100 % on the link")
    local_remote: bool = yes_no("A switch turns the outside off (local/remote)", default=False, only_if=_OUTSIDE)
    run_contact: bool = yes_no(
        "An outside contact gives the run command", default=False, only_if=_CONSTANT, hint="closed: may run; in local it does not count"
    )  # fmt: skip
    direct_keys: bool = yes_no(
        "Keys on its face change the set pressure without a code", default=False, only_if=_CONSTANT, hint="they get pressed by sleeves and children: within limits only"
    )  # fmt: skip
    remote: bool = yes_no("A remote sensor at the far end", default=False, only_if=_CONSTANT)
    phase_monitor: bool = yes_no("A phase monitor is wired in", default=False)

    @property
    def by_contact(self) -> bool:
        """Whether a contact tells of lack of water."""
        return self.suction_by in (SuctionBy.SWITCH, SuctionBy.FLOAT)

    @property
    def sees_flow(self) -> bool:
        """Whether a flow switch is fitted."""
        return self.flow_switch or self.kind is ControlKind.FLOW_STOP


class PressureSensor(Facts):
    """What reads the discharge pressure."""

    range_pa: float = fact("Range", Q.PRESSURE, 1e5, 1e7, usual=(4e5, 25e5))
    signal: PressureSignal = choice(
        "Signal",
        PressureSignal,
        {"4_20_ma": "4 to 20 mA", "0_20_ma": "0 to 20 mA", "0_10_v": "0 to 10 V"},
        default=PressureSignal.MA_4_20,
    )
    noise_pa: float = fact(
        "Wobble of the reading", Q.PRESSURE, 0.0, 5e5, default=5e3, hint="half the spread while the flow is steady"
    )
    counts: int = fact("Counts of the controller's input", Q.COUNT, 100, 16_777_216, default=4000)
    loop_supply_v: float | None = loop_supply_v()
    loop_ohm: float | None = loop_ohm()
    second_input_ohm: float | None = second_input_ohm()
    least_loop_v: float | None = least_loop_v()

    @property
    def budget(self) -> LoopBudget:
        """What its loop has and needs."""
        return LoopBudget(self.loop_supply_v, self.loop_ohm, self.second_input_ohm, self.least_loop_v)


class SuctionSensor(Facts):
    """What reads the suction pressure."""

    low_pa: float | None = fact(
        "It reads from", Q.PRESSURE, -1.1e5, 1e6, default=None, hint="-1 bar where it must see a vacuum"
    )
    high_pa: float | None = fact("It reads up to", Q.PRESSURE, 1e3, 4e6, default=None)
    noise_pa: float = fact(
        "Wobble of the suction reading", Q.PRESSURE, 0.0, 1e5, default=500.0, hint="half the spread while the flow is steady"
    )


_BY_SWITCH = (("control.suction_by", ("switch",)),)
_BY_FLOAT = (("control.suction_by", ("float",)),)


class SuctionSwitch(Facts):
    """What opens or closes a contact when water runs low, and the one that warns before it."""

    permits: Permits = permits("Its contact", ())
    band_pa: float = fact("A pressure switch turns back over where it lets go by", Q.PRESSURE, 0.0, 5e5, usual=(5e3, 5e4), default=10e3, only_if=_BY_SWITCH, hint="its label says it, or try it at a gauge")
    off_pa: float = fact("A pressure switch may be off its mark by", Q.PRESSURE, 0.0, 1e5, default=2e3, only_if=_BY_SWITCH)
    band_m: float = fact("The float turns back over where it lets go by", Q.LENGTH, 0.0, 5.0, usual=(0.03, 0.5), default=0.1, only_if=_BY_FLOAT, hint="by the free length of its cable")
    off_m: float = fact("The float may be off its mark by", Q.LENGTH, 0.0, 1.0, default=0.02, only_if=_BY_FLOAT)
    alarm: bool = yes_no("A second one like it tells of low water first", default=False, hint="a low alarm apart from the cut-out: somebody comes before users stand dry")


class RemoteSensor(Facts):
    """A sensor at the worst outlet."""

    height_m: float = fact("Height of the remote sensor", Q.LENGTH, -500.0, 5000.0)
    range_pa: float = fact("Range of the remote sensor", Q.PRESSURE, 1e5, 1e7, usual=(4e5, 25e5))
