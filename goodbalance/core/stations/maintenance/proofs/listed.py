"""What must be proved of a maintenance pump, in the order it is made on site: who was told, at rest, start and stop, times, main pump out, limits, AUTO."""

from collections.abc import Iterator

from goodbalance.core.balance.plan import Plan
from goodbalance.core.balance.proof import Answer, Proof
from goodbalance.core.balance.quantities import Quantity as Q
from goodbalance.core.protection import proofs as protection
from goodbalance.core.protection.monitor import supply_of
from goodbalance.core.protection.names import Restart
from goodbalance.core.stations.maintenance.names import Check, main_start
from goodbalance.core.stations.maintenance.names import SettingId as S
from goodbalance.core.stations.maintenance.plant.hydraulics import hydraulics
from goodbalance.core.stations.maintenance.plant.motors import duties
from goodbalance.core.stations.maintenance.survey.choices import MaintenanceChoices, RunOn
from goodbalance.core.stations.maintenance.survey.survey import MaintenanceSurvey
from goodbalance.core.stations.shared import telemetry

FIRST, LINE, TIMES, OTHERS, LIMITS, LAST = "Before anything is bled", "The line", "Times", "Main pumps", "Limits and failures", "Back in service"
MOTORS = protection.Checks(Check.OVERLOAD, Check.UNDERLOAD, Check.RETRIES, Check.TRIES, Check.AWAKE, Check.HOT, Check.CASING)
STARTING = "The pump starts by itself: keep hands and clothes away."
PRESSED = "Stored pressure: open cocks by the drop, stand aside."
SHOCK = "Lethal voltage: nothing inside is touched for this test."
WATCHED = "Watch the main pump's start on its own gauge: stop bleeding before it. Licensed people stand by; the alarm receiver knows."
NEAR_S, NEAR_SHARE = 2.0, 0.05  # by which a time may be off


def proofs(survey: MaintenanceSurvey, choices: MaintenanceChoices, plan: Plan) -> tuple[Proof, ...]:
    """Every proof of this plan."""
    found = [*_first(survey), *_pressures(survey, choices, plan), *_times(survey, plan), *_mains(survey, plan), *_limits(survey, choices, plan)]
    found += protection.proofs(MOTORS, plan, duties(survey), survey.protection)
    found += telemetry.proofs(survey.telemetry, Check.FAR_END, "the gravest alarm", "Turn the switch out of AUTO, or use the controller's own test.")
    return (*found, _auto())


def reads_off_pa(survey: MaintenanceSurvey) -> float:
    """By how much a gauge and the display may differ, and what a slow bleed adds. [Pa]"""
    return 2.0 * survey.sensor.error_share * survey.sensor.range_pa + 3.0 * survey.sensor.noise_pa + 1e4


def near_s(time_s: float) -> float:
    """By how much a time may be off. [s]"""
    return max(NEAR_S, NEAR_SHARE * time_s)


def _first(survey: MaintenanceSurvey) -> Iterator[Proof]:
    yield Proof(
        Check.TOLD, "The receiver is told, the impairment is begun", FIRST, "Nothing was touched yet.", (), "Ask the licensed person; write name, time and the receiver's word into the remark.",
        "The alarm receiver knows, the owner's procedure for a system out of service has begun, somebody guards what it guards.", Answer.YES_NO,
    )  # fmt: skip
    hyd = hydraulics(survey)
    expected = 0.5 * (hyd.shut_off_pa(False) + hyd.shut_off_pa(True))
    spread = 0.5 * (hyd.shut_off_pa(True) - hyd.shut_off_pa(False))
    yield Proof(
        Check.SHUT_OFF, "Its shut-off pressure, by hand", LINE, "The pump's own outlet valve closed by licensed people; the supply read beside.", ("Seconds only: the water in the pump heats up.", PRESSED),
        "In HAND, for seconds, read the gauge at the pump; back to OFF.", "Supply and shut-off head together. Less: the wrong way round, worn, or air.", Answer.NUMBER, expected, spread + 0.05 * hyd.weight * hyd.a + reads_off_pa(survey), Q.PRESSURE,
    )  # fmt: skip


def _pressures(survey: MaintenanceSurvey, choices: MaintenanceChoices, plan: Plan) -> Iterator[Proof]:
    off_pa = reads_off_pa(survey)
    yield Proof(
        Check.STARTS, "It starts at the start pressure", LINE, "In AUTO, the line at rest over its start.", (STARTING, PRESSED, WATCHED),
        "Bleed at the test cock of the sensing line, by the drop, and read the display when its start delay begins.", "At this pressure it begins to count, and starts.",
        Answer.NUMBER, plan.value(S.START_PRESSURE, 0.0), off_pa, Q.PRESSURE, proves=(S.START_PRESSURE,),
    )  # fmt: skip
    timer = choices.schools.run_on is RunOn.TIMER
    how = "Let it run on with the bleed open so far that the display climbs slowly, the least run over; read the display when it stops." if timer else "Close the bleed by the drop and read the display when it stops."
    yield Proof(
        Check.STOPS, "It stops at the stop pressure", LINE, "It runs.", (STARTING, PRESSED), how, "It stops at this pressure, or as much over it as the line climbs while it reacts. Never: bleed, and look at the sensor.",
        Answer.NUMBER, plan.value(S.STOP_PRESSURE, 0.0), off_pa, Q.PRESSURE, proves=(S.STOP_PRESSURE,),
    )  # fmt: skip
    yield Proof(
        Check.HOLDS, "The line holds", LINE, "Stopped, no bleed.", (PRESSED,), "Watch the gauge for a quarter of an hour; write how far it sagged into the remark.",
        "It sags no faster than the permitted leak makes it. Faster: look for the leak, or at the check valve, before anything else is set.", Answer.YES_NO,
    )  # fmt: skip


def least_binds(survey: MaintenanceSurvey, plan: Plan) -> bool:
    """Whether a run without a bleed ends with the least run: a soft line takes longer to come to its stop."""
    hyd, line = hydraulics(survey), survey.line
    return hyd.fills_s(plan.value(main_start(1), 0.0), plan.value(S.STOP_PRESSURE, 0.0), False, line.leak_m3s) < 0.9 * plan.value(S.LEAST_RUN, 0.0)


def _timed(check: Check, title: str, before: str, cautions: tuple[str, ...], action: str, seen: str, plan: Plan, setting: S) -> Proof:
    time_s = plan.value(setting, 0.0)
    return Proof(check, title, TIMES, before, cautions, action, seen, Answer.NUMBER, time_s, near_s(time_s), Q.TIME, proves=(setting,))


def _times(survey: MaintenanceSurvey, plan: Plan) -> Iterator[Proof]:
    yield _timed(
        Check.ON_DELAY, "The start delay", "In AUTO, at rest.", (STARTING, PRESSED, WATCHED), "Bleed until the display is under the start, close the cock, take the time until it starts.",
        "It starts after this time, no sooner.", plan, S.ON_DELAY,
    )  # fmt: skip
    if S.LEAST_RUN in plan and not least_binds(survey, plan):
        yield Proof(
            Check.LEAST_RUN, "The least run", TIMES, "In AUTO, at rest.", (STARTING, PRESSED), "Bleed until it starts, close the cock at once, take the time from its start to its stop.",
            "It runs at least so long as its least run says: here the line takes longer to fill.", Answer.YES_NO, proves=(S.LEAST_RUN,),
        )  # fmt: skip
    elif S.LEAST_RUN in plan:
        yield _timed(
            Check.LEAST_RUN, "The least run", "In AUTO, at rest.", (STARTING, PRESSED), "Bleed until it starts, close the cock at once, take the time from its start to its stop.",
            "It runs so long although the pressure stands over the stop.", plan, S.LEAST_RUN,
        )  # fmt: skip
    if S.LONG_RUN in plan:
        yield _timed(
            Check.LONG_RUN, "The alarm of a long run", "It runs.", (STARTING, PRESSED), "Bleed so much that it never comes to its stop, and take the time from its start until the alarm comes. It runs on.",
            "The alarm comes after this time, at the far end too.", plan, S.LONG_RUN,
        )  # fmt: skip


def _mains(survey: MaintenanceSurvey, plan: Plan) -> Iterator[Proof]:
    yield Proof(
        Check.OUT, "The main pump stays out through a full cycle", OTHERS, "In AUTO; the main pump as its people left it.", (STARTING, PRESSED, WATCHED),
        "Bleed by the drop until the maintenance pump starts, close the cock, let it run and stop; watch the main pump all the while.",
        "It starts, brings the line up, stops; no main pump starts, no alarm goes.", Answer.YES_NO, proves=(S.START_PRESSURE, S.ON_DELAY),
    )  # fmt: skip
    for number in range(1, survey.mains.count + 1):
        setting = main_start(number)
        yield Proof(
            Check.WITNESS, f"Start of main pump {number}, witnessed", OTHERS, "Licensed people run this test by their own rule. It is not run from here.", ("Only licensed people touch the main pump.",),
            "Stand by and write down the pressure at which they see it start.", "It starts at the pressure recorded, under the maintenance pump's start by its separation.",
            Answer.NUMBER, plan.value(setting, 0.0), reads_off_pa(survey), Q.PRESSURE, proves=(setting,), of=str(number),
        )  # fmt: skip


def _limits(survey: MaintenanceSurvey, choices: MaintenanceChoices, plan: Plan) -> Iterator[Proof]:
    yield Proof(
        Check.SENSOR_FAILURE, "A failed sensor is told", LIMITS, "In AUTO, at rest.", (SHOCK,), "Take a wire of the sensor off for seconds; put it back.",
        "The alarm comes and the pump stays as it is kept: off. Somebody keeps the line meanwhile.", Answer.YES_NO,
    )  # fmt: skip
    if survey.control.phase_monitor:
        yield Proof(Check.PHASE, "A missing phase stops the pump", LIMITS, "It runs; a licensed person.", (SHOCK,), "Take out one fuse of the monitor's supply.", "It stops and an alarm comes.", Answer.YES_NO)
    action, seen = protection.returns(choices.protection.power_return is Restart.BY_HAND)
    yield Proof(Check.POWER_RETURN, "After a power failure", LIMITS, "The line under its start, bled; the supply of the main pump is not touched.", (STARTING, WATCHED), action, f"{seen} It brings the line up in the end.", Answer.YES_NO, decided=choices.protection.power_return.value)
    if survey.control.phase_monitor:
        yield from protection.supply_proofs(Check.SUPPLY, Check.SWAPPED, plan, supply_of(duties(survey)).three, 0.0)


def _auto() -> Proof:
    return Proof(
        Check.AUTO, "Left in AUTO, everything back in service", LAST, "Every other proof is made.", (STARTING,),
        "Switch in AUTO, valves locked open, cocks shut and plugged, no jumper left; the main pump as its people want it; tell the receiver, end the impairment, write when and to whom.",
        "AUTO is seen at the switch and at the far end; the receiver sees no signal standing.", Answer.YES_NO,
    )  # fmt: skip
