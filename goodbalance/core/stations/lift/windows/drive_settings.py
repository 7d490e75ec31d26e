"""Settings of speed drives on lift pumps: least speed, the level of full speed, and the loop that holds a level."""

import math

from scipy.optimize import brentq

from goodbalance.core.balance.plan import Figure, Setting, placed
from goodbalance.core.balance.quantities import Quantity as Q
from goodbalance.core.balance.trail import Term, Trail, given
from goodbalance.core.balance.window import RULE, Bound, Source, Window
from goodbalance.core.physics.surge import pipe_period_s
from goodbalance.core.stations.lift.names import Role
from goodbalance.core.stations.lift.names import SettingId as S
from goodbalance.core.stations.lift.survey.choices import SpeedMode
from goodbalance.core.stations.lift.windows.bands import Bands, Levels
from goodbalance.core.stations.lift.windows.drive_paces import DrivePaces

STATIC_MARGIN = 1.05  # above the speed at which shut-off head just equals the static lift
ROOM = 0.95  # a least speed above this leaves the drive no work
SCAN_S = 1.0
CRAWL = 0.05


class DriveSettings:
    """Windows of the drives' settings for one ladder with its levels in force."""

    def __init__(self, ladder: Bands, levels: Levels) -> None:
        self.ladder, self.levels = ladder, levels
        self.hyd, self.survey, self.choices = ladder.hydraulics, ladder.survey, ladder.choices
        self.stop_m = levels.get(Role.STOP, ladder.maker_submergence.value)
        names = {Role.START_2: "assist start level", Role.HIGH_ALARM: "high alarm"}
        above = [(levels[role], name) for role, name in names.items() if role in levels]
        self.next_m, self.next_name = above[0] if above else (self.survey.inlet.overflow_m, "overflow")

    def settings(self) -> tuple[Setting, ...]:
        """What the drives need in the chosen mode; nothing where there are none."""
        if not self.survey.drives.fitted:
            return ()
        mode, least, ramp = self.choices.schools.speed_mode, self._least_speed(), self.ramp()
        if mode is SpeedMode.BY_LEVEL:
            return (least, ramp, self._full_speed_level())
        if mode is SpeedMode.HOLD_LEVEL:
            hold = self._hold_level()
            gain = self._hold_gain(hold.value, least.value, ramp.value)
            return (least, ramp, hold, gain, self._hold_reset(hold.value, gain.value, least.value))
        if mode is SpeedMode.ECONOMICAL:
            return (least, ramp, self._paces(least.value).economical(), self._full_speed_level())
        return (least, ramp, *self._paces(least.value).outside()) if mode is SpeedMode.OUTSIDE else (least, ramp)

    def _paces(self, least: float) -> DrivePaces:
        return DrivePaces(self.ladder, self.levels, least, self._leaves_room())

    def figures(self, settings: tuple[Setting, ...]) -> tuple[Figure, ...]:
        """What an economical speed saves, beside full speed; settings: of the drives."""
        speeds = {setting.id: setting.value for setting in settings}
        if S.ECONOMICAL_SPEED not in speeds:
            return ()
        return self._paces(speeds[S.LEAST_SPEED]).energy_figures(speeds[S.ECONOMICAL_SPEED])

    def ramp(self) -> Setting:
        """From standstill to full speed and back: slow enough for drive and main, quick enough against the rising well."""
        drives, main, rules = self.survey.drives, self.survey.main, self.choices.rules
        trail = given("t", "shortest ramp the drive takes without tripping", drives.ramp_s, Q.TIME, "drive; its maker")
        harm = "The drive trips: over-current on the way up, over-voltage on the way down."
        lower = [Bound(drives.ramp_s, "shortest ramp of the drive", harm, Source.MAKER, trail)]
        value = rules.periods * pipe_period_s(main.length_m, main.wave_ms)
        terms: tuple[Term, ...] = (
            Term("k", "pipe periods a ramp must last", rules.periods, Q.RATIO),
            Term("L", "length of main", main.length_m, Q.LENGTH),
            Term("a", "speed of a pressure wave in it", main.wave_ms, Q.VELOCITY),
        )
        harm = "Each stop is a shock to the main, and its check valves slam."
        trail = Trail("t = k · 2 · L / a", terms, Term("t", "bound", value, Q.TIME), RULE)
        lower.append(Bound(value, "pipe periods of the main", harm, Source.RULE, trail))
        well, start_m = self.hyd.well, self.levels[Role.START_1]
        volume_m3 = max(0.0, well.volume_m3(self.next_m) - well.volume_m3(start_m))
        peak_m3s = self.survey.inflow.peak_m3s
        terms = (
            Term("V", f"volume from duty start to {self.next_name}", volume_m3, Q.VOLUME),
            Term("i", "peak inflow", peak_m3s, Q.FLOW),
        )
        high = volume_m3 / peak_m3s
        trail = Trail("t = V / i", terms, Term("t", "bound", high, Q.TIME), "survey")
        harm = f"The pump is still speeding up when the {self.next_name} comes."
        upper = Bound(high, f"peak inflow fills from duty start to {self.next_name}", harm, Source.PHYSICS, trail)
        proof = "In HAND go from rest to full speed and back and take the time: nothing trips, no check valve slams."
        labels, window = ("Ramp", "acceleration time"), Window(tuple(lower), (upper,))
        return placed(S.RAMP, labels, Q.TIME, window, 0.02, 0.1, self._chosen(S.RAMP), proof, "drives")

    def _chosen(self, setting_id: str) -> float | None:
        return self.choices.chosen.get(setting_id)

    def _least_speed(self) -> Setting:
        window = Window((self._over_static(), self._clears_solids(), self._cools_motor()), (self._leaves_room(),))
        proof = "Run a pump in HAND at this speed with the well at the stop level: the level must fall."
        labels = ("Least speed", "minimum frequency")
        return placed(S.LEAST_SPEED, labels, Q.PERCENT, window, 0.1, 0.01, self._chosen(S.LEAST_SPEED), proof, "drives")

    def _over_static(self) -> Bound:
        lift_m = max(0.0, self.survey.main.outlet_m - self.stop_m)
        head_m = min(curve.shut_off_head_m for curve in self.hyd.curves)
        value = STATIC_MARGIN * math.sqrt(lift_m / head_m) if head_m > 0.0 else math.inf
        terms = (
            Term("z", "static lift at the stop level, where it is most", lift_m, Q.HEAD),
            Term("H", "shut-off head of the weakest pump at full speed", head_m, Q.HEAD),
            Term("m", "margin above just balancing", STATIC_MARGIN, Q.RATIO),
        )
        trail = Trail(
            "n = m · sqrt(z / H)", terms, Term("n", "bound", value, Q.PERCENT), "affinity: head goes with n squared"
        )
        harm = "The pump turns and moves nothing: motor and seal burn."
        return Bound(value, "shut-off head beats the static lift", harm, Source.PHYSICS, trail)

    def _clears_solids(self) -> Bound:
        wanted_ms = self.choices.rules.velocity_low_ms
        area_m2 = self.hyd.main.area_m2
        pumps = range(self.hyd.pump_count)

        def velocity_ms(speed: float) -> float:
            return min(self.hyd.point((pump,), self.stop_m, round(speed, 5)).flow_m3s for pump in pumps) / area_m2

        full_ms = velocity_ms(1.0)
        value = 1.0
        if full_ms > wanted_ms:
            crawls = velocity_ms(CRAWL) >= wanted_ms  # a main that falls needs no pump for that
            value = CRAWL if crawls else float(brentq(lambda n: velocity_ms(n) - wanted_ms, CRAWL, 1.0, xtol=1e-4))
        terms = (
            Term("v", "lowest velocity that carries solids", wanted_ms, Q.VELOCITY),
            Term("u", "velocity by the weakest pump at full speed", full_ms, Q.VELOCITY),
        )
        trail = Trail(
            "n = n",
            (Term("n", "speed at which one pump gives v, by search", value, Q.PERCENT), *terms),
            Term("n", "bound", value, Q.PERCENT),
            "operating point at speed, by affinity",
        )
        cause = (
            "velocity that clears the main" if full_ms > wanted_ms else "the main is too wide to be cleared by one pump"
        )
        return Bound(value, cause, "Solids settle in the main and block it.", Source.RULE, trail)

    def _cools_motor(self) -> Bound:
        drives = self.survey.drives
        value = drives.least_hz / drives.rated_hz
        terms = (
            Term("f", "least frequency the motor's maker allows", drives.least_hz, Q.FREQUENCY),
            Term("F", "frequency at full speed", drives.rated_hz, Q.FREQUENCY),
        )
        trail = Trail("n = f / F", terms, Term("n", "bound", value, Q.PERCENT), "motor maker's manual")
        return Bound(value, "maker's least frequency", "The motor is not cooled.", Source.MAKER, trail)

    def _leaves_room(self) -> Bound:
        trail = given("n", "a twentieth below full speed", ROOM, Q.PERCENT, "rule of thumb")
        return Bound(
            ROOM, "room for the drive to work in", "The drive always runs full: it saves nothing.", Source.RULE, trail
        )

    def _between(self, low_m: float, low_name: str, harm_low: str, harm_high: str) -> Window:
        step_m = self.ladder.separation_m
        below = Trail(
            "h = a + d", (Term("a", low_name, low_m, Q.LEVEL), Term("d", "least step", step_m, Q.LEVEL)),
            Term("h", "bound", low_m + step_m, Q.LEVEL), RULE,
        )  # fmt: skip
        above = Trail(
            "h = a - d", (Term("a", self.next_name, self.next_m, Q.LEVEL), Term("d", "least step", step_m, Q.LEVEL)),
            Term("h", "bound", self.next_m - step_m, Q.LEVEL), RULE,
        )  # fmt: skip
        return Window(
            (Bound(low_m + step_m, f"one step above the {low_name}", harm_low, Source.RULE, below),),
            (Bound(self.next_m - step_m, f"one step below the {self.next_name}", harm_high, Source.RULE, above),),
        )

    def _full_speed_level(self) -> Setting:
        from_start = self.choices.schools.speed_mode is SpeedMode.ECONOMICAL  # a start finds the water already there
        low_m, low_name = (self.levels[Role.START_1], "duty start level") if from_start else (self.stop_m, "stop level")
        window = self._between(
            low_m, low_name, "The pump always starts at full speed: the drive saves nothing.",
            f"The {self.next_name} comes before the duty pump gives all it has.",
        )  # fmt: skip
        proof = "Let the level rise: the drive must show full speed from here up."
        labels = ("Full-speed level", "100 % level")
        return placed(
            S.FULL_SPEED_LEVEL,
            labels,
            Q.LEVEL,
            window,
            0.7,
            self.choices.step_m,
            self._chosen(S.FULL_SPEED_LEVEL),
            proof,
            "drives",
        )

    def _hold_level(self) -> Setting:
        window = self._between(
            self.stop_m, "stop level", "Waves reach the stop level: the pump starts and stops all day.",
            f"Waves reach the {self.next_name}.",
        )  # fmt: skip
        proof = "Watch the level for ten minutes of steady inflow: it must stand here."
        return placed(
            S.HOLD_LEVEL,
            ("Level to hold", "level setpoint"),
            Q.LEVEL,
            window,
            0.4,
            self.choices.step_m,
            self._chosen(S.HOLD_LEVEL),
            proof,
            "drives",
        )

    def flow_per_speed_m3s(self, level_m: float, least: float) -> float:
        """How much flow one pump gains from its least speed to full, per share of speed. [m3/s]"""
        full_m3s = self.hyd.point((0,), level_m).flow_m3s
        low = min(least, ROOM)
        return max(1e-9, (full_m3s - self.hyd.point((0,), level_m, low).flow_m3s) / (1.0 - low))

    def _plant_terms(self, hold_m: float, least: float) -> tuple[Term, Term]:
        return (
            Term("A", "area of the well", self.hyd.well.area_m2(hold_m), Q.AREA),
            Term("k", "flow one pump gains per share of speed", self.flow_per_speed_m3s(hold_m, least), Q.FLOW),
        )

    def _hold_gain(self, hold_m: float, least: float, ramp_s: float) -> Setting:
        area, flow = self._plant_terms(hold_m, least)
        one_m3s = self.hyd.strongest_m3s(1, hold_m)
        step_m3s = max(0.0, min(self.survey.inflow.peak_m3s, one_m3s) - self.survey.inflow.mean_m3s)
        band_m = max(1e-3, self.next_m - hold_m)
        low = step_m3s / flow.value / band_m
        terms = (
            Term("d", "rise of inflow from mean to what one pump can take", step_m3s, Q.FLOW), flow,
            Term("b", f"from the held level to the {self.next_name}", band_m, Q.LEVEL),
        )  # fmt: skip
        trail = Trail(
            "K = d / k / b",
            terms,
            Term("K", "bound", low, Q.SPEED_PER_LEVEL),
            "the proportional part alone stays below it",
        )
        lower = Bound(
            low,
            "a rise of inflow stays below the next level",
            f"The level wanders to the {self.next_name}.",
            Source.PHYSICS,
            trail,
        )
        dead_s = SCAN_S + ramp_s / 2.0
        high = area.value / (flow.value * 2.0 * dead_s)
        terms = (area, flow, Term("t", "dead time: a scan and half the ramp", dead_s, Q.TIME))
        trail = Trail(
            "K = A / (k · 2 · t)",
            terms,
            Term("K", "bound", high, Q.SPEED_PER_LEVEL),
            "SIMC for an integrating process, Skogestad 2003, with the fastest closed loop it allows",
        )
        upper = Bound(high, "fastest loop the dead time allows", "The speed hunts up and down.", Source.RULE, trail)
        proof = "Change the inflow by half: the level must come back without swinging more than twice."
        labels = ("Gain of the level loop", "proportional gain")
        return placed(
            S.HOLD_GAIN,
            labels,
            Q.SPEED_PER_LEVEL,
            Window((lower,), (upper,)),
            0.15,
            0.01,
            self._chosen(S.HOLD_GAIN),
            proof,
            "drives",
        )

    def _hold_reset(self, hold_m: float, gain: float, least: float) -> Setting:
        area, flow = self._plant_terms(hold_m, least)
        low = 4.0 * area.value / (flow.value * gain) if gain > 0.0 else math.inf
        terms = (area, flow, Term("K", "gain of the level loop", gain, Q.SPEED_PER_LEVEL))
        trail = Trail(
            "T = 4 · A / (k · K)",
            terms,
            Term("T", "bound", low, Q.TIME),
            "SIMC for an integrating process, Skogestad 2003: no slow swing",
        )
        lower = Bound(low, "slow enough not to swing", "The level swings slowly, on and on.", Source.RULE, trail)
        limit_s = max(self.choices.rules.detention_s, 2.0 * low)
        cause = "longest time the level may stand off, by the rule for detention or twice the least"
        trail = given("T", cause, limit_s, Q.TIME, RULE)
        upper = Bound(
            limit_s, "time the level may stand off", "The level stays off for most of the day.", Source.RULE, trail
        )
        proof = "After a change of inflow the level must be back at its place within about three times this."
        labels = ("Reset time of the level loop", "integral time")
        return placed(
            S.HOLD_RESET,
            labels,
            Q.TIME,
            Window((lower,), (upper,)),
            0.1,
            1.0,
            self._chosen(S.HOLD_RESET),
            proof,
            "drives",
        )
