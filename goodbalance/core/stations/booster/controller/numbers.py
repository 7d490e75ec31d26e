"""The numbers a booster's controller works with, taken from a plan or as its devices really hold them."""

import math
from dataclasses import dataclass, field, fields
from typing import Any

from goodbalance.core.balance.plan import Plan
from goodbalance.core.control.retries import Again
from goodbalance.core.control.rotation import Alternation
from goodbalance.core.control.trips import Beyond
from goodbalance.core.physics.signals import SignalRange
from goodbalance.core.protection.monitor import MonitorNumbers, monitor_numbers
from goodbalance.core.protection.names import After, Restart
from goodbalance.core.protection.numbers import MotorNumbers
from goodbalance.core.protection.numbers import numbers_of as motor_numbers
from goodbalance.core.stations.booster.controller.set_value import Asking, Line
from goodbalance.core.stations.booster.controller.water_switch import WaterSwitch, water_switch
from goodbalance.core.stations.booster.names import CUT_INS, CUT_OUTS, PRIME, SCHEDULED, WATER
from goodbalance.core.stations.booster.names import SettingId as S
from goodbalance.core.stations.booster.plant.hydraulics import hydraulics
from goodbalance.core.stations.booster.plant.motors import duties
from goodbalance.core.stations.booster.survey.choices import (
    BoosterChoices,
    FillEnd,
    NoFlowBy,
    OnFailure,
    PrimeBy,
    Reset,
    RunOut,
    Setback,
    Sharing,
)
from goodbalance.core.stations.booster.survey.control import ControlKind
from goodbalance.core.stations.booster.survey.survey import BoosterSurvey
from goodbalance.core.stations.booster.windows.loads import drawn_share
from goodbalance.core.stations.booster.windows.switched import bump_speed
from goodbalance.core.stations.shared.crew import Standby

OWN_AGAIN = 600.0, 3.0, 43200.0  # wait, count and long wait of a device that tries by itself, where nobody told it how


def _setting(setting_id: S, without: float) -> Any:
    """A number that a setting gives. without: what acts where neither plan nor device has such a setting."""
    return field(metadata={"setting": setting_id, "without": without})


@dataclass(frozen=True, slots=True, kw_only=True)
class Numbers:
    """Settings in SI, speeds as shares of full; what is not used never acts (infinite, or beyond reach)."""

    kind: ControlKind
    driven: bool
    signal: SignalRange  # that the discharge sensor's input is set to
    pumps: int  # that the controller knows of
    standby: Standby  # who of them stands by
    alternation: Alternation
    clock_period_s: float
    sharing: Sharing
    no_flow: NoFlowBy
    on_failure: OnFailure
    suction_reset: Reset
    prime_by: PrimeBy
    water_again: Again  # what follows a stop for lack of water
    prime_again: Again  # what follows when a pump without water was given up
    slow_fill: bool
    fill_stops: bool
    long_stops: bool  # a pump that runs longer than its limit is given up, where else it is told of
    starts_lock: bool  # the same of one that starts more often
    run_out_slows: bool  # after a run-out one pump goes on slowly, where else all stop
    setback_square: bool
    range_pa: float
    remote_range_pa: float  # of the far sensor; the discharge sensor's where there is none
    design_m3s: float
    band_pa: float
    idle_speed: float  # holds the set pressure without flow, lowest suction
    bump_below: float  # speed under which a short stop is tried
    set_pressure: float  # of a switched set: where it rests
    fill_speed: float
    closed_load: float  # of the power without flow, under which nothing is drawn
    emergency_pumps: int
    no_flow_pressure: float | None
    night_pressure: float | None
    remote_pressure: float | None
    emergency_pressure: float | None
    night_from_h: int | None  # None: no clock
    night_to_h: int | None
    asking: Asking  # who may ask for another set pressure
    water: WaterSwitch | None = None  # what tells of lack of water where no sensor does
    motors: tuple[MotorNumbers, ...] = ()  # what protects each pump's motor
    monitor: MonitorNumbers = MonitorNumbers()  # of the supply
    waits_after: bool = False  # whether a person must reset before pumps start again once the supply is back
    switches: tuple[tuple[float, float], ...] = ()  # cut-in and cut-out of each, where each pump has its own
    heirs: tuple["Numbers", ...] = ()  # as drives 2, 3 and on hold them; empty where all hold the same
    each_leads: bool = False  # whether a drive whose turn it is goes by its own numbers, and does not only follow
    lowest_set: float = _setting(S.LOWEST_SET, -math.inf)
    highest_set: float = _setting(S.HIGHEST_SET, math.inf)
    restart: float = _setting(S.RESTART, -math.inf)
    boost: float = _setting(S.BOOST, 0.0)
    cut_in: float = _setting(S.CUT_IN, -math.inf)
    cut_out: float = _setting(S.CUT_OUT, math.inf)
    high_stop: float = _setting(S.HIGH_STOP, math.inf)
    low_suction_stop: float = _setting(S.LOW_SUCTION_STOP, -math.inf)
    low_suction_reset: float = _setting(S.LOW_SUCTION_RESET, -math.inf)
    burst_stop: float = _setting(S.BURST_STOP, -math.inf)
    fill_pressure: float = _setting(S.FILL_PRESSURE, -math.inf)
    least_speed: float = _setting(S.LEAST_SPEED, 0.0)
    most_speed: float = _setting(S.MOST_SPEED, 1.0)
    fixed_speed: float = _setting(S.FIXED_SPEED, 1.0)
    sleep_speed: float = _setting(S.SLEEP_SPEED, 0.0)
    join_speed: float = _setting(S.JOIN_SPEED, math.inf)
    leave_speed: float = _setting(S.LEAVE_SPEED, 0.0)
    setback_time: float = _setting(S.SETBACK_TIME, 0.0)  # lag behind the flow
    sleep_delay: float = _setting(S.SLEEP_DELAY, math.inf)
    flow_delay: float = _setting(S.FLOW_DELAY, math.inf)
    join_delay: float = _setting(S.JOIN_DELAY, 0.0)
    leave_delay: float = _setting(S.LEAVE_DELAY, 0.0)
    least_run: float = _setting(S.LEAST_RUN, 0.0)
    low_suction_delay: float = _setting(S.LOW_SUCTION_DELAY, 0.0)
    fill_timeout: float = _setting(S.FILL_TIMEOUT, math.inf)
    no_prime_pressure: float = _setting(S.NO_PRIME_PRESSURE, -math.inf)
    no_prime_load: float = _setting(S.NO_PRIME_LOAD, 0.6)  # of the power without flow
    no_prime_delay: float = _setting(S.NO_PRIME_DELAY, math.inf)
    burst_delay: float = _setting(S.BURST_DELAY, math.inf)
    closed_delay: float = _setting(S.CLOSED_DELAY, math.inf)
    starts_alarm: float = _setting(S.STARTS_ALARM, math.inf)  # per hour
    max_run: float = _setting(S.MAX_RUN, math.inf)
    power_delay: float = _setting(S.POWER_DELAY, 0.0)
    start_gap: float = _setting(S.START_GAP, 0.0)
    ramp_s: float = _setting(S.RAMP, 0.0)
    filter_s: float = _setting(S.FILTER, 0.1)
    gain: float = _setting(S.GAIN, 1.0)
    reset_time: float = _setting(S.RESET_TIME, 10.0)

    @property
    def suction_marks_pa(self) -> tuple[float, ...]:
        """Every suction at which something of it turns."""
        return (self.low_suction_stop, self.low_suction_reset) if self.water is None else self.water.marks_pa

    @property
    def calls_under_pa(self) -> float:
        """The pressure under which users are short and somebody must pump."""
        return self.restart if self.kind is ControlKind.CONSTANT else self.cut_in

    def __deepcopy__(self, memo: dict[int, object]) -> "Numbers":
        return self  # nothing of it changes


def numbers_of(survey: BoosterSurvey, choices: BoosterChoices, plan: Plan, lacking: frozenset[str] = frozenset()) -> Numbers:
    """Every number the controller needs, by the plan; what this plan does not have is put out of reach.

    lacking: settings of the plan that no device has a place for: they never act.
    """
    schools, hyd, control = choices.schools, hydraulics(survey), survey.control
    held = {setting.id: setting.value for setting in plan.settings if setting.id not in lacking}
    set_pa = held.get(S.SET_PRESSURE, held.get(S.CUT_OUT))
    if set_pa is None:  # stopped by the end of the flow, it rests at the shut-off pressure
        set_pa = min(hyd.shut_off_pa(), hyd.weakest.at_sensor_pa)
    band_pa = max(3.0 * survey.sensor.noise_pa, choices.rules.regulation_pa)
    low_flow_pa = held.get(S.NO_FLOW_PRESSURE, set_pa)
    idle = max(hyd.no_flow_speeds(low_flow_pa))
    return Numbers(
        kind=survey.control.kind, driven=survey.has_drives, signal=hyd.signal,
        pumps=survey.pumping.count, standby=survey.pumping.stands_by, alternation=schools.alternation if survey.pumping.duty_count > 1 else Alternation.FIXED,
        clock_period_s=choices.rules.clock_period_s, sharing=schools.sharing, no_flow=schools.no_flow,
        on_failure=schools.sensor_failure, suction_reset=schools.suction_reset, prime_by=schools.prime_by,
        water_again=_again(held, schools.suction_reset.after, WATER), prime_again=_again(held, schools.lost_prime, PRIME),
        slow_fill=S.FILL_PRESSURE in held, fill_stops=schools.fill_end is FillEnd.STOP, long_stops=schools.long_run is Beyond.STOPS, starts_lock=schools.many_starts is Beyond.STOPS, run_out_slows=schools.run_out is RunOut.SLOW and control.kind is ControlKind.CONSTANT, setback_square=schools.setback is Setback.SQUARE,
        range_pa=survey.sensor.range_pa, remote_range_pa=survey.sensor.range_pa if survey.remote is None else survey.remote.range_pa,
        design_m3s=survey.demand.design_m3s, band_pa=band_pa,
        idle_speed=min(1.0, idle), bump_below=bump_speed(survey, low_flow_pa),
        set_pressure=set_pa, fill_speed=held.get(S.FILL_SPEED, min(1.0, idle)), closed_load=held.get(S.CLOSED_LOAD, (1.0 + drawn_share(survey)) / 2.0),  # a device that was told none finds it by itself
       
        emergency_pumps=int(held.get(S.EMERGENCY_PUMPS, 0.0)), no_flow_pressure=held.get(S.NO_FLOW_PRESSURE),
        night_pressure=held.get(S.NIGHT_PRESSURE), remote_pressure=held.get(S.REMOTE_PRESSURE),
        emergency_pressure=held.get(S.EMERGENCY_PRESSURE),
        night_from_h=choices.rules.night_from_h if S.NIGHT_PRESSURE in held else None,
        night_to_h=choices.rules.night_to_h if S.NIGHT_PRESSURE in held else None,
        asking=Asking(
            outside=control.outside, zero_pa=control.outside_zero_pa or 0.0, full_pa=control.outside_full_pa or 0.0, lost=schools.outside_lost,
            local_remote=control.local_remote, run_contact=control.run_contact, keys=control.direct_keys, lines=_lines(choices, held),
        ),
        water=water_switch(survey, held), motors=motor_numbers(held, duties(survey), survey.protection), **_plain(held),
        switches=_switches(survey, held),
        monitor=monitor_numbers(held, control.phase_monitor, survey.protection.monitor), waits_after=choices.protection.power_return is Restart.BY_HAND,
    )  # fmt: skip


def _again(held: dict[str, float], after: After, ids: tuple[S, S, S]) -> Again:
    """How often it begins again by itself, as it is held; never where a person must come."""
    if after is After.BY_HAND:
        return Again()
    wait_s, count, long_s = (held.get(one, own) for one, own in zip(ids, OWN_AGAIN))
    return Again(wait_s, count, long_s if after is After.LONG_WAIT else math.inf)


def _switches(survey: BoosterSurvey, held: dict[str, float]) -> tuple[tuple[float, float], ...]:
    """Of switches of their own where each closes and opens; what is held nowhere never acts."""
    if not survey.own_switches:
        return ()
    marks = zip(CUT_INS[: survey.pumping.count], CUT_OUTS)
    return tuple((held.get(starts, -math.inf), held.get(stops, math.inf)) for starts, stops in marks)


def _lines(choices: BoosterChoices, held: dict[str, float]) -> tuple[Line, ...]:
    """The weekly schedule with the pressures held; a line without a place does not act."""
    begins = enumerate(zip(SCHEDULED, choices.schedule.begins), 1)
    return tuple(Line(number, days, float(hour), held[one]) for number, (one, (days, hour, _)) in begins if one in held)


def _plain(held: dict[str, float]) -> dict[str, Any]:
    """Every number that is a setting as it stands."""
    return {name: held.get(setting_id, without) for name, setting_id, without in _SETTINGS}


_SETTINGS = tuple((each.name, each.metadata["setting"], each.metadata["without"]) for each in fields(Numbers) if each.metadata)
WITHOUT: dict[str, float] = {setting_id: without for _, setting_id, without in _SETTINGS} | {one: without for ids in (WATER, PRIME) for one, without in zip(ids, (math.inf, 0.0, math.inf))}  # what acts where a setting has no place
