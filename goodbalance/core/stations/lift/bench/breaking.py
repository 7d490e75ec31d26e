"""How what is broken, and what comes from outside, reaches the controller of a lift station on the bench: contacts, trips, inputs."""

from dataclasses import dataclass

from goodbalance.core.control.trips import Trip
from goodbalance.core.physics.signals import SignalRange
from goodbalance.core.stations.lift.controller.logic import LiftLogic
from goodbalance.core.stations.lift.controller.team import Leader
from goodbalance.core.stations.lift.names import GuardContact, PumpFault, StationFault
from goodbalance.core.stations.lift.plant.faults import LiftFaults
from goodbalance.core.stations.lift.survey.choices import SealLeak
from goodbalance.core.stations.lift.survey.team import Inputs


@dataclass(frozen=True, slots=True)
class Outside:
    """What others give: the signal for the speed as a share of its span, the run command, and how the switch for local and remote stands."""

    speed: float
    runs: bool
    remote: bool


def broken_to_logic(logic: LiftLogic, faults: LiftFaults, outside: Outside, supplied: bool) -> None:
    """Let guards, broken parts and the outside act on the controller at this scan. supplied: whether the monitor of the supply lets pumps run."""
    guards, cut, panel = logic.program.guards, faults.wires, logic.panel
    if guards.taken:
        logic.low_float_open = guards.holds(GuardContact.LOW_FLOAT, StationFault.LOW_FLOAT in faults.parts, GuardContact.LOW_FLOAT in cut)
        panel.phases_ok = not guards.holds(GuardContact.PHASE, not supplied, GuardContact.PHASE in cut)
        logic.remote = not guards.holds(GuardContact.LOCAL, not outside.remote, GuardContact.LOCAL in cut)
        logic.run_open = logic.remote and guards.holds(GuardContact.RUN, not outside.runs, GuardContact.RUN in cut)
    logic.outside = None if StationFault.OUTSIDE_LOST in faults.parts else outside.speed
    if guards.heeded(GuardContact.BACKWARDS):  # a wire cut holds every pump at rest back
        turning = faults.of(PumpFault.BACKWARDS)
        panel.held = frozenset(
            pump for pump in range(panel.pump_count)
            if not panel.running[pump] and guards.holds(GuardContact.BACKWARDS, pump in turning, GuardContact.BACKWARDS in cut)
        )  # fmt: skip
    program = logic.program
    if not faults.pumps and not program.seal_cries:
        return
    wet = faults.of(PumpFault.SEAL) if program.seal_sees else frozenset()
    logic.seal_leaks = frozenset() if program.seal is None else frozenset(range(panel.pump_count)) if program.seal_cries else wet
    for pump in range(panel.pump_count):
        if program.seal is SealLeak.STOP and pump in logic.seal_leaks and not panel.tripped[pump]:
            panel.tripped[pump] = Trip.SEAL_LEAK


def team_sees(logic: LiftLogic, leader: Leader, faults: LiftFaults, signal: float, kind: SignalRange) -> None:
    """What each drive of a team has at its own input, who is silent, and whether they hear each other."""
    deaf = faults.of(PumpFault.INPUT)
    looped = leader.numbers.inputs is Inputs.LOOPED and bool(deaf)  # one plug pulled opens the loop for all
    logic.signals = tuple([kind.opened if looped or drive in deaf else signal for drive in range(leader.drives)])
    leader.alive = frozenset(range(leader.drives)) - faults.of(PumpFault.NODE)
    leader.linked = StationFault.LINK not in faults.parts
    logic.panel.dead = faults.of(PumpFault.NODE)
