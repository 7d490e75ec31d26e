"""A booster set while it runs: what its controller tells, what the plan expects then, and what a trend of it proves."""

from collections.abc import Iterator, Mapping

from goodbalance.core.balance.plan import Plan
from goodbalance.core.balance.proof import Answer, Proof
from goodbalance.core.balance.quantities import Quantity as Q
from goodbalance.core.balance.trail import Term
from goodbalance.core.rehearsal.proving import Seen
from goodbalance.core.stations.booster.bench.put_on import booster_bench
from goodbalance.core.stations.booster.bench.rehearse import BoosterBench
from goodbalance.core.stations.booster.controller.numbers import Numbers, numbers_of
from goodbalance.core.stations.booster.names import Alarm, Check
from goodbalance.core.stations.booster.plant.hydraulics import hydraulics
from goodbalance.core.stations.booster.survey.choices import BoosterChoices
from goodbalance.core.stations.booster.survey.control import OutsideSet, SuctionBy
from goodbalance.core.stations.booster.survey.survey import BoosterSurvey
from goodbalance.core.stations.shared.live import (
    SWITCH,
    Channel,
    Expected,
    Rows,
    control_channels,
    expected_of_controls,
    of_controls,
)

SLACK_S = 3.0  # for a scan, a poll and a contactor
SETTLES_S = 60.0  # a pressure may be off so long after outlets moved
ALARMS: dict[str, str] = {
    Alarm.SENSOR: "Pressure sensor", Alarm.LOW_SUCTION: "Lack of water", Alarm.LOW_WATER: "Low water", Alarm.HIGH: "High pressure", Alarm.BURST: "Burst", Alarm.FILL: "Pipes do not fill",
    Alarm.REMOTE: "Remote sensor", Alarm.PHASE: "Phases", Alarm.CLOSED: "Ran against closed outlets", Alarm.STARTS: "Too many starts",
    Alarm.PUMP: "Pump given up", Alarm.LONG: "Ran too long", Alarm.WAITS: "Waits after a power cut",
}  # fmt: skip
MEASURED = {
    "pressure_pa": ("Pressure", Q.PRESSURE), "set_pa": ("Wanted", Q.PRESSURE), "suction_pa": ("Suction", Q.PRESSURE), "flow_m3s": ("Flow", Q.FLOW),
    "power_w": ("Power", Q.POWER),
}  # fmt: skip


class BoosterLive:
    """Pressures, flow, power, pumps and speeds, switches and alarms."""

    def channels(self, survey: BoosterSurvey, choices: BoosterChoices, plan: Plan) -> tuple[Channel, ...]:
        """By the columns of its bench, then what people see at the panel."""
        columns = booster_bench(survey, choices, plan).columns
        return (*map(_channel, columns), *control_channels(survey.pumping.count, ALARMS))

    def told(self, bench: BoosterBench, at_s: float) -> dict[str, float]:
        """What a stand-in tells of itself."""
        own = dict(zip(bench.columns, bench.sample(at_s), strict=True))
        return own | of_controls(bench.logic.switches, bench.alarms, Alarm)

    def expected(self, survey: BoosterSurvey, choices: BoosterChoices, plan: Plan, now: Mapping[str, float]) -> tuple[Expected, ...]:
        """Pressure by what is wanted, pumps by pressure and suction, speeds by their ends, alarms by all of it."""
        return tuple(_expected(survey, choices, plan, now))

    def seen_in(
        self, survey: BoosterSurvey, choices: BoosterChoices, plan: Plan, proofs: tuple[Proof, ...], names: tuple[str, ...], rows: Rows
    ) -> dict[str, Seen]:
        """The pressures at which pumps started and stopped, who led, and how many ran at most."""
        return _seen_in(proofs, names, rows)


def _channel(name: str) -> Channel:
    if name in MEASURED:
        return Channel(name, *MEASURED[name])
    kind, _, of = name.partition("_")
    return Channel(name, f"Pump {of}", words=("stands", "runs")) if kind == "pump" else Channel(name, f"Speed {of}", Q.PERCENT)


def _expected(survey: BoosterSurvey, choices: BoosterChoices, plan: Plan, now: Mapping[str, float]) -> Iterator[Expected]:
    n = numbers_of(survey, choices, plan)
    pumps = [name for name in now if name.startswith("pump_")]
    runs = sum(now[name] > 0.5 for name in pumps)
    by_hand = any(round(value) != 2 for name, value in now.items() if name.startswith(SWITCH))
    yield from _pressure(n, now, runs, by_hand, _far_ends_pa(survey, n))
    dry = survey.control.suction_by is SuctionBy.SENSOR and now.get("suction_pa", 0.0) <= n.low_suction_stop
    if survey.control.suction_by is SuctionBy.SENSOR and n.low_suction_stop > -1e8:
        stop = Term("stop", "", n.low_suction_stop, Q.PRESSURE)
        yield Expected("suction_pa", "over {stop} while a pump runs", (stop,), not (dry and runs), n.low_suction_delay + SLACK_S)
    for name in pumps:
        speed = now.get(name.replace("pump", "speed"))
        if speed is not None and n.driven and now[name] > 0.5:
            ends = Term("least", "", n.least_speed, Q.PERCENT), Term("most", "", n.most_speed, Q.PERCENT)
            holds = n.least_speed - 0.005 <= speed <= n.most_speed + 0.005
            yield Expected(name.replace("pump", "speed"), "{least} to {most}", ends, None if by_hand else holds, n.ramp_s + SLACK_S)
    most = survey.pumping.duty_count
    for name in pumps:
        yield Expected(name, f"up to {most} run", (), runs <= most if now[name] > 0.5 else None, SLACK_S)
    alarms: dict[str, bool | None] = dict.fromkeys(ALARMS, False)
    alarms[Alarm.LOW_SUCTION] = None if dry else False
    yield from expected_of_controls(now, alarms, n.low_suction_delay + SLACK_S)


def _far_ends_pa(survey: BoosterSurvey, n: Numbers) -> tuple[float, ...]:
    """Where a set that holds its far sensor brings the pressure at the pumps: with hardly any flow, and with the design flow. [Pa]"""
    if n.remote_pressure is None or survey.remote is None:
        return ()
    hyd = hydraulics(survey)
    still_pa = n.remote_pressure + hyd.column_of(survey.remote.height_m - survey.outlets.sensor_m)
    return still_pa, still_pa + hyd.column_of(hyd.pipe.loss_m(survey.demand.design_m3s))


def _pressure(n: Numbers, now: Mapping[str, float], runs: int, by_hand: bool, far_pa: tuple[float, ...]) -> Iterator[Expected]:
    """What is wanted is one of the plan's pressures; what is there lies between restart and the stops, and at what is wanted while pumps run.

    far_pa: between which the pressure goes with the flow where the far end is held.
    """
    wanted = [pa for pa in (n.set_pressure, n.night_pressure, n.no_flow_pressure, n.emergency_pressure, *(line.pressure for line in n.asking.lines)) if pa is not None]
    if n.asking.keys or n.asking.outside is not OutsideSet.NONE:
        wanted += [n.lowest_set, n.highest_set]
    wanted += far_pa
    set_pa, pressure_pa = now.get("set_pa", n.set_pressure), now.get("pressure_pa", 0.0)
    ends = Term("low", "", min(wanted), Q.PRESSURE), Term("high", "", max(wanted) + n.boost, Q.PRESSURE)
    holds = ends[0].value - n.band_pa <= set_pa <= ends[1].value + n.band_pa
    yield Expected("set_pa", "{low} to {high}, as planned", ends, holds, n.setback_time + SLACK_S)
    if pressure_pa >= n.high_stop:
        yield Expected("pressure_pa", "under {stop}, the high stop", (Term("stop", "", n.high_stop, Q.PRESSURE),), False)
        return
    low_pa = n.restart if n.restart > -1e8 else n.cut_in
    if n.gain and n.restart > -1e8 and runs:
        low_pa, high_pa = min((set_pa, *far_pa)) - n.band_pa, max((set_pa, *far_pa)) + n.band_pa + n.boost  # it fills the tank a little higher before it sleeps
        terms = Term("low", "", low_pa, Q.PRESSURE), Term("high", "", high_pa, Q.PRESSURE)
        yield Expected("pressure_pa", "{low} to {high} once it is calm", terms, None if by_hand else low_pa <= pressure_pa <= high_pa, SETTLES_S)
    else:
        terms = Term("low", "", low_pa, Q.PRESSURE), Term("high", "", n.high_stop, Q.PRESSURE)
        yield Expected("pressure_pa", "{low} to {high}, the high stop", terms, None if by_hand else low_pa - n.band_pa <= pressure_pa, SETTLES_S)


def _seen_in(proofs: tuple[Proof, ...], names: tuple[str, ...], rows: Rows) -> dict[str, Seen]:
    """What a trend shows of the proofs that are read off pressures and pumps alone. What moved is taken at the row before it shows,
    if the pressure did not move further than the proof allows from the row before that."""
    at = {name: place for place, name in enumerate(names)}
    pumps = [place for name, place in at.items() if name.startswith("pump_")]
    if "pressure_pa" not in at or not pumps:
        return {}
    pressure, suction, low = at["pressure_pa"], at.get("suction_pa"), at.get(f"alarm_{Alarm.LOW_SUCTION}")
    moved: dict[str, tuple[float, float]] = {}  # pressure, and how far it came from the row before
    leads: list[int] = []
    for (_, earlier), (_, before), (_, row) in zip(rows, rows[1:], rows[2:]):
        was, runs = (sum(each[place] > 0.5 for place in pumps) for each in (before, row))
        if bool(was) is bool(runs):
            continue
        dry = low is not None and suction is not None and row[low] > 0.5
        place = suction if dry and suction is not None else pressure
        moved.setdefault("wakes" if runs else "dry" if dry else "sleeps", (before[place], abs(before[place] - earlier[place])))
        leads += [next(number for number, place in enumerate(pumps, 1) if row[place] > 0.5)] if runs else []
    found: dict[str, Seen] = {}
    ways = {Check.WAKES: "wakes", Check.CUT_IN: "wakes", Check.CUT_OUT: "sleeps", Check.LOW_SUCTION: "dry"}
    for proof in proofs:
        way = ways.get(Check(proof.check), "") if proof.of in ("", "1") else ""  # of several switches the first starts the set and ends it
        if proof.answer is Answer.NUMBER and way in moved and moved[way][1] <= proof.tolerance:
            found[proof.id] = moved[way][0]
        elif proof.check == Check.ALTERNATION and len(leads) >= proof.cycles:
            found[proof.id] = tuple(leads[: proof.cycles])
    return found


LIVE = BoosterLive()
