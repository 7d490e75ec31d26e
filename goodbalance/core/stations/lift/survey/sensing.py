"""What is asked of a lift station's control: who decides, sensor, floats, drives, and how sure the facts are."""

from enum import StrEnum
from typing import Any

from goodbalance.core.balance.facts import Conditions, Facts, choice, fact, yes_no
from goodbalance.core.balance.quantities import Quantity as Q
from goodbalance.core.stations.shared.facts import Permits, permits

MAX_FLOATS = 5
MAX_PUMPS = 4
MAX_RELAYS = 16


class ControlKind(StrEnum):
    """Who decides: relays for a panel, a pump controller, relays alone, or the drives themselves."""

    RELAYS_TO_PANEL = "relays_to_panel"
    PUMP_CONTROLLER = "pump_controller"
    RELAYS_ALONE = "relays_alone"
    DRIVES_ALONE = "drives_alone"


class LevelBy(StrEnum):
    """What tells the level."""

    SENSOR = "sensor"
    SENSOR_AND_FLOATS = "sensor_and_floats"
    FLOATS = "floats"


class LowestFloat(StrEnum):
    """What the lowest float is there for."""

    STOP = "stop"
    LOW_ALARM = "low_alarm"


class FloatsAre(StrEnum):
    """How it is said what each float is there for: by the usual table, or one by one."""

    USUAL = "usual"
    EACH = "each"


class TopFloat(StrEnum):
    """What the highest float is there for."""

    HIGH_ALARM = "high_alarm"
    START = "start"


class WhoDecides(StrEnum):
    """Who leads the drives."""

    CONTROLLER = "controller"
    AMONG_THEMSELVES = "among_themselves"


_LOW, _HIGH = "low_alarm", "high_alarm"
_ALONE = {  # with one to five floats, from the lowest up
    LowestFloat.STOP: (
        ("start_1",),
        ("stop", "start_1"),
        ("stop", "start_1", _HIGH),
        ("stop", "start_1", "start_2", _HIGH),
        (_LOW, "stop", "start_1", "start_2", _HIGH),
    ),
    LowestFloat.LOW_ALARM: (
        ("start_1",),
        (_LOW, "start_1"),
        (_LOW, "stop", "start_1"),
        (_LOW, "stop", "start_1", _HIGH),
        (_LOW, "stop", "start_1", "start_2", _HIGH),
    ),
}
_BEHIND_A_SENSOR = {
    LowestFloat.STOP: (
        (_HIGH,),
        ("stop", _HIGH),
        ("stop", "start_1", _HIGH),
        ("stop", "start_1", "start_2", _HIGH),
        (_LOW, "stop", "start_1", "start_2", _HIGH),
    ),
    LowestFloat.LOW_ALARM: (
        (_HIGH,),
        (_LOW, _HIGH),
        (_LOW, "stop", _HIGH),
        (_LOW, "stop", "start_1", _HIGH),
        (_LOW, "stop", "start_1", "start_2", _HIGH),
    ),
}
_CALLS = (("control.kind", ("pump_controller", "drives_alone")),)
_ONE_PUMP = (_LOW, "stop", "start_1", _HIGH)
_FLOATS = (("control.level_by", ("sensor_and_floats", "floats")),)
_PROBES = (("control.seal_probes", ("yes",)),)
_DIAL = (*_PROBES, ("control.seal_dial", ("yes",)))
_USUAL = (*_FLOATS, ("control.floats_are", ("usual",)))
_EACH = (*_FLOATS, ("control.floats_are", ("each",)))
FREE = (_LOW, "stop", "start_1", "start_2", "start_3", "start_4", _HIGH)  # what a float may be, from the floor up


class Control(Facts):
    """What runs the pumps, and by what it knows the level."""

    kind: ControlKind = choice(
        "The pumps are run by",
        ControlKind,
        {
            "relays_to_panel": "The panel that stays, by relays or floats",
            "pump_controller": "A pump controller of its own",
            "relays_alone": "A relay level controller by itself, a relay for each pump",
            "drives_alone": "Their drives, without a controller beside",
        },
        default=ControlKind.RELAYS_TO_PANEL,
    )
    level_by: LevelBy = choice(
        "The level is known by",
        LevelBy,
        {
            "sensor": "A level sensor",
            "sensor_and_floats": "A level sensor, with floats behind it",
            "floats": "Floats alone",
        },
        default=LevelBy.SENSOR,
    )
    floats_are: FloatsAre = choice(
        "What each float is there for",
        FloatsAre,
        {"usual": "By the usual table, from their number (default)", "each": "Chosen one by one, as they hang or shall hang"},
        default=FloatsAre.USUAL,
        only_if=_FLOATS,
    )
    floats: int = fact("Floats", Q.COUNT, 1, MAX_FLOATS, default=2, only_if=_USUAL)
    float_low_alarm: bool = yes_no("A float is the low alarm", default=False, only_if=_EACH)
    float_stop: bool = yes_no("A float is the stop", default=True, only_if=_EACH, hint="without one the pumps stop by time")
    float_start_1: bool = yes_no("A float is the duty start", default=True, only_if=_EACH)
    float_start_2: bool = yes_no("A float is the assist start", default=False, only_if=(*_EACH, ("pumping.count", ("2", "3", "4"))))
    float_start_3: bool = yes_no("A float is the third start", default=False, only_if=(*_EACH, ("pumping.count", ("3", "4"))))
    float_start_4: bool = yes_no("A float is the fourth start", default=False, only_if=(*_EACH, ("pumping.count", ("4",))))
    float_high_alarm: bool = yes_no("A float is the high alarm", default=True, only_if=_EACH, hint="behind a sensor it calls every pump too")
    lowest_float: LowestFloat = choice(
        "The lowest float is",
        LowestFloat,
        {
            "stop": "a stop: pumps stop at it",
            "low_alarm": "a low alarm only: pumps stop by time, or at the float above",
        },
        default=LowestFloat.STOP,
        only_if=_USUAL,
    )
    top_float: TopFloat = choice(
        "The highest float is",
        TopFloat,
        {
            "high_alarm": "a high alarm (default: somebody is told; behind a sensor it calls every pump too)",
            "start": "one more start: the next pump, and nobody is told by a float",
        },
        default=TopFloat.HIGH_ALARM,
        only_if=_USUAL,
    )
    swing_m: float = fact(
        "Swing of a float", Q.LEVEL, 0.01, 1.0, usual=(0.03, 0.3), default=0.10, only_if=_FLOATS,
        hint="how far the water moves between on and off",
    )  # fmt: skip
    starting_s: float = fact(
        "Time a motor takes to start", Q.TIME, 0.1, 120.0, usual=(0.3, 20.0), default=2.0,
        hint="until its starting current is over",
    )  # fmt: skip
    phase_monitor: bool = yes_no("Phase monitor fitted", default=False)
    phase_permits: Permits = permits("The phase monitor's contact", (("control.phase_monitor", ("yes",)),))
    run_contact: bool = yes_no("An outside contact gives the run command", default=False, only_if=_CALLS)
    run_permits: Permits = permits("The run contact", (*_CALLS, ("control.run_contact", ("yes",))))
    backwards_contact: bool = yes_no(
        "A contact of each pump tells that it turns backwards", default=False, only_if=_CALLS, hint="returning water turns it: starting it then breaks shafts"
    )  # fmt: skip
    backwards_permits: Permits = permits("That contact", (*_CALLS, ("control.backwards_contact", ("yes",))))
    local_remote: bool = yes_no(
        "A switch for local and remote", default=False, only_if=_CALLS, hint="in local neither run command nor speed come from outside"
    )  # fmt: skip
    remote_is: Permits = choice(
        "That switch means remote while its contact is", Permits, {"closed": "closed (default: a broken wire is local)", "open": "open"},
        default=Permits.CLOSED, only_if=(*_CALLS, ("control.local_remote", ("yes",))),
    )  # fmt: skip
    seal_probes: bool = yes_no("Seal probes fitted in the pumps", default=False)
    seal_dial: bool = yes_no("The seal relay has a dial for its resistance", default=False, only_if=_PROBES)
    seal_wet_ohm: float = fact("Resistance at which an oil chamber counts as wet (maker)", Q.RESISTANCE, 100.0, 1e7, usual=(5e3, 1e5), default=3e4, only_if=_DIAL)
    seal_dry_ohm: float = fact("Resistance of dry probes with their cables, the least", Q.RESISTANCE, 1e3, 1e9, usual=(2e5, 1e8), default=5e5, only_if=_DIAL, hint="an ohmmeter at the panel, the probe's leads off")

    def has_usual_floats(self, pump_count: int) -> bool:
        """Whether the usual table gives the same roles to as many floats, so that a device that knows it only needs their number."""
        roles = self.float_roles(pump_count)
        ways = ((low, top) for low in LowestFloat for top in TopFloat)
        return len(roles) <= MAX_FLOATS and any(float_roles(self.level_by, low, top, len(roles), pump_count) == roles for low, top in ways)

    @property
    def has_calls(self) -> bool:
        """Whether levels are calls inside a controller or the drives, and no relays or floats of a panel."""
        return self.kind in (ControlKind.PUMP_CONTROLLER, ControlKind.DRIVES_ALONE)

    @property
    def has_sensor(self) -> bool:
        """Whether a level sensor is fitted."""
        return self.level_by is not LevelBy.FLOATS

    @property
    def has_floats(self) -> bool:
        """Whether floats are fitted, alone or behind a sensor."""
        return self.level_by is not LevelBy.SENSOR

    def float_roles(self, pump_count: int) -> tuple[str, ...]:
        """What each float is, from the lowest up. Without a stop float the pumps stop by time.

        Behind a sensor the top float is the high one, and it calls every pump, unless it is there for one more start.
        """
        if not self.has_floats:
            return ()
        if self.floats_are is FloatsAre.EACH:
            return tuple(role for role in FREE if getattr(self, f"float_{role}"))
        return float_roles(self.level_by, self.lowest_float, self.top_float, self.floats, pump_count)


def float_roles(level_by: str, lowest: str, top: str, floats: int, pump_count: int) -> tuple[str, ...]:
    """What each float is, from the lowest up, as the answers of a survey have it."""
    if level_by == LevelBy.SENSOR:
        return ()
    ways = _ALONE if level_by == LevelBy.FLOATS else _BEHIND_A_SENSOR
    roles = ways[LowestFloat(lowest)][floats - 1]
    if pump_count == 1 and "start_2" in roles:
        roles = _ONE_PUMP
    starts = ("start_1", "start_2")[: max(1, pump_count)]
    more = next((start for start in starts if start not in roles), None)
    return (*roles[:-1], more) if top == TopFloat.START and roles[-1] == _HIGH and more is not None else roles


_PANEL = (("control.kind", ("relays_to_panel",)),)


def _relay(label: str, count: int = 1, only_if: Conditions = ()) -> Any:
    """The relay somebody has wired a role to; asked where there are pumps enough for that role."""
    counts = () if count == 1 else (("pumping.count", tuple(map(str, range(count, MAX_PUMPS + 1)))),)
    return fact(label, Q.COUNT, 1, MAX_RELAYS, default=None, only_if=only_if + counts)


class Contact(StrEnum):
    """Which contact of a relay is wired: the one that is open while it is at rest, or its twin."""

    OPEN = "open"
    CLOSED = "closed"


def _contact(of: str, count: int = 1, only_if: Conditions = ()) -> Any:
    """Which contact of that relay is wired. The relay then works the other way round, so that the panel sees the same."""
    counts = () if count == 1 else (("pumping.count", tuple(map(str, range(count, MAX_PUMPS + 1)))),)
    labels = {"open": "the contact open at rest", "closed": "the contact closed at rest"}
    return choice(f"{of} is wired to", Contact, labels, default=Contact.OPEN, only_if=only_if + counts)


class RelayNumbers(Facts):
    """Which relay does what, and by which contact, where somebody has decided it. The rest take the free ones, from the floor up."""

    low_cut_out: int | None = _relay("Relay of the low-level cut-out")
    low_alarm: int | None = _relay("Relay of the low alarm")
    stop: int | None = _relay("Relay of the stop", 1, _PANEL)
    stop_2: int | None = _relay("Relay of the second pump's own stop", 2, _PANEL)
    stop_3: int | None = _relay("Relay of the third pump's own stop", 3, _PANEL)
    stop_4: int | None = _relay("Relay of the fourth pump's own stop", 4, _PANEL)
    start_1: int | None = _relay("Relay of the duty start, or of pump 1")
    start_2: int | None = _relay("Relay of the assist start, or of pump 2", 2)
    start_3: int | None = _relay("Relay of the third start, or of pump 3", 3)
    start_4: int | None = _relay("Relay of the fourth start, or of pump 4", 4)
    high_alarm: int | None = _relay("Relay of the high alarm")

    low_cut_out_contact: Contact = _contact("The low-level cut-out")
    low_alarm_contact: Contact = _contact("The low alarm")
    stop_contact: Contact = _contact("The stop", 1, _PANEL)
    start_1_contact: Contact = _contact("The duty start, or pump 1,")
    start_2_contact: Contact = _contact("The assist start, or pump 2,", 2)
    high_alarm_contact: Contact = _contact("The high alarm")

    @property
    def wished(self) -> dict[str, int]:
        """The numbers somebody has decided, by role."""
        return {role: number for role, number in self if isinstance(number, int)}

    @property
    def closed_at_rest(self) -> frozenset[str]:
        """Roles whose contact that is closed at rest is wired."""
        return frozenset(name.removesuffix("_contact") for name, contact in self if contact is Contact.CLOSED)


_DRIVES = (("drives.fitted", ("yes",)),)


class Drives(Facts):
    """Speed drives on the pumps."""

    fitted: bool = yes_no("Pumps have speed drives", default=False)
    rated_hz: float = fact("Motor frequency at full speed", Q.FREQUENCY, 20.0, 120.0, default=50.0, only_if=_DRIVES)
    least_hz: float = fact(
        "Least frequency the motor's maker allows", Q.FREQUENCY, 5.0, 100.0, default=25.0, only_if=_DRIVES,
        hint="below it the motor is not cooled",
    )  # fmt: skip
    ramp_s: float = fact(
        "Shortest ramp, standstill to full speed", Q.TIME, 0.5, 600.0, usual=(2.0, 60.0), default=8.0, only_if=_DRIVES,
        hint="that the drive takes without tripping",
    )  # fmt: skip
    decide: WhoDecides = choice(
        "The speed is decided by",
        WhoDecides,
        {
            "controller": "The controller, which gives each drive its speed",
            "among_themselves": "The drives among themselves",
        },
        default=WhoDecides.CONTROLLER,
        only_if=_DRIVES,
    )
    outside: bool = yes_no(
        "An outside signal can say their speed", default=False, only_if=_DRIVES, hint="4-20 mA from the works after it, or from another controller"
    )


class Sureness(Facts):
    """Doubt in the facts, as the half width within which 95 of 100 would lie."""

    pump_rate_share: float = fact("Pump rate", Q.PERCENT, 0.0, 0.5, usual=(0.01, 0.2), default=0.05)
    inflow_share: float = fact("Inflow", Q.PERCENT, 0.0, 1.0, usual=(0.02, 0.5), default=0.15)
    area_share: float = fact("Area of the well", Q.PERCENT, 0.0, 0.5, usual=(0.005, 0.1), default=0.02)
    level_m: float = fact("Level reading", Q.LEVEL, 0.0, 1.0, usual=(0.002, 0.1), default=0.02)
