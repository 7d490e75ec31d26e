"""How a transfer set knows that its tanks are full, and what watches its source."""

from enum import StrEnum

from goodbalance.core.balance.facts import Facts, choice, yes_no


class FullBy(StrEnum):
    """How the set knows that a tank is full."""

    PRESSURE = "pressure"
    LEVELS = "levels"
    BOTH = "both"


class TankWire(StrEnum):
    """What tells the controller how high the water stands in a tank far off."""

    SENSOR = "sensor"
    WATCHED = "watched"
    OPENS = "opens"
    CLOSES = "closes"


class SourceBy(StrEnum):
    """What watches the source."""

    SENSOR = "sensor"
    SWITCH = "switch"
    NONE = "none"


BY_PRESSURE = (("control.full_by", ("pressure", "both")),)
BY_LEVELS = (("control.full_by", ("levels", "both")),)


class Control(Facts):
    """What starts and stops the pumps."""

    full_by: FullBy = choice(
        "It knows that a tank is full by",
        FullBy,
        {
            "pressure": "The pressure that rises when the tank's float valve closes (nothing but the pipe joins tank and pump)",
            "levels": "Levels or floats in the tank, wired back",
            "both": "The pressure, and behind it a high and a low level of each tank, wired back",
        },
        default=FullBy.PRESSURE,
    )
    tank_wire: TankWire = choice(
        "What comes back from a tank",
        TankWire,
        {
            "sensor": "The signal of a level sensor, 4-20 mA (default: a broken wire is told from any level)",
            "watched": "Contacts of floats with a resistor at their end (a broken or joined wire is told)",
            "opens": "Plain contacts that are closed while water is wanted (a broken wire stops the pump, and nobody is told)",
            "closes": "Plain contacts that are open while water is wanted (a broken wire fills until it overflows)",
        },
        default=TankWire.SENSOR,
        only_if=BY_LEVELS,
    )
    source_by: SourceBy = choice(
        "Lack of water in the source is seen by",
        SourceBy,
        {"sensor": "A level sensor in it", "switch": "A low-water switch or float, hung at two heights", "none": "Nothing"},
        default=SourceBy.SENSOR,
    )
    phase_monitor: bool = yes_no("A phase monitor is wired in", default=False)

    @property
    def by_pressure(self) -> bool:
        """Whether a pressure says that tanks are full."""
        return self.full_by is not FullBy.LEVELS

    @property
    def by_levels(self) -> bool:
        """Whether something comes back from the tanks."""
        return self.full_by is not FullBy.PRESSURE

    @property
    def tells_broken_wire(self) -> bool:
        """Whether the controller can tell a broken wire to a tank from a level."""
        return self.tank_wire in (TankWire.SENSOR, TankWire.WATCHED)
