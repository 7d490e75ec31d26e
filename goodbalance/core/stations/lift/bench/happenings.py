"""What one scan of the controller changed on the bench of a lift station."""

from collections.abc import Sequence

from goodbalance.core.control.relays import LevelRelay
from goodbalance.core.rehearsal.events import Event
from goodbalance.core.stations.lift import wording
from goodbalance.core.stations.lift.controller.logic import LiftLogic


class Before:
    """How logic and pumps stood before a scan, to tell what the scan changed."""

    def __init__(self, logic: LiftLogic, running: tuple[int, ...]) -> None:
        self.relays, self.floats, self.pumps = logic.energised, logic.floats_closed, running
        self.flat = _is_flat_out(logic)
        self.order, self.failed, self.tripped = logic.panel.rotation.order, logic.sensor_failed, list(logic.panel.tripped)

    def events(self, logic: LiftLogic, running: tuple[int, ...], level_m: float, now_s: float) -> list[Event]:
        """What a scan changed: contacts, pumps, trips, turns and sensors. [m, s]"""
        same = self.relays == logic.energised and self.floats == logic.floats_closed and self.pumps == running
        if same and self.tripped == logic.panel.tripped and self.failed == logic.sensor_failed:
            if self.order == logic.panel.rotation.order and self.flat == _is_flat_out(logic):
                return []
        found = []
        if logic.sensor_failed != self.failed and now_s > 0.0:
            found.append(wording.sensor_moves(now_s, logic.sensor_failed, logic.on_floats))
        for relay, closes in _moved(logic.relays, self.relays, logic.energised):
            found.append(wording.contact_moves(now_s, relay, closes, logic.alone, level_m))
        if now_s > 0.0:
            for relay, closes in _moved(logic.floats, self.floats, logic.floats_closed):
                found.append(wording.float_moves(now_s, relay, closes, level_m))
        for pump in sorted({*self.pumps} ^ {*running}):
            found.append(wording.pump_moves(now_s, pump, pump in running, level_m))
        for pump, (before, after) in enumerate(zip(self.tripped, logic.panel.tripped)):
            if after is not None and before is None:
                found.append(wording.pump_given_up(now_s, pump, after))
        if _is_flat_out(logic) is not self.flat and running:
            found.append(wording.full_speed(now_s, not self.flat, level_m))
        if logic.panel.rotation.order != self.order:
            found.append(wording.turn_passes(now_s, logic.panel.rotation.order[0]))
        return found


def _is_flat_out(logic: LiftLogic) -> bool:
    """Whether drives that do not always turn at full speed are told to."""
    drive = logic.drive
    return drive is not None and drive.goes_full and drive.wanted >= 1.0


def _moved(
    relays: Sequence[LevelRelay], before: Sequence[bool], after: Sequence[bool]
) -> list[tuple[LevelRelay, bool]]:
    return [(relay, now) for relay, was, now in zip(relays, before, after) if was != now]
