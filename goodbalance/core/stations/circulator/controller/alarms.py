"""Which alarms hold now, and what they say."""

from goodbalance.core.control.alarms import Cause
from goodbalance.core.control.sequencer import Switch
from goodbalance.core.stations.circulator import wording
from goodbalance.core.stations.circulator.controller.logic import RingLogic
from goodbalance.core.stations.circulator.names import Alarm


def causes_of(logic: RingLogic, no_flow: bool) -> dict[Cause, str]:
    """Every cause with its words. A dead circulator tells of nothing. no_flow: it turns and moves nothing."""
    if not logic.power:
        return {}
    stands = {Alarm.NO_FLOW: no_flow, Alarm.SENSOR: logic.failed, Alarm.CLOCK: logic.clock_lost and logic.numbers.by_clock, Alarm.NOT_AUTO: logic.switch is not Switch.AUTO}
    return {Cause(alarm): wording.ALARMS[alarm] for alarm, holds in stands.items() if holds}
