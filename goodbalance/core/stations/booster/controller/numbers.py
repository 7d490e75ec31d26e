"""The numbers a booster's controller works with, taken from a plan or as its devices really hold them."""

import math
from dataclasses import dataclass

from goodbalance.core.balance.plan import Plan
from goodbalance.core.stations.booster.plant.hydraulics import hydraulics
from goodbalance.core.stations.booster.survey.choices import (
    BoosterChoices,
    FillEnd,
    NoFlowBy,
    OnFailure,
    Reset,
    Setback,
    Sharing,
)
from goodbalance.core.stations.booster.survey.control import ControlKind
from goodbalance.core.stations.booster.survey.survey import BoosterSurvey
from goodbalance.core.stations.booster.windows.switched import bump_speed


@dataclass(frozen=True, slots=True)
class Numbers:
    """Settings in SI, speeds as shares of full; what is not used never acts (infinite, or beyond reach)."""

    kind: ControlKind
    driven: bool
    sharing: Sharing
    no_flow: NoFlowBy
    on_failure: OnFailure
    suction_reset: Reset
    slow_fill: bool
    fill_stops: bool
    setback_square: bool
    range_pa: float
    remote_range_pa: float  # of the far sensor; the discharge sensor's where there is none
    design_m3s: float
    band_pa: float
    idle_speed: float  # holds the set pressure without flow, lowest suction
    bump_below: float  # speed under which a short stop is tried
    set_pressure: float
    restart: float
    no_flow_pressure: float | None
    night_pressure: float | None
    remote_pressure: float | None
    emergency_pressure: float | None
    emergency_pumps: int
    boost: float
    cut_in: float
    cut_out: float
    high_stop: float
    low_suction_stop: float
    low_suction_reset: float
    burst_stop: float
    fill_pressure: float
    fill_speed: float
    least_speed: float
    most_speed: float
    fixed_speed: float
    sleep_speed: float
    join_speed: float
    leave_speed: float
    setback_time: float  # lag behind the flow
    sleep_delay: float
    flow_delay: float
    join_delay: float
    leave_delay: float
    least_run: float
    low_suction_delay: float
    fill_timeout: float
    no_prime_delay: float
    burst_delay: float
    closed_delay: float
    closed_share: float  # of the power without flow under which nothing is drawn
    starts_alarm: float  # per hour
    max_run: float
    night_from_h: int | None  # None: no clock
    night_to_h: int | None
    ramp_s: float
    filter_s: float
    gain: float
    reset_time: float


def _closed_share(survey: BoosterSurvey) -> float:
    """Half way, in power, from no flow to the smallest flow worth running for; a hair over one where power does not tell."""
    hyd = hydraulics(survey)
    return max(1.002, (1.0 + hyd.motor_w(survey.demand.least_m3s, 1.0) / hyd.motor_w(0.0, 1.0)) / 2.0)


def numbers_of(survey: BoosterSurvey, choices: BoosterChoices, plan: Plan) -> Numbers:
    """Every number the controller needs, by the plan; what this plan does not have is put out of reach."""
    schools, hyd = choices.schools, hydraulics(survey)
    held = {setting.id: setting.value for setting in plan.settings}
    set_pa = held.get("set_pressure", held.get("cut_out"))
    if set_pa is None:  # stopped by the end of the flow, it rests at the shut-off pressure
        set_pa = min(hyd.shut_off_pa(), hyd.weakest.at_sensor_pa)
    band_pa = max(3.0 * survey.sensor.noise_pa, choices.rules.regulation_pa)
    low_flow_pa = held.get("no_flow_pressure", set_pa)
    idle = max(hyd.no_flow_speeds(low_flow_pa))
    return Numbers(
        kind=survey.control.kind, driven=survey.has_drives, sharing=schools.sharing, no_flow=schools.no_flow,
        on_failure=schools.sensor_failure, suction_reset=schools.suction_reset,
        slow_fill="fill_pressure" in held, fill_stops=schools.fill_end is FillEnd.STOP, setback_square=schools.setback is Setback.SQUARE,
        range_pa=survey.sensor.range_pa, remote_range_pa=survey.sensor.range_pa if survey.remote is None else survey.remote.range_pa,
        design_m3s=survey.demand.design_m3s, band_pa=band_pa,
        idle_speed=min(1.0, idle), bump_below=bump_speed(survey, low_flow_pa),
        set_pressure=set_pa, restart=held.get("restart", -math.inf), no_flow_pressure=held.get("no_flow_pressure"),
        night_pressure=held.get("night_pressure"), remote_pressure=held.get("remote_pressure"),
        emergency_pressure=held.get("emergency_pressure"), emergency_pumps=int(held.get("emergency_pumps", 0.0)),
        boost=held.get("boost", 0.0), cut_in=held.get("cut_in", -math.inf), cut_out=held.get("cut_out", math.inf),
        high_stop=held["high_stop"], low_suction_stop=held.get("low_suction_stop", -math.inf),
        low_suction_reset=held.get("low_suction_reset", -math.inf), burst_stop=held["burst_stop"],
        fill_pressure=held.get("fill_pressure", -math.inf), fill_speed=held.get("fill_speed", min(1.0, idle)),
        least_speed=held.get("least_speed", 0.0), most_speed=held.get("most_speed", 1.0),
        fixed_speed=held.get("fixed_speed", 1.0), sleep_speed=held.get("sleep_speed", 0.0),
        join_speed=held.get("join_speed", math.inf), leave_speed=held.get("leave_speed", 0.0),
        setback_time=held.get("setback_time", 0.0), sleep_delay=held.get("sleep_delay", math.inf), flow_delay=held.get("flow_delay", math.inf),
        join_delay=held.get("join_delay", 0.0), leave_delay=held.get("leave_delay", 0.0),
        least_run=held.get("least_run", 0.0), low_suction_delay=held.get("low_suction_delay", 0.0),
        fill_timeout=held.get("fill_timeout", math.inf), no_prime_delay=held["no_prime_delay"],
        burst_delay=held["burst_delay"], max_run=held["max_run"],
        closed_delay=held["closed_delay"], closed_share=_closed_share(survey), starts_alarm=held["starts_alarm"],
        night_from_h=choices.rules.night_from_h if "night_pressure" in held else None,
        night_to_h=choices.rules.night_to_h if "night_pressure" in held else None, ramp_s=held.get("ramp", 0.0), filter_s=held.get("filter", 0.1),
        gain=held.get("gain", 1.0), reset_time=held.get("reset_time", 10.0),
    )  # fmt: skip
