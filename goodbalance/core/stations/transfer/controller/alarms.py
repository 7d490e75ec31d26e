"""Which alarms hold now, and what they say."""

from goodbalance.core.control.alarms import Cause
from goodbalance.core.stations.transfer import wording
from goodbalance.core.stations.transfer.controller.logic import Seen, TransferLogic
from goodbalance.core.stations.transfer.names import Alarm, Hold, Level, Lock

_HOLDS = {Hold.SENSOR: Alarm.SENSOR, Hold.WIRE: Alarm.WIRE, Hold.SOURCE: Alarm.SOURCE, Hold.HIGH: Alarm.HIGH}
_LOCKS = {Lock.LONG: Alarm.LONG, Lock.BURST: Alarm.BURST}
NUMBERED = (Alarm.WIRE, Alarm.SOURCE, Alarm.HIGH, Alarm.LOW, Alarm.PUMP)


def causes_of(logic: TransferLogic, seen: Seen) -> dict[Cause, str]:
    """Every cause with its words. A dead controller tells of nothing."""
    if not logic.power:
        return {}
    found = [Cause(_HOLDS[hold], of + 1 if _HOLDS[hold] in NUMBERED else 0) for hold, of in sorted(logic.holds)]
    found += [Cause(_LOCKS[lock]) for lock in logic.locks]
    for tank, level in enumerate(seen.tanks):
        if level is not None and tank not in seen.silent and level <= logic.numbers.tanks[tank][Level.LOW_ALARM]:
            found.append(Cause(Alarm.LOW, tank + 1))
    if not logic.phases_ok:
        found.append(Cause(Alarm.PHASE))
    if logic.waits:
        found.append(Cause(Alarm.WAITS))
    causes = {cause: wording.alarm_words(cause, voltages=logic.numbers.monitor.has_dials) for cause in found}
    for pump, trip in enumerate(logic.tripped):
        if trip is not None:
            cause = Cause(Alarm.PUMP, pump + 1)
            causes[cause] = wording.alarm_words(cause, trip)
    return causes
