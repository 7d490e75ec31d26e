"""What must be proved of a transfer plan, in the order it is made on site: line at rest, filling, tanks, source, limits, motors."""

from collections.abc import Iterator

from goodbalance.core.balance.plan import Plan
from goodbalance.core.balance.proof import Answer, Proof
from goodbalance.core.balance.quantities import Quantity as Q
from goodbalance.core.control.rotation import Alternation
from goodbalance.core.protection import proofs as protection
from goodbalance.core.protection.monitor import supply_of
from goodbalance.core.protection.names import Restart
from goodbalance.core.stations.shared import telemetry
from goodbalance.core.stations.shared.crew_proofs import crew_proofs
from goodbalance.core.stations.transfer.names import Check, Level
from goodbalance.core.stations.transfer.names import SettingId as S
from goodbalance.core.stations.transfer.plant.hydraulics import hydraulics
from goodbalance.core.stations.transfer.plant.motors import duties
from goodbalance.core.stations.transfer.proofs import by_levels, by_pressure
from goodbalance.core.stations.transfer.proofs.scenes import (
    DRINKING,
    FLOOD,
    HEAT,
    HEIGHT,
    LIMITS,
    LINE,
    PRESSED,
    SHARE,
    SHOCK,
    SOURCE,
    STARTING,
    TANKS,
)
from goodbalance.core.stations.transfer.survey.choices import Reset, TransferChoices
from goodbalance.core.stations.transfer.survey.control import SourceBy
from goodbalance.core.stations.transfer.survey.survey import TransferSurvey

CYCLES = 3
MOTORS = protection.Checks(Check.OVERLOAD, Check.UNDERLOAD, Check.RETRIES, Check.TRIES, Check.AWAKE, Check.HOT, Check.CASING)
LEVEL_M, TIME_SHARE, LEAST_S = 0.03, 0.03, 3.0  # by which a level and a time may be off
FLOW_SHARE = 0.06  # by which a gauge may be off while it fills
SHUT_SHARE, GAUGE_PA = 0.05, 5e3  # of its head without flow that a pump may give less or more before somebody looks; of a calm gauge


def proofs(survey: TransferSurvey, choices: TransferChoices, plan: Plan) -> tuple[Proof, ...]:
    """Every proof of this plan."""
    found = [*_at_rest(survey)]
    if survey.control.by_pressure:
        found += by_pressure.proofs(survey, choices, plan)
    found += [*by_levels.proofs(survey, plan), *_tanks(survey), *_source(survey, choices, plan), *_each_pump(survey), *_shut_off(survey, choices), *_sharing(survey, choices, plan)]
    found += [*_limits(survey, choices, plan), *_supply(survey, choices, plan)]
    found += protection.proofs(MOTORS, plan, duties(survey), survey.protection)
    found += telemetry.proofs(survey.telemetry, Check.FAR_END, "the gravest alarm", "Let the source fall under its stop, or use the controller's own test.")
    return tuple(found)


def near_s(time_s: float) -> float:
    """By how much a time may be off. [s]"""
    return max(LEAST_S, TIME_SHARE * time_s)


def timed(check: Check, title: str, group: str, before: str, cautions: tuple[str, ...], action: str, seen: str, plan: Plan, setting: S, more: tuple[str, ...] = (), of: str = "") -> Proof:
    """A proof of a time of the plan."""
    time_s = plan.value(setting, 0.0)
    quantity = plan.setting(setting).quantity
    return Proof(check, title, group, before, cautions, action, seen, Answer.NUMBER, time_s, near_s(time_s), quantity, proves=(setting, *more), of=of)


def _at_rest(survey: TransferSurvey) -> Iterator[Proof]:
    """The sensor against a height that costs nothing."""
    hyd = hydraulics(survey)
    lowest = min(range(len(hyd.columns_pa)), key=lambda tank: hyd.columns_pa[tank])
    off_pa = 2.0 * survey.sensor.error_share * survey.sensor.range_pa + 3.0 * survey.sensor.noise_pa + 3e3
    yield Proof(
        Check.FREE, "At rest it reads the height of the line", LINE, f"Pumps in OFF; the inlet of {survey.tank_name(lowest + 1)} open (its level low, or its float held down).", (STARTING, HEIGHT),
        "Wait until nothing flows and read the display.", "It shows the column up to that inlet. Less: its range is told wrong, or air; much more: another liquid, or bar for metres.",
        Answer.NUMBER, hyd.columns_pa[lowest], off_pa, Q.PRESSURE,
    )  # fmt: skip


def _tanks(survey: TransferSurvey) -> Iterator[Proof]:
    """Each valve at its own tank."""
    for number, tank in enumerate(survey.all_tanks, 1):
        if not tank.has_valve or not survey.control.by_pressure:
            continue
        yield Proof(
            Check.CLOSES, f"The valve of {survey.tank_name(number)} shuts at its level", TANKS, "A pump fills; somebody stands at the tank.", (HEIGHT, DRINKING),
            "Let it fill to the end and read the level when no more comes in.", "No water comes in any more at this level, and none later. It still drips: the valve never shuts, the line never holds.",
            Answer.NUMBER, tank.closes_m, 0.05 + tank.throttles_m, Q.LEVEL, of=str(number),
        )  # fmt: skip


def _source(survey: TransferSurvey, choices: TransferChoices, plan: Plan) -> Iterator[Proof]:
    """Lack of water, water back, and a broken wire."""
    if survey.control.source_by is SourceBy.NONE or S.SOURCE_STOP_1 not in plan:
        return
    for number in range(1, len(survey.sources) + 1):
        stop, back = Level.SOURCE_STOP.of(number), Level.SOURCE_BACK.of(number)
        of = f" of source {number}" if len(survey.sources) > 1 else ""
        how = "Lower the level, or feign it at the sensor's input (a switch: lower it), slowly."
        yield Proof(
            Check.SOURCE, f"Low water{of} stops its pumps", SOURCE, "Its pump fills.", (STARTING,), how, "At this level, after its delay, the pump stops and an alarm comes.",
            Answer.NUMBER, plan.value(stop, 0.0), LEVEL_M, Q.LEVEL, proves=(stop,), of=str(number),
        )  # fmt: skip
        if choices.schools.source_reset is Reset.AUTOMATIC:
            yield Proof(
                Check.SOURCE_BACK, f"Water back{of} lets them go on", SOURCE, "Stopped by low water; a tank wants water.", (STARTING,), "Raise the level again, slowly.", "At this level the pump may run again.",
                Answer.NUMBER, plan.value(back, 0.0), LEVEL_M, Q.LEVEL, proves=(back,), of=str(number),
            )  # fmt: skip
    if S.SOURCE_DELAY in plan:
        yield timed(
            Check.SOURCE_DELAY, "Low water counts after its delay", SOURCE, "A pump fills.", (STARTING,), "Take the level away at once and take the time until the pump stops.", "It stops after this time.", plan, S.SOURCE_DELAY
        )
    yield Proof(
        Check.SOURCE_WIRE, "A broken wire of the source stops the pumps", SOURCE, "A pump fills.", (SHOCK,), "Take one wire of its sensor or switch off; put it back after.",
        "Every pump stops and an alarm comes.", Answer.YES_NO,
    )  # fmt: skip


def _each_pump(survey: TransferSurvey) -> Iterator[Proof]:
    """Every pump by itself, the standby too."""
    tank = survey.tank_name(1)
    for pump in range(1, survey.pumping.count + 1):
        expected = middle_pa(survey, pump - 1)
        yield Proof(
            Check.EACH_PUMP, f"Pump {pump} fills {tank} by itself", LINE, f"Every other pump in OFF; only the inlet of {tank} open; the source in the middle of its range, or the difference added.",
            ("In HAND nothing but its motor's guards stops a pump: stay beside it.", PRESSED), "In HAND let it run until the gauge stands still and read it.",
            "The gauge shows this pressure. Less: air, wear, the wrong rotation, a leak; more: a valve half shut, a line grown narrow.",
            Answer.NUMBER, expected, FLOW_SHARE * abs(expected) + 1e4, Q.PRESSURE, of=str(pump),
        )  # fmt: skip


def _shut_off(survey: TransferSurvey, choices: TransferChoices) -> Iterator[Proof]:
    """What each pump reaches against a closed valve, where everything that it presses on stands that: wear shows there, not in a line that is mostly height."""
    hyd = hydraulics(survey)
    if any(hyd.shut_off_pa(True) > rating_pa * choices.rules.rating_share - down_pa for _, rating_pa, down_pa in hyd.rated_parts):
        return  # a finding says so
    for pump in range(1, survey.pumping.count + 1):
        reached_pa = shut_off_pa(survey, pump - 1)
        yield Proof(
            Check.SHUT_OFF, f"Pump {pump} against a closed valve", LINE, "Every other pump in OFF; the source in the middle of its range, or the difference added; the valve behind the gauge closed.",
            ("In HAND nothing but its motor's guards stops a pump: stay beside it.", PRESSED, HEAT), "In HAND let it run for ten seconds at most, read the highest pressure, OFF, valve open.",
            "The gauge shows what its curve gives without flow. Less: wear, the wrong rotation, air, another impeller than the curve's.",
            Answer.NUMBER, reached_pa, SHUT_SHARE * hyd.weight * hyd.pumps[pump - 1].a + GAUGE_PA, Q.PRESSURE, of=str(pump),
        )  # fmt: skip


def shut_off_pa(survey: TransferSurvey, pump: int) -> float:
    """What a pump (0 is pump 1) reaches against closed valves from the middle of its source: p = w (source + a - sensor). [Pa]"""
    hyd, source = hydraulics(survey), survey.sources[hydraulics(survey).pumps[pump].source]
    return hyd.column_pa((source.low_m + source.high_m) / 2.0 + hyd.pumps[pump].a)


def middle_pa(survey: TransferSurvey, pump: int) -> float:
    """The pressure while a pump fills tank 1 alone from the middle of its source. [Pa]"""
    hyd = hydraulics(survey)
    openings = [1.0 if tank == 0 else 0.0 for tank in range(len(hyd.branches))]
    sources = [(source.low_m + source.high_m) / 2.0 for source in survey.sources]
    return hyd.flows((pump,), openings, [branch.tank.outlet_m for branch in hyd.branches], sources).pressure_pa


def _sharing(survey: TransferSurvey, choices: TransferChoices, plan: Plan) -> Iterator[Proof]:
    """Whose turn it is, and who helps."""
    if survey.pumping.duty_count > 1:
        rule, turning = choices.schools.alternation, survey.pumping.turning_count
        before, how = "In AUTO, all tanks full.", f"Let it fill {CYCLES} times and write down which pump leads."
        if rule is Alternation.ALL_STOPPED:
            yield Proof(Check.ALTERNATION, "The lead passes on", SHARE, before, (STARTING,), how, "Each fill is led by the next pump.", Answer.SEQUENCE, pumps=turning, cycles=CYCLES)
        else:
            must = {Alternation.FIXED: "Pump 1 leads each time.", Alternation.RUN_HOURS: "The pump that has run least leads.", Alternation.CLOCK: "The lead passes on once its time is over, not before."}[rule]
            yield Proof(Check.LEAD, "Who leads", SHARE, before, (STARTING,), how, must, Answer.YES_NO)
    calls = "Open every inlet and draw more than comes." if survey.control.by_pressure else "Let the level of a tank fall under its lowest start."
    yield from crew_proofs(survey.pumping, (Check.MOST_AT_ONCE, Check.STANDBY), SHARE, (STARTING, FLOOD), calls)
    if S.ASSIST_AFTER in plan:
        yield timed(
            Check.ASSIST_AFTER, "The assist comes after its time", SHARE, "In AUTO; every inlet open, so that one pump does not fill it.", (STARTING, FLOOD),
            "Take the time from the start of the first pump to that of the second. (To be done sooner turn the time down; put it back after.)", "It starts after this time.", plan, S.ASSIST_AFTER,
        )  # fmt: skip
    if S.START_GAP in plan:
        yield timed(
            Check.START_GAP, "Pumps start one after the other", SHARE, "Tanks under their assist starts.", (STARTING, SHOCK),
            f"Switch the supply off and on; {by_pressure.from_when(choices, plan)}take the time from the first start to the second.",
            "The second starts after this time.", plan, S.START_GAP,
        )  # fmt: skip


def _limits(survey: TransferSurvey, choices: TransferChoices, plan: Plan) -> Iterator[Proof]:
    """What ends a run that does no good."""
    if survey.control.by_pressure:
        yield Proof(
            Check.SENSOR_FAILURE, "A failed pressure sensor stops the pumps", LIMITS, "A pump fills.", (SHOCK,), "Take a wire of the sensor off; put it back after.", "Every pump stops and an alarm comes.", Answer.YES_NO,
        )  # fmt: skip
    if S.LEAST_PRESSURE in plan:
        yield Proof(
            Check.BURST, "An open line stops the pumps", LIMITS, "A pump fills calmly for a while; then the drain at the pump is opened wide.", (FLOOD, STARTING),
            "See that it runs on while it fills as it should; open the drain wide and wait.", "It does not stop while it fills as it should; with the drain open it locks out, and an alarm comes.",
            Answer.YES_NO, proves=(S.LEAST_PRESSURE,),
        )  # fmt: skip
        yield timed(
            Check.BURST_DELAY, "An open line counts after its delay", LIMITS, "A pump fills.", (FLOOD, STARTING), "Open the drain at the pump wide and take the time until it locks out.", "It locks out after this time.",
            plan, S.LEAST_DELAY, (S.LEAST_PRESSURE,),
        )  # fmt: skip
    if S.LONGEST_RUN in plan:
        yield timed(
            Check.LONGEST_RUN, "The longest run locks out", LIMITS, "A pump fills, and every inlet is held open.", (FLOOD, STARTING),
            "Take the time from its start until it locks out. (To be done sooner turn the time down and compare with what you typed; put it back after.)",
            "It locks out after this time, an alarm comes, and it stays out until somebody resets it.", plan, S.LONGEST_RUN,
        )  # fmt: skip


def _supply(survey: TransferSurvey, choices: TransferChoices, plan: Plan) -> Iterator[Proof]:
    """What the set does when its supply fails and comes back."""
    if survey.control.phase_monitor:
        yield Proof(
            Check.PHASE, "A missing phase stops the set", LIMITS, "A pump fills; a licensed person.", (SHOCK,), "Take out one fuse of the monitor's supply.", "Every pump stops and an alarm comes.", Answer.YES_NO,
        )  # fmt: skip
    action, seen = protection.returns(choices.protection.power_return is Restart.BY_HAND)
    yield Proof(Check.POWER_RETURN, "After a power failure", LIMITS, "A tank wants water; a pump fills.", (STARTING,), action, f"{seen} The tank is filled in the end.", Answer.YES_NO, decided=choices.protection.power_return.value)
    if survey.control.phase_monitor:
        yield from protection.supply_proofs(Check.SUPPLY, Check.SWAPPED, plan, supply_of(duties(survey)).three, 0.0)
