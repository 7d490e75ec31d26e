"""How pumps of a booster set come back after the supply was away: after a delay, and where each has a switch of its own one after the other."""

from goodbalance.core.balance.plan import TIMERS
from goodbalance.core.balance.quantities import Quantity as Q
from goodbalance.core.balance.window import RULE, Bound, Source
from goodbalance.core.protection.names import MonitorBy, Restart
from goodbalance.core.stations.booster.names import SettingId as S
from goodbalance.core.stations.booster.windows.making import Windows
from goodbalance.core.stations.shared.making import bound, by_rule, term


class Restarts(Windows):
    """The power-on delay, where no monitor of the supply waits by itself; the gap between starts, where nothing else keeps them apart."""

    def make_all(self) -> None:
        """Only where pumps start again by themselves."""
        if self.choices.protection.power_return is Restart.BY_HAND:
            return
        guards = self.survey.protection
        if not (self.survey.control.phase_monitor and guards.monitor is MonitorBy.VOLTAGES):
            terms = (term("s", "time until a supply that came back has settled", guards.settles_s, Q.TIME),)
            words = ("the supply settles", "Pumps start into a supply that still swings, and drop out again.")
            lower = bound("t = s", terms, guards.settles_s, "survey", words, quantity=Q.TIME)
            proof = "Switch the supply off and on while water is drawn: take the time until the first pump starts."
            self.make(S.POWER_DELAY, ("Power-on delay", "restart delay after power failure"), (lower,), (self._short(1.0, "after a failure"),), 0.3, proof, TIMERS, Q.TIME)
        if self.survey.own_switches:
            self._gap()

    def _gap(self) -> None:
        """After a failure every switch is closed: without a gap all motors start at once."""
        starts_s = self.survey.protection.start_s
        terms = (term("s", "time of a start at the lowest voltage", starts_s, Q.TIME),)
        words = ("starting currents", "Two motors draw their starting current together: fuses go, the voltage sags, a generator stalls.")
        lower = bound("t = s", terms, starts_s, "survey", words, quantity=Q.TIME)
        last = float(self.survey.pumping.count - 1)
        proof = "Switch the supply off and on with the pressure low: take the time from the first start to the second."
        self.make(S.START_GAP, ("Gap between two starts", "start stagger"), (lower,), (self._short(last, "until the last pump runs"),), 0.3, proof, TIMERS, Q.TIME)

    def _short(self, times: float, when: str) -> Bound:
        """What users bear, shared by so many waits."""
        waits_s, words = self.rules.wait_s, (f"users short of pressure {when}", "They stand under a trickle although the supply is back.")
        if times <= 1.0:
            return by_rule("w", "users may be short of pressure for", waits_s, words, Q.TIME)
        terms = (term("w", "users may be short of pressure for", waits_s, Q.TIME), term("n", "waits one after the other", times, Q.COUNT))
        return bound("t = w / n", terms, waits_s / times, RULE, words, Source.RULE, quantity=Q.TIME)
