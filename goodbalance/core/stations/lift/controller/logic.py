"""The controller of a lift station on the bench: what it believes of the level, and the contacts it closes for the panel."""

import math
from dataclasses import astuple, dataclass, field

from goodbalance.core.control.alarms import AlarmPanel, Cause
from goodbalance.core.control.level_drive import LevelDrive
from goodbalance.core.control.relays import LevelRelay, OnFailure
from goodbalance.core.control.sequencer import Contacts, Sequencer
from goodbalance.core.stations.lift.controller.program import LiftProgram
from goodbalance.core.stations.lift.controller.team import Leader
from goodbalance.core.stations.lift.names import STARTS, STOPS, Alarm, Role
from goodbalance.core.stations.lift.survey.team import Inputs
from goodbalance.core.stations.lift.wording import alarm_words

DOUBT_DELAY_S = 10.0  # so long a float must contradict the sensor
DOUBT_M = 0.10  # and by more than so much


@dataclass
class LiftLogic:
    """One scan reads signal and floats, moves the relays, lets the panel act on the contacts, and raises alarms.

    The program's floats take over while the sensor is out, and the high one calls every pump at any time.
    """

    program: LiftProgram
    panel: Sequencer
    drive: LevelDrive | None = None
    alarms: AlarmPanel = field(default_factory=AlarmPanel)
    seal_leaks: frozenset[int] = frozenset()
    energised: list[bool] = field(default_factory=list)
    floats_closed: tuple[bool, ...] = ()
    level_m: float | None = None
    failed_since_s: float | None = None
    doubted_since_s: float | None = None
    doubted: bool = False
    called: bool = False  # whether a start float was closed at the last scan
    called_at_s: float = -math.inf  # when a start float was last closed
    low_float_open: bool = False
    run_open: bool = False  # the outside run contact says no
    remote: bool = True  # whether anybody outside is obeyed
    signals: tuple[float, ...] = ()  # of each drive's own input, where drives decide by themselves
    outside: float | None = 0.5  # what the outside signal says of the speed, a share of its span; None: lost
    cut: frozenset[str] = frozenset()  # roles of contacts with a wire off: whatever the relay does, they are open
    now_s: float = 0.0

    def __post_init__(self) -> None:
        program = self.program
        self.own = (program, *program.heirs)  # of each drive; one for all where they hold the same
        self.leader = None if program.team is None else Leader(program.team, self.panel.pump_count)
        self._go_by(program)
        # at rest a call is open: within its band a relay that is wired by the contact closed at rest has pulled before
        self.energised = self.energised or [relay.normally_closed and Role(relay.role).is_start for relay in self.relays]
        self.floats_closed = self.floats_closed or (False,) * len(self.floats)

    def _go_by(self, program: LiftProgram) -> None:
        """What is read at every scan, each under its own name."""
        self.program = program
        self.relays, self.floats, self.alone = program.relays, program.floats, program.alone
        self.run_on_s, self.believed_rate_ms = program.run_on_s, program.believed_rate_ms
        self.signal_range, self.scaling, self.fail_delay_s = program.sensor.signal, program.sensor.scaling, program.sensor.fail_delay_s
        places = {relay.role: index for index, relay in enumerate(self.relays)}
        calls = range(1, self.panel.duty_count + 1)
        if not self.alone:  # where the sensor's relays stand in the list, for every scan
            self.start_places = [places[STARTS[call - 1]] for call in calls]
            # without stop relays each pump's own relay holds it from its start down to its stop
            own = dict(zip(calls, self.start_places))
            self.stop_places = [places.get(STOPS[call - 1], places.get(Role.STOP, own[call])) for call in calls]
            self.low_place = places.get(Role.LOW_CUT_OUT)  # None where a job does without
            called = {*self.start_places, *self.stop_places} | (set() if self.low_place is None else {self.low_place})
            self.turned = any(self.relays[place].normally_closed for place in called)  # a contact that is closed at rest is wired

    def _lead(self) -> None:
        """Where drives hold numbers of their own, the one that leads goes by its own; how pumps are grouped stays as it is."""
        serving = self.panel.serving() if self.leader is None else ()
        lead = serving[0] if serving else 0 if self.leader is None else self.leader.leader
        if self.own[lead] is self.program:
            return
        pulled, program = {relay.role: on for relay, on in zip(self.relays, self.energised)}, self.own[lead]
        self._go_by(program)
        self.energised = [pulled.get(relay.role, False) for relay in self.relays]
        self.panel.timing, self.panel.suspect_cycles, self.panel.waits_after = program.timing, program.suspect_cycles, program.waits_after
        self.panel.unknown = frozenset(range(program.pumps, self.panel.pump_count))
        self.panel.rotation.alternation, self.panel.rotation.clock_period_s = program.alternation, program.clock_period_s
        self.alarms.by_hand, self.alarms.flashes, self.alarms.sounds = program.alarm_by_hand, program.alarm_flashes, program.alarm_sounds
        if self.leader is not None and program.team is not None:
            self.leader.numbers = program.team
        if self.drive is not None and program.drive is not None:
            self.drive.go_by(LevelDrive(*astuple(program.drive)))

    def scan(
        self, signal: float, now_s: float, feedback: tuple[bool, ...] | None = None, floats: tuple[bool, ...] = ()
    ) -> None:
        """Act once on the sensor's signal (A or V), the starters' feedback and the floats' contacts at this time."""
        elapsed_s, self.now_s = now_s - self.now_s, now_s
        if len(self.own) > 1:
            self._lead()
        heard = signal if self.leader is None else self.leader.hears(self.signals, self.signal_range.has_failed, now_s)
        if self.alone:
            self.energised = list(floats)
        elif self.leader is not None and self.leader.nobody:
            self.level_m = None
        elif heard is not None:  # None: nobody leads just now, and everything stands as it stood
            signal = heard
            self.level_m = self._believed_level_m(signal, elapsed_s)
            self.floats_closed = floats or self.floats_closed
            self._compare_with_floats()
            level_m = None if self.doubted else self.level_m
            self.energised = [relay.follows(was, level_m) for relay, was in zip(self.relays, self.energised)]
        if not self.panel.power:
            self.energised = [False] * len(self.relays) if not self.alone else self.energised
        if self.leader is not None:
            self._go_alone()
        self.panel.scan(self.contacts(), now_s, feedback)
        if self.drive is not None:
            known_m = None if self.sensor_failed or self.alone else self.level_m
            since_s = elapsed_s if self.drive.speed > 0.0 else 0.0  # its ramp counts from the scan at which it starts
            self.drive.scan(known_m, any(self.panel.running), since_s, self.outside, self.remote)

    def _go_alone(self) -> None:
        """While the drives do not hear each other each goes by its own reading and its own pair; a standby has none."""
        leader, calls, pairs = self.leader, self.panel.duty_count, self.pairs_m()
        if leader is None or leader.linked:
            self.panel.alone = None
            return
        levels = [None if self.signal_range.has_failed(one) else self.scaling.value(one) for one in self.signals]
        runs = leader.judge_alone(levels, pairs)
        self.panel.alone = (*runs[:calls], *(False for _ in range(calls, self.panel.pump_count)))

    def pairs_m(self) -> list[tuple[float, float]]:
        """Stop and start of each call, by which a drive goes that does not hear the others. [m]"""
        places = zip(self.stop_places, self.start_places)
        return [(self.relays[stop].opens_m, self.relays[start].shuts_m) for stop, start in places]

    def _believed_level_m(self, signal: float, elapsed_s: float) -> float | None:
        if self.program.blind:
            return None
        if not self.signal_range.has_failed(signal):
            self.failed_since_s = None
            read_m = self.scaling.value(signal)
            if self.level_m is None or math.isinf(self.believed_rate_ms):
                return read_m
            most_m = self.believed_rate_ms * elapsed_s
            return self.level_m + min(most_m, max(-most_m, read_m - self.level_m))
        if self.failed_since_s is None:
            self.failed_since_s = self.now_s
        return self.level_m if self.now_s - self.failed_since_s < self.fail_delay_s else None

    def _compare_with_floats(self) -> None:
        """A float that contradicts the reading for long enough puts the sensor out of service until a reset."""
        if self.level_m is None or not self._contradicted():
            self.doubted_since_s = None
            return
        if self.doubted_since_s is None:
            self.doubted_since_s = self.now_s
        if self.now_s - self.doubted_since_s >= DOUBT_DELAY_S:
            self.doubted = True

    def _contradicted(self) -> bool:
        # at an end of its scale the sensor says "here or beyond": a float out there is not against it
        level_m, seen_m = self.level_m, sorted((self.scaling.value_low, self.scaling.value_high))
        if level_m is None:
            return False
        sees_down, sees_up = level_m > seen_m[0] + DOUBT_M, level_m < seen_m[1] - DOUBT_M
        for relay, closed in zip(self.floats, self.floats_closed):
            wet = closed is relay.energises_on_rise
            low_m, high_m = min(relay.on_m, relay.off_m), max(relay.on_m, relay.off_m)
            if wet and sees_up and level_m < low_m - DOUBT_M:
                return True
            if not wet and sees_down and level_m > high_m + DOUBT_M:
                return True
        return False

    @property
    def sensor_failed(self) -> bool:
        """Whether the controller has given the level signal up."""
        return not self.alone and (self.level_m is None or self.doubted)

    @property
    def on_floats(self) -> bool:
        """Whether floats call and stop the pumps now."""
        return self.alone or (self.sensor_failed and bool(self.floats) and self.program.takes_over)

    @property
    def acting(self) -> dict[str, tuple[LevelRelay, bool]]:
        """The relays or floats that call and stop the pumps now, with their contacts, by role."""
        if self.on_floats and not self.alone:
            return {relay.role: (relay, closed) for relay, closed in zip(self.floats, self.floats_closed)}
        return {relay.role: (relay, closed) for relay, closed in zip(self.relays, self._closed())}

    def contacts(self) -> Contacts:
        """What the panel sees now."""
        if self.leader is not None and self.leader.nobody:
            none = (False,) * self.panel.duty_count
            return Contacts(none, False, none)
        high = self.high_float_up
        if not self.on_floats:
            on = self.energised if not self.cut and not self.turned else self._closed()
            return Contacts(
                tuple([on[place] for place in self.stop_places]),
                (self.low_place is None or on[self.low_place]) and not self.low_float_open and not self.run_open,
                tuple([on[place] or high for place in self.start_places]),
            )
        calls = range(self.panel.duty_count)
        closed = {role: is_closed for role, (_, is_closed) in self.acting.items()}
        starts = tuple(closed.get(STARTS[call], False) or high for call in calls)
        if any(starts) or self.called:
            self.called_at_s = self.now_s  # the run-on counts from the scan that sees the float let go
        self.called = any(starts)
        stays = closed[Role.STOP] if Role.STOP in closed else self.now_s - self.called_at_s < self.run_on_s or any(starts)
        return Contacts(tuple(stays for _ in calls), not self.low_float_open and not self.run_open, starts)

    def _closed(self) -> list[bool]:
        """Which wired contacts are closed: some are closed at rest, some have lost a wire."""
        return [relay.closes(on) and relay.role not in self.cut for relay, on in zip(self.relays, self.energised)]

    @property
    def high_float_up(self) -> bool:
        """Whether a high float is up; where floats are alone it is the high alarm itself."""
        floats = zip(self.relays, self.energised) if self.alone else zip(self.floats, self.floats_closed)
        return any(relay.role == Role.HIGH_ALARM and closed for relay, closed in floats)

    def run_on_left_s(self) -> float:
        """How much longer pumps run on after the start float let go, where no float stops them. [s]"""
        if not self.on_floats or Role.STOP in self.acting or not any(self.panel.latched):
            return math.inf
        return max(0.0, self.called_at_s + self.run_on_s - self.now_s)

    def is_closed(self, role: str) -> bool:
        """Whether the contact wired for this role is closed: for an alarm, whether it is on."""
        return any(relay.closes(on) for relay, on in zip(self.relays, self.energised) if relay.role == role and role not in self.cut)

    def stands_as(self, planned: LevelRelay) -> bool:
        """Whether the contact of a planned relay stands as it should while the level is not known."""
        if planned.on_failure is OnFailure.HOLD:
            return True
        return self.is_closed(planned.role) is planned.closes(planned.on_failure is OnFailure.ENERGISE)

    def relay(self, role: str) -> LevelRelay:
        """The relay of that role. KeyError where this station has none."""
        for relay in self.relays:
            if relay.role == role:
                return relay
        raise KeyError(role)

    def causes(self) -> dict[Cause, str]:
        """Everything that raises an alarm now, with its words."""
        found: list[Cause] = []
        if not self.panel.power:
            return {}  # a dead controller raises nothing; in health its relay contacts do
        if self.is_closed(Role.HIGH_ALARM) or self.high_float_up:
            found.append(Cause(Alarm.HIGH))
        low_float = any(relay.role == Role.LOW_ALARM and on for relay, on in zip(self.floats, self.floats_closed))
        if self.is_closed(Role.LOW_ALARM) or low_float:
            found.append(Cause(Alarm.LOW))
        if self.sensor_failed:
            found.append(Cause(Alarm.SENSOR))
        if not self.panel.phases_ok:
            found.append(Cause(Alarm.PHASE))
        if self.panel.waits:
            found.append(Cause(Alarm.WAITS))
        trips = self.panel.tripped
        found += [Cause(Alarm.PUMP, pump + 1) for pump, why in enumerate(trips) if why]
        found += [Cause(Alarm.SUSPECT, pump + 1) for pump in self.panel.suspects()]
        found += [Cause(Alarm.LONG_RUN, pump + 1) for pump in sorted(self.panel.over_run)]
        found += [Cause(Alarm.STARTS, pump + 1) for pump in sorted(self.panel.over_often)]
        if self.leader is not None:
            found += self._team_causes(self.leader)
        found += [Cause(Alarm.SEAL, pump + 1) for pump in sorted(self.seal_leaks)]
        return {cause: alarm_words(cause, trips[cause.pump - 1] if cause.pump else None, self.doubted, self.program.monitor.has_dials) for cause in found}

    def _team_causes(self, leader: Leader) -> list[Cause]:
        """What the drives tell of each other: who is silent, whether they hear each other, whose reading serves for another."""
        found = [Cause(Alarm.NODE, drive + 1) for drive in range(leader.drives) if drive not in leader.alive]
        found += [] if leader.linked else [Cause(Alarm.LINK)]
        if leader.numbers.inputs is Inputs.OWN:
            deaf = (drive for drive in sorted(leader.alive) if self.signal_range.has_failed(self.signals[drive]))
            found += [Cause(Alarm.INPUT, drive + 1) for drive in deaf]
        return found

    def reset(self) -> None:
        """Somebody presses reset: the sensor is trusted again, alarms without a cause clear."""
        self.doubted, self.doubted_since_s = False, None
        self.panel.waits = False
        self.panel.over_run.clear()
        self.panel.over_often.clear()
        self.panel.cycles = ()
        self.alarms.update(self.causes())
        self.alarms.reset()

    def timer_left_s(self) -> float:
        """Shortest running timer, or infinity: until then the clock alone changes nothing. [s]"""
        timers = [self.panel.next_change_s(), self.run_on_left_s()]
        if self.leader is not None:
            timers.append(self.leader.left_s())
        if self.failed_since_s is not None and self.level_m is not None:
            timers.append(self.failed_since_s + self.fail_delay_s - self.now_s)
        if self.doubted_since_s is not None and not self.doubted:
            timers.append(self.doubted_since_s + DOUBT_DELAY_S - self.now_s)
        return max(0.0, min(timers))
