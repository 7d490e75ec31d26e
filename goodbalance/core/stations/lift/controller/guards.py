"""Contacts of their own that hold pumps back whatever the level: low water, phases, the run command, a pump turning backwards."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from enum import StrEnum
from types import MappingProxyType

from goodbalance.core.stations.lift.names import GuardContact
from goodbalance.core.stations.lift.survey.survey import LiftSurvey


class Takes(StrEnum):
    """Which state of a contact lets pumps run: as it is built, or as a device takes it. NONE: there is no such contact, or it is not heeded."""

    NONE = "no"
    CLOSED = "closed"
    OPEN = "open"


@dataclass(frozen=True, slots=True)
class Guards:
    """Every guard of a station: how its contact is built (fitted), and what the device makes of it (taken)."""

    fitted: Mapping[GuardContact, Takes] = field(default_factory=lambda: MappingProxyType({}))
    taken: Mapping[GuardContact, Takes] = field(default_factory=lambda: MappingProxyType({}))

    def heeded(self, guard: GuardContact) -> bool:
        """Whether anything listens to it."""
        return self.taken.get(guard, Takes.NONE) is not Takes.NONE

    def holds(self, guard: GuardContact, acts: bool, cut: bool = False) -> bool:
        """Whether it holds pumps back: acts, where what it guards against is there; cut, where one of its wires is off.

        Where nothing is fitted a jumper sits across its terminals, as the wiring walk wants it.
        """
        built, taken = self.fitted.get(guard, Takes.NONE), self.taken.get(guard, Takes.NONE)
        if taken is Takes.NONE:
            return False
        closed = True if built is Takes.NONE else False if cut else acts is (built is Takes.OPEN)
        return closed is (taken is Takes.OPEN)


def guards_of(survey: LiftSurvey) -> Guards:
    """As the survey has them; a plan wants every one heeded as it is built."""
    control = survey.control
    asked = (
        (GuardContact.LOW_FLOAT, survey.demands.low_float, survey.demands.low_float_permits), (GuardContact.PHASE, control.phase_monitor, control.phase_permits),
        (GuardContact.RUN, control.run_contact, control.run_permits), (GuardContact.BACKWARDS, control.backwards_contact, control.backwards_permits),
        (GuardContact.LOCAL, control.local_remote, control.remote_is),
    )  # fmt: skip
    built = {guard: Takes(permits.value) for guard, fitted, permits in asked if fitted}
    return Guards(built, dict(built))
