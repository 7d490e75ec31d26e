"""A controller family as data: its parameters in the order they are entered, and how each shows a number."""

from enum import StrEnum
from functools import cached_property

from pydantic import BaseModel, ConfigDict, Field, model_validator

from goodbalance.core.sheets.terminals import Repeat, Terminals, repeat_of


class KeypadUnit(StrEnum):
    """The unit a keypad shows a value in."""

    NONE = ""
    LEVEL = "level"  # the unit chosen for all levels: m, ft, psi of water, % of span or % of depth
    LEVEL_STEP = "level_step"  # a difference of levels in that unit
    PRESSURE = "pressure"  # the unit chosen for all pressures: bar, kPa, psi, m of water or % of span
    PRESSURE_STEP = "pressure_step"  # a difference of pressures in that unit
    BAR = "bar"  # always, whatever unit pressures are shown in
    METRES = "metres"  # always: a level in a tank far off
    ROTATION = "rpm"
    SECONDS = "s"
    MINUTES = "min"
    HOURS = "h"
    MILLIAMPERE = "mA"
    AMPERE = "A"
    VOLT = "V"
    KILOWATT = "kW"
    KILOHM = "kohm"
    CELSIUS = "degC"
    LITRES_PER_MINUTE = "l/min"
    PERCENT = "%"
    HERTZ = "Hz"
    MILLIMETRES_PER_SECOND = "mm/s"
    PERCENT_PER_METRE = "%/m"


STEPS = (KeypadUnit.LEVEL_STEP, KeypadUnit.PRESSURE_STEP)
MAIN = (KeypadUnit.LEVEL, KeypadUnit.PRESSURE, *STEPS)


class Display(StrEnum):
    """The units a controller can show its levels or pressures in."""

    METRES = "m"
    FEET = "ft"
    PERCENT_OF_SPAN = "%"
    PERCENT_OF_DEPTH = "% of depth"  # of the well or tank, floor to cover
    BAR = "bar"
    KILOPASCAL = "kPa"
    PSI = "psi"
    METRES_OF_WATER = "mWC"


PRESSURES = (Display.BAR, Display.KILOPASCAL, Display.PSI, Display.METRES_OF_WATER)


class Convention(StrEnum):
    """How a parameter states its value: as it is, or from another parameter, or as its inverse."""

    ABSOLUTE = "absolute"
    SHARE_OF = "share_of"  # per cent of the base
    DROP_BELOW = "drop_below"  # so much below the base
    RISE_ABOVE = "rise_above"  # so much above the base: a hysteresis
    BAND = "band"  # a gain as proportional band, 100/K
    REPEATS = "repeats"  # a reset time as repeats per minute, 60/Ti


class _Open(BaseModel):
    model_config = ConfigDict(frozen=True, extra="forbid", allow_inf_nan=False)


class Parameter(_Open):
    """One parameter. `meaning` names what of ours it holds; empty where we have nothing to say.

    default, low and high are as the keypad shows them; for levels in metres, for pressures in pascal. `per_relay`
    repeats the parameter for each relay, `per_drive` for each drive, `per_pump` and `per_input` for each of those, with {n} in code,
    menu, name and meaning.
    default None: nobody knows what a new device shows. access: the level or code that opens its menu. read_only: read and
    never typed (hours, starts, software). when: shown only while other codes show these texts, one of several with | between. at_least, at_most: codes
    whose numbers it may not pass. only_stopped, restart: typed only while stopped; acts only after a restart.
    asks: the question a device puts, where it is told by answering it; lamps: how many lamps show the answer, each text then the
    number of those that are lit. base: the meaning a convention measures from. display_factor: what the shown number is multiplied by to be in
    the unit, and shown_unit what it is then counted in (12 and dozen rpm, where 165 stands for 1980 rpm).
    """

    code: str = Field(min_length=1, max_length=16)
    menu: str = Field(min_length=1, max_length=60)
    name: str = Field(min_length=1, max_length=80)
    meaning: str = Field(default="", max_length=60)
    unit: KeypadUnit = KeypadUnit.NONE
    decimals: int = Field(default=0, ge=0, le=4)
    low: float = 0.0
    high: float = 0.0
    default: float | str | None = None
    options: dict[str, str] = {}  # our word: what the keypad shows
    access: str = Field(default="", max_length=40)
    read_only: bool = False
    when: dict[str, str] = {}
    at_least: str = Field(default="", max_length=16)
    at_most: str = Field(default="", max_length=16)
    only_stopped: bool = False
    restart: bool = False
    convention: Convention = Convention.ABSOLUTE
    base: str = Field(default="", max_length=60)
    display_factor: float = Field(default=1.0, gt=0.0)
    shown_unit: str = Field(default="", max_length=20)
    per_relay: bool = False
    per_drive: bool = False
    per_pump: bool = False
    per_input: bool = False
    shared: bool = False  # typed into drive 1 and copied to the others
    flips: bool = False  # an action turns it to its other state, and nothing shows which it is
    asks: str = Field(default="", max_length=120)
    lamps: int = Field(default=0, ge=0, le=8)
    note: str = Field(default="", max_length=200)

    @model_validator(mode="after")
    def _default_is_possible(self) -> "Parameter":
        if self.default is None or self.read_only:
            if self.read_only and (self.meaning or self.default is not None):
                raise ValueError("a read-only parameter has no meaning and no default: it is read, and nothing of ours is typed there")
        elif self.options:
            if self.default not in self.options.values():
                raise ValueError(f"default {self.default!r} is none of the options {sorted(self.options.values())}")
        elif not isinstance(self.default, float | int) or not self.low <= float(self.default) <= self.high:
            raise ValueError(f"default {self.default!r} is not a number from {self.low:g} to {self.high:g}")
        measured = self.convention in (Convention.SHARE_OF, Convention.DROP_BELOW, Convention.RISE_ABOVE)
        if measured is not bool(self.base):
            raise ValueError(f"convention {self.convention.value!r} goes with {'a' if measured else 'no'} base")
        if not self.options and not self.read_only and not self.low < self.high:
            raise ValueError(f"low {self.low:g} and high {self.high:g} leave no range")
        if self.display_factor != 1.0 and not self.shown_unit:
            raise ValueError("display_factor is not 1: shown_unit must say what the display counts in")
        if self.flips and (len(self.options) != 2 or self.default is not None or self.lamps):
            raise ValueError("flips: it has two options, no default and no lamps, for nothing shows how it stands")
        if self.lamps and not all(text.isdigit() and int(text) <= self.lamps for text in self.options.values()):
            raise ValueError(f"lamps is {self.lamps}: each option is then shown by the number of those that are lit, 0 to {self.lamps}")
        repeat_of(self)
        return self


class Formed(_Open):
    """A number that a family makes itself: so much less than the number of another meaning, in SI."""

    of: str = Field(max_length=60)
    less: float


class Profile(_Open):
    """drives, pumps and inputs: the most it has, for what repeats with them.

    A controller family. wired: meanings it has no parameter for because it does them by its wiring, as the survey says.
    habits: meanings it has no parameter for because it does them in one way always, each with our word for that.
    formed: meanings it has no parameter for because it makes their number from that of another one, by a step of its own."""

    id: str = Field(pattern=r"^[a-z0-9_]{1,40}$")
    name: str = Field(min_length=1, max_length=80)
    family: str = Field(max_length=80)
    about: str = Field(default="", max_length=1000)
    relays: int = Field(ge=0, le=16)
    drives: int = Field(default=0, ge=0, le=8)
    pumps: int = Field(default=0, ge=0, le=8)
    inputs: int = Field(default=0, ge=0, le=16)
    steps: dict[Display, float]  # the step of the keypad in each unit it can show levels or pressures in
    decimals: dict[Display, int]
    save_action: str = Field(max_length=200)
    save_shows: str = Field(max_length=60)
    cautions: tuple[str, ...] = ()
    wired: tuple[str, ...] = ()
    habits: dict[str, str] = {}
    formed: dict[str, Formed] = {}
    resets: str = Field(default="", max_length=300)  # how it is set back to what it shows when new, and what that wipes
    low_word_first: bool = False  # on Modbus: the low word of a number before the high one
    parameter: tuple[Parameter, ...] = Field(min_length=1, max_length=600)
    terminals: tuple[Terminals, ...] = Field(default=(), max_length=80)

    @model_validator(mode="after")
    def _holds_together(self) -> "Profile":
        rows: tuple[Parameter | Terminals, ...] = (*self.parameter, *self.terminals)
        for row in rows:
            repeat = repeat_of(row)
            if repeat is not None and not self.times(repeat):
                raise ValueError(f"{getattr(row, 'code', row.name)}: it is repeated per {repeat}, and this family has no {repeat}s")
        written = self.entries()
        codes = [parameter.code for parameter in written]
        twice = sorted({code for code in codes if codes.count(code) > 1})
        if twice:
            raise ValueError(f"parameter codes stand twice: {', '.join(twice)}")
        based = {parameter.meaning: parameter.base for parameter in written if parameter.meaning}
        for parameter in written:
            if parameter.base and parameter.base not in based:
                raise ValueError(f"{parameter.code}: its base {parameter.base!r} is the meaning of no parameter here")
            if parameter.base and based[parameter.base]:
                raise ValueError(f"{parameter.code}: its base {parameter.base!r} is itself measured from {based[parameter.base]!r}; only one step is possible")
            named = (*parameter.when, parameter.at_least, parameter.at_most)
            unknown = next((code for code in named if code and code not in codes), None)
            if unknown is not None:
                raise ValueError(f"{parameter.code}: there is no parameter {unknown!r} here")
        astray = next((meaning for meaning, how in self.formed.items() if how.of not in based or meaning in based), None)
        if astray is not None:
            raise ValueError(f"formed: {astray!r} is made from {self.formed[astray].of!r}; accepted: a meaning without a parameter, made from one that has one")
        places = [group.place for group in self.strip()]
        doubled = sorted({place for place in places if places.count(place) > 1})
        if doubled:
            raise ValueError(f"terminals lead twice to {', '.join(doubled)}")
        return self

    def strip(self, pumps: int | None = None) -> tuple[Terminals, ...]:
        """Its groups of terminals as they follow each other, those per relay or drive written out; pumps as with entries."""
        there = self.fitted(pumps)
        found: list[Terminals] = []
        for group in self.terminals:
            repeat = repeat_of(group)
            found += [group.numbered(number) for number in range(1, there.times(repeat) + 1)] if repeat else [group]
        return tuple(found)

    def fitted(self, pumps: int | None) -> "Profile":
        """The same with no more drives and pumps than the plan has."""
        return self if pumps is None else self.model_copy(update={"drives": min(self.drives, pumps), "pumps": min(self.pumps, pumps)})

    def times(self, repeat: Repeat | None) -> int:
        """How often something is repeated; 0 where it stands once."""
        return 0 if repeat is None else {Repeat.RELAY: self.relays, Repeat.DRIVE: self.drives, Repeat.PUMP: self.pumps, Repeat.INPUT: self.inputs}[repeat]

    def entries(self, pumps: int | None = None, beside: bool = False) -> tuple[Parameter, ...]:
        """Every parameter in keypad order, those per relay or drive written out. A run of them repeats as a block.

        pumps: no drive is listed for a pump that is not there. beside: a device set after the first names itself in its menu.
        """
        there = self.fitted(pumps)
        key = there.drives, there.pumps, beside
        if key not in self._written:
            entries = there._written_out()
            if beside:
                entries = tuple(each.model_copy(update={"menu": f"{self.name}: {each.menu}"[:60]}) for each in entries)
            self._written[key] = entries
        return self._written[key]

    @cached_property
    def _written(self) -> dict[tuple[int, int, bool], tuple[Parameter, ...]]:
        return {}  # a profile never changes: written out once for each number of drives

    def _written_out(self) -> tuple[Parameter, ...]:
        found: list[Parameter] = []
        block: list[Parameter] = []
        for parameter in (*self.parameter, None):
            if block and (parameter is None or repeat_of(parameter) != repeat_of(block[0])):
                for number in range(1, self.times(repeat_of(block[0])) + 1):
                    found += [_numbered(each, number) for each in block]
                block = []
            if parameter is not None:
                (block if repeat_of(parameter) else found).append(parameter)
        return tuple(found)


def _numbered(parameter: Parameter, number: int) -> Parameter:
    named = ("code", "menu", "name", "meaning", "base", "at_least", "at_most", "asks")
    change: dict[str, object] = {key: getattr(parameter, key).replace("{n}", str(number)) for key in named}
    change["when"] = {code.replace("{n}", str(number)): text for code, text in parameter.when.items()}
    if parameter.shared and number > 1:
        change["note"] = "Copied from drive 1; read it back here all the same."
    return parameter.model_copy(update=change)
