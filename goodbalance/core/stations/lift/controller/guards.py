"""The contacts of a lift station that hold pumps back whatever the level: low water, phases, the run command, a pump turning backwards."""

from goodbalance.core.control.contacts import Guards, Takes
from goodbalance.core.stations.lift.names import GuardContact
from goodbalance.core.stations.lift.survey.survey import LiftSurvey


def guards_of(survey: LiftSurvey) -> Guards:
    """As the survey has them; a plan wants every one heeded as it is built."""
    control = survey.control
    asked = (
        (GuardContact.LOW_FLOAT, survey.demands.low_float, survey.demands.low_float_permits), (GuardContact.PHASE, control.phase_monitor, control.phase_permits),
        (GuardContact.RUN, control.run_contact, control.run_permits), (GuardContact.BACKWARDS, control.backwards_contact, control.backwards_permits),
        (GuardContact.LOCAL, control.local_remote, control.remote_is),
    )  # fmt: skip
    built: dict[str, Takes] = {guard: Takes(permits.value) for guard, fitted, permits in asked if fitted}
    return Guards(built, dict(built))
