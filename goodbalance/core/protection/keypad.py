"""What of the motors' protection goes into which devices: starters with their dials, load monitors, and the monitor of the supply."""

from collections.abc import Mapping

from goodbalance.core.balance.plan import Plan
from goodbalance.core.protection.duty import MotorDuty
from goodbalance.core.protection.monitor import MEANINGS as SUPPLY_MEANINGS
from goodbalance.core.protection.monitor import RATED, supply_of
from goodbalance.core.protection.names import CasingBy, Guarding, MonitorBy, UnderloadBy, Watching, motor_id
from goodbalance.core.protection.numbers import meaning
from goodbalance.core.protection.readings import At
from goodbalance.core.sheets.entry_sheet import KeypadValue

STARTERS = "motor starters"
PHASES = "phase monitor"
CASINGS = "casing thermostat"
MONITORS = {UnderloadBy.CURRENT: "load monitor by current", UnderloadBy.POWER: "load monitor by power"}
RUNNING = "running"  # what a monitor is told that a pump usually takes


def companions_of(answers: Mapping[str, str], driven: bool) -> tuple[str, ...]:
    """Families set beside the controller: starters where pumps stand on the line, and whatever watches their load."""
    watched = answers.get("protection.underload_by") or UnderloadBy.NOTHING
    monitor = MONITORS.get(UnderloadBy(watched)) if watched in set(UnderloadBy) else None
    dials = answers.get("control.phase_monitor") == "yes" and answers.get("protection.monitor") == MonitorBy.VOLTAGES
    return (*(() if driven else (STARTERS,)), *(() if monitor is None else (monitor,)), *((PHASES,) if dials else ()), *((CASINGS,) if answers.get("protection.casing_by") == CasingBy.THERMOSTAT else ()))


def values_of(plan: Plan, duties: tuple[MotorDuty, ...]) -> dict[str, KeypadValue]:
    """What each pump's starter and monitor are told. Motors alike share a setting: it is typed at each of them, and held by the first."""
    found = _of_the_supply(plan, duties)
    for duty in duties:
        usual_a = max((read.mean_a for read in duty.read(At.NORMAL)), default=duty.current_a(duty.highest))
        for pump in duty.pumps:
            for setting in Guarding:
                if motor_id(setting, duty.number) in plan:
                    own = plan.setting(motor_id(setting, duty.number))
                    why = f"{own.label.lower()}, from the plan"
                    first = own.id if pump == duty.number else ""
                    found[meaning(setting, pump)] = KeypadValue(own.value, why, own.window, first, own=own.chosen is not None)
            if meaning(Guarding.UNDERLOAD, pump) in found:
                found[f"pump.{pump}.{RUNNING}"] = KeypadValue(usual_a, "current in normal work, read or reckoned")
                found.setdefault(meaning(Guarding.RETRIES, pump), KeypadValue(0.0, "a person resets it, from Schools and rules"))
    return found


def _of_the_supply(plan: Plan, duties: tuple[MotorDuty, ...]) -> dict[str, KeypadValue]:
    """What the dials of a phase monitor are turned to."""
    dials = [(meaning_of, plan.setting(each)) for meaning_of, each in zip(SUPPLY_MEANINGS, Watching) if each in plan]
    if not dials:
        return {}
    rated = KeypadValue(supply_of(duties).plate_v, "nameplate of the motors it guards")
    return {RATED: rated} | {name: KeypadValue(own.value, f"{own.label.lower()}, from the plan", own.window, own.id, own=own.chosen is not None) for name, own in dials}
