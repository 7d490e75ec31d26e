"""Windows of the pressures by which a line says that its tanks are full, and that one wants water again."""

from goodbalance.core.balance.quantities import Quantity as Q
from goodbalance.core.balance.window import RULE, Bound, Source
from goodbalance.core.stations.shared.making import bound, term
from goodbalance.core.stations.transfer.names import SettingId as S
from goodbalance.core.stations.transfer.plant.closing import shock_pa, worst_closing
from goodbalance.core.stations.transfer.survey.choices import RestartBy
from goodbalance.core.stations.transfer.windows.making import PRESSURES, Windows


class Pressures(Windows):
    """Stop, restart, and the least pressure of a running pump."""

    def make_all(self) -> None:
        if not self.survey.control.by_pressure:
            return
        self.place(
            S.STOP_PRESSURE, ("Stop pressure", "cut-out, off-pressure"), (self._over_running(),), (self._under_shut_off(), self._in_sight(), *self._under_ratings()), 0.4,
            "Close the valve at the pump slowly: it stops at this pressure.", PRESSURES, Q.PRESSURE,
        )  # fmt: skip
        if self.schools.restart_by is RestartBy.PRESSURE_AND_TIME:
            self.place(
                S.RESTART_PRESSURE, ("Restart pressure", "cut-in, on-pressure"), (self._over_column(),), (self._under_stop(),), 0.15,
                "Open the valve again slowly: the delay begins to count at this pressure.", PRESSURES, Q.PRESSURE,
            )  # fmt: skip
        self.place(
            S.LEAST_PRESSURE, ("Run-out stop", "burst, low pressure"), (self._over_nothing(),), (self._under_running(),), 0.5,
            "A pump runs into an open pipe: it stops under this pressure.", PRESSURES, Q.PRESSURE,
        )  # fmt: skip

    def _over_running(self) -> Bound:
        pressure_pa, way = self.hyd.highest_running
        tanks = " and ".join(self.survey.tank_name(tank + 1) for tank in way)
        pumps = f"{len(self.hyd.duty)} pumps fill" if len(self.hyd.duty) > 1 else "the pump fills"
        terms = term("r", f"highest running pressure: {pumps} {tanks}, source at its highest", pressure_pa), *self.apart()
        harm = "It stops while the tank still takes water: tanks stay half empty, and it starts and stops for nothing."
        return bound("p = r + w + e + m", terms, pressure_pa + self.apart_pa, "survey", ("running pressure", harm))

    def _under_shut_off(self) -> Bound:
        worn, hyd = self.rules.worn_share, self.hyd
        sources = hyd.sources_m(False)
        weakest = min(hyd.pumps, key=lambda pump: sources[pump.source] + pump.a * (1.0 - worn))
        reached_pa = hyd.column_pa(sources[weakest.source] + weakest.a * (1.0 - worn))
        terms = (
            term("z", "lowest water of its source over the sensor", sources[weakest.source] - hyd.sensor_m, Q.HEAD), term("H", "shut-off head of the pump that reaches least", weakest.a, Q.HEAD),
            term("k", "of it lost while it wears", worn, Q.PERCENT), term("g", "weight of the liquid over that of its head, Pa/m", hyd.weight, Q.RATIO), *self.apart(),
        )  # fmt: skip
        harm = "The pump does not reach it: it never stops, and boils its water against the closed valve."
        return bound("p = g · (z + H · (1 - k)) - w - e - m", terms, reached_pa - self.apart_pa, "pump curve", ("shut-off pressure at the lowest source", harm))

    def _in_sight(self) -> Bound:
        range_pa = self.survey.sensor.range_pa
        terms = (term("r", "range of the sensor", range_pa), *self.wobbles())
        words = ("range of the sensor", "The reading never gets so high: the pump never stops.")
        return bound("p = r - w - e", terms, range_pa - self.wobble_pa - self.error_pa, "sensor", words)

    def _under_ratings(self) -> tuple[Bound, ...]:
        """Under each rating by what pressure goes past the stop and the shock of the valve; none where even shut-off and shock stay under it."""
        hyd, found = self.hyd, []
        shock, most_pa = max(shock_pa(hyd, tank) for tank in range(len(hyd.branches))), hyd.shut_off_pa(True)
        for name, rating_pa, down_pa in hyd.rated_parts:
            limit_pa = rating_pa * self.rules.rating_share - down_pa
            if most_pa + shock <= limit_pa:
                continue
            at_pa = min(limit_pa - shock, most_pa)
            past = worst_closing(hyd, at_pa).past_pa if at_pa > 0.0 else 0.0
            terms = (
                term("n", f"rating: {name}", rating_pa), term("s", "share of it that may be used", self.rules.rating_share, Q.PERCENT), term("c", "column from the sensor down to it", down_pa),
                term("d", "what goes past the stop while the set reacts", past), term("J", "shock of the closing valve", shock), term("e", "error of the reading", self.error_pa),
            )  # fmt: skip
            words = (f"rating: {name}", "Pressure goes on past the stop, and with the shock of the valve a pipe or fitting gives way.")
            found.append(bound("p = n · s - c - d - J - e", terms, limit_pa - past - shock - self.error_pa, "maker; share by rule", words, Source.MAKER))
        return tuple(found)

    def _over_column(self) -> Bound:
        hyd = self.hyd
        highest = hyd.highest_column
        tank = hyd.branches[highest].tank
        what = "its full level over the bottom entry" if hyd.branches[highest].lift_m(tank.closes_m) > tank.inlet_m else "its inlet"
        terms = term("c", f"standing column up to {self.survey.tank_name(highest + 1)}: {what}", hyd.columns_pa[highest]), *self.wobbles()
        harm = "The column of the line alone holds this pressure: with its valve open the highest tank never calls, and stays empty."
        return bound("p = c + w + e", terms, hyd.columns_pa[highest] + self.wobble_pa + self.error_pa, "survey", ("standing column", harm))

    @property
    def rests_s(self) -> float:
        """How long the line usually stands closed: until a valve opens again at the mean draw. [s]"""
        tanks = [branch.tank for branch in self.hyd.branches if branch.tank.mean_m3s > 0.0]
        return min((tank.area_m2 * tank.opens_drop_m / tank.mean_m3s for tank in tanks), default=0.0)

    def _under_stop(self) -> Bound:
        stop_pa = self.so_far[S.STOP_PRESSURE]
        sag_pa = stop_pa - self.hyd.sags_to_pa(stop_pa, self.rests_s)
        terms = (
            term("s", "stop pressure", stop_pa), term("d", "what the closed line sags while it rests, by its leak", sag_pa), term("t", "it rests so long at the mean draw", self.rests_s, Q.DURATION), *self.wobbles(),
        )  # fmt: skip
        harm = "The pump starts although nobody draws: against closed valves, over and over; only the delay protects it."
        return bound("p = s - d - w - e", terms, stop_pa - sag_pa - self.wobble_pa - self.error_pa, "survey", ("stop pressure less the sag of the closed line", harm), refers_to=S.STOP_PRESSURE)

    def _over_nothing(self) -> Bound:
        terms = (term("f", "what the sensor reads into an open pipe at the pump", 0.0), *self.apart())
        harm = "It never acts: a pump runs its water out of a broken pipe until the source is empty."
        return bound("p = f + w + e + m", terms, self.apart_pa, RULE, ("free discharge", harm), Source.RULE)

    def _under_running(self) -> Bound:
        pressure_pa, way = self.hyd.lowest_running
        tanks = " and ".join(self.survey.tank_name(tank + 1) for tank in way)
        terms = term("r", f"lowest running pressure: one pump fills {tanks}, source at its lowest", pressure_pa), *self.apart()
        harm = "It stops a pump that fills as it should: the tank stays empty until somebody resets."
        return bound("p = r - w - e - m", terms, pressure_pa - self.apart_pa, "survey", ("lowest running pressure", harm))
