"""Switches or floats that tell a booster set of lack of water: where each lets go and turns back, and what the controller makes of its contact."""

from collections.abc import Mapping
from dataclasses import dataclass, field

from goodbalance.core.control.contacts import Guards, Takes
from goodbalance.core.stations.booster.names import SettingId as S
from goodbalance.core.stations.booster.plant.hydraulics import hydraulics
from goodbalance.core.stations.booster.survey.survey import BoosterSurvey

STOP = "water"  # the contact that stops the set


@dataclass(frozen=True, slots=True)
class WaterSwitch:
    """Pressures at the pump suction: in the pipe as they are, of a float as the column of the water over the pump, without losses. [Pa]

    band_pa: so far over its mark each turns back. alarm_pa: of the second one, None where there is none.
    """

    in_tank: bool
    stop_pa: float
    band_pa: float
    alarm_pa: float | None
    guards: Guards = field(default_factory=Guards)

    @property
    def marks_pa(self) -> tuple[float, ...]:
        """Every suction at which something of it turns; a float does not look at the suction."""
        if self.in_tank:
            return ()
        stop = (self.stop_pa, self.stop_pa + self.band_pa)
        return stop if self.alarm_pa is None else (*stop, self.alarm_pa, self.alarm_pa + self.band_pa)


def water_switch(survey: BoosterSurvey, held: Mapping[str, float]) -> WaterSwitch | None:
    """As they are set; None where no switch tells of it. held: settings by id; one that is not there never lets go."""
    if not survey.control.by_contact:
        return None
    switch, built = survey.suction_switch, {STOP: Takes(survey.suction_switch.permits.value)}
    if not survey.switch_in_tank:
        return WaterSwitch(False, held.get(S.LOW_SUCTION_STOP, NEVER_PA), switch.band_pa, held.get(S.LOW_SUCTION_ALARM), Guards(built, dict(built)))
    hyd, pump_m = hydraulics(survey), survey.supply.pump_m or 0.0

    def column_pa(setting_id: S) -> float | None:
        level_m = held.get(setting_id)
        return None if level_m is None else hyd.column_of(level_m - pump_m)

    stop_pa = column_pa(S.LOW_LEVEL_STOP)
    return WaterSwitch(True, NEVER_PA if stop_pa is None else stop_pa, hyd.column_of(switch.band_m), column_pa(S.LOW_LEVEL_ALARM), Guards(built, dict(built)))


NEVER_PA = -1e9  # lower than any water


@dataclass
class Seeing:
    """How they stand on the bench: what each says of the water, until it turns."""

    switch: WaterSwitch
    lacks: bool = False
    warns: bool = False

    def look(self, inlet_pa: float, source_pa: float) -> None:
        """See the water as it stands now. source_pa: of the tank, without losses; far under everything where it is empty. [Pa]"""
        sees_pa = source_pa if self.switch.in_tank else inlet_pa
        self.lacks = _turned(self.lacks, sees_pa, self.switch.stop_pa, self.switch.band_pa)
        if self.switch.alarm_pa is not None:
            self.warns = _turned(self.warns, sees_pa, self.switch.alarm_pa, self.switch.band_pa)

    def says_water(self, cut: bool, jumper: bool) -> bool:
        """What the controller hears of the first. cut: one of its wires is off; jumper: one sits across it."""
        guards = self.switch.guards
        if jumper:
            return guards.taken.get(STOP, Takes.NONE) is not Takes.OPEN  # a closed contact for ever
        return not guards.holds(STOP, self.lacks, cut)


def _turned(lacks: bool, sees_pa: float, mark_pa: float, band_pa: float) -> bool:
    return sees_pa < mark_pa + band_pa if lacks else sees_pa <= mark_pa
