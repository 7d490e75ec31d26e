"""At which load a pump of a booster set counts as full of air, or as running against closed outlets: shares of its power without flow at that speed."""

from goodbalance.core.balance.quantities import Quantity as Q
from goodbalance.core.balance.window import Bound, Source
from goodbalance.core.protection.duty import AIR_SHARE
from goodbalance.core.protection.underload import POWER_SPREAD
from goodbalance.core.stations.booster.names import SettingId as S
from goodbalance.core.stations.booster.plant.hydraulics import hydraulics
from goodbalance.core.stations.booster.survey.choices import PrimeBy
from goodbalance.core.stations.booster.survey.survey import BoosterSurvey
from goodbalance.core.stations.booster.windows.making import LOADS, Windows
from goodbalance.core.stations.booster.windows.switched import flow_switch_m3s
from goodbalance.core.stations.shared.making import bound, term

FLOWS = 24  # looked at between no flow and the end of the curve
STIRS = 0.002  # by which a reading of power that is looked at calmly still moves
PRIME_STEP, CLOSED_STEP = 0.01, 0.001


def drawn_share(survey: BoosterSurvey) -> float:
    """Power of a pump at the smallest flow worth running for, over its power without flow; of each pump of a switched set, which run together.

    With a flow switch they run for no less than that sees, whatever drips. Source: the pump's power curve.
    """
    hyd, least_m3s = hydraulics(survey), survey.demand.least_m3s
    if survey.control.sees_flow:
        least_m3s = max(least_m3s, flow_switch_m3s(survey))
    together = 1 if survey.holds_constant else survey.pumping.duty_count
    return hyd.motor_w(least_m3s / together, 1.0) / hyd.motor_w(0.0, 1.0)


class Loads(Windows):
    """Thresholds of lost prime and of closed outlets, each between the load it must see and the load it must let be."""

    def make_all(self) -> None:
        """Both; where power tells nothing apart a window is empty, and that protection may be declined."""
        if self.schools.prime_by is PrimeBy.POWER:
            self._no_prime()
        elif self.schools.prime_by is PrimeBy.PRESSURE:
            self._pressure_away()
        self._closed()

    def _share(self, formula: str, terms: tuple[tuple[str, str, float], ...], value: float, says: str, words: tuple[str, str], source: Source = Source.PHYSICS) -> Bound:
        return bound(formula, tuple(term(symbol, meaning, number, Q.PERCENT) for symbol, meaning, number in terms), value, says, words, source, quantity=Q.PERCENT)

    def _no_prime(self) -> None:
        most_m3s, idle_w = self.hyd.most_m3s, self.hyd.motor_w(0.0, 1.0)
        lightest = min(self.hyd.motor_w(most_m3s * step / FLOWS, 1.0) for step in range(FLOWS + 1)) / idle_w
        doubt = ("d", "doubt of a power by the pump's curve", POWER_SPREAD)
        words = ("a pump full of air", "Air is not told from water: the pump turns dry until its seal is gone.")
        lower = self._share("k = a · (1 + d)", (("a", "what a pump takes in air, of its power without flow", AIR_SHARE), doubt), AIR_SHARE * (1.0 + POWER_SPREAD), "pump's curve; a dry pump stirs no water", words)
        words = ("the lightest honest work", "A pump that works honestly is given up for nothing.")
        upper = self._share("k = l · (1 - d)", (("l", "lightest load over its curve, of its power without flow", lightest), doubt), lightest * (1.0 - POWER_SPREAD), "pump's curve", words)
        proof = "Let a pump draw air: it is given up after its delay. One tap open: it runs on."
        self.make(S.NO_PRIME_LOAD, ("No-prime load", "minimum load, prime"), (lower,), (upper,), 0.5, proof, LOADS, Q.PERCENT, PRIME_STEP)

    def _pressure_away(self) -> None:
        """Pressure under which pumps that run flat out move no water: over what a column holds up by itself, under the run-out."""
        over = self.above_the_column()
        under = self.step_below(S.BURST_STOP, "run-out pressure", "A burst, or a large draw, counts as lost prime: pumps are given up one after the other.")
        proof = "Close the suction while water is drawn: pumps are given up when the pressure has stayed under it for the delay."
        self.make(S.NO_PRIME_PRESSURE, ("No-prime pressure", "minimum pressure, prime"), (over,), (under,), 0.5, proof)

    def _closed(self) -> None:
        drawn = drawn_share(self.survey)
        stirs = ("m", "by which the reading still moves", STIRS)
        words = ("outlets closed", "It never comes: a stuck flow switch, or a cut-out out of reach, lets the pump boil its water.")
        lower = self._share("k = c + m", (("c", "power without flow", 1.0), stirs), 1.0 + STIRS, "by its own measure", words)
        words = ("smallest flow worth running for", "With one tap open it stops, and raises an alarm.")
        upper = self._share("k = f - m", (("f", "power at that flow, of the power without flow", drawn), stirs), drawn - STIRS, "pump's curve", words)
        proof = "One tap open: it runs on. Then close it, with what puts it to rest out of reach: it must stop after its delay."
        self.make(S.CLOSED_LOAD, ("Closed-outlet load", "dead-head load"), (lower,), (upper,), 0.5, proof, LOADS, Q.PERCENT, CLOSED_STEP)
