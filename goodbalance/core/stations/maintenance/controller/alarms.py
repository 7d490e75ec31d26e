"""Which alarms hold now, and what they say."""

from goodbalance.core.control.alarms import Cause
from goodbalance.core.control.sequencer import Switch
from goodbalance.core.stations.maintenance import wording
from goodbalance.core.stations.maintenance.controller.logic import MaintenanceLogic
from goodbalance.core.stations.maintenance.names import Alarm


def causes_of(logic: MaintenanceLogic) -> dict[Cause, str]:
    """Every cause with its words. A dead controller tells of nothing."""
    if not logic.power:
        return {}
    stands = {
        Alarm.SENSOR: logic.failed, Alarm.LONG: logic.too_long, Alarm.NOT_AUTO: logic.switch is not Switch.AUTO, Alarm.PHASE: not logic.phases_ok, Alarm.WAITS: logic.waits,
    }  # fmt: skip
    causes = {Cause(alarm): wording.alarm_words(Cause(alarm), voltages=logic.numbers.monitor.has_dials) for alarm, holds in stands.items() if holds}
    if logic.trip is not None:
        causes[Cause(Alarm.PUMP, 1)] = wording.alarm_words(Cause(Alarm.PUMP, 1), logic.trip)
    return causes
