"""What the rules ask of a lift station as numbers, and the bounds that no other level moves."""

from functools import cached_property

from goodbalance.core.balance.quantities import Quantity as Q
from goodbalance.core.balance.trail import Term, Trail
from goodbalance.core.balance.window import Bound, Source
from goodbalance.core.control.rotation import Alternation
from goodbalance.core.physics.wells import vortex_submergence_m
from goodbalance.core.stations.lift.plant.hydraulics import Hydraulics, hydraulics
from goodbalance.core.stations.lift.survey.choices import DetentionCounts, LiftChoices, StartsCredit
from goodbalance.core.stations.lift.survey.survey import LiftSurvey

MEAN_AREA = "mean area of the well on that way"

class StandingBounds:
    """Bounds that come from the survey and the rules alone: intake, sensor reach, submergence, inlet, response."""

    def __init__(self, survey: LiftSurvey, choices: LiftChoices) -> None:
        self.survey, self.choices = survey, choices
        self.hydraulics: Hydraulics = hydraulics(survey)
        self.separation_m = max(choices.rules.separation_m, self.hydraulics.reading_margin_m)
        self.separation_from = "least step: the largest of the rule, 3 x wobble and 5 counts of the sensor"

    @cached_property
    def starts_per_hour(self) -> float:
        """Permitted starts of one pump: the lower of the site's and the makers'."""
        makers = min(pump.starts_per_hour for pump in self.survey.pumps)
        return min(self.survey.demands.starts_per_hour, makers)

    @cached_property
    def shares_starts(self) -> int:
        """Over how many pumps the starts are credited as spread."""
        credited = self.choices.schools.starts_credit is StartsCredit.ALTERNATION
        return self.taking_turns if credited else 1

    @cached_property
    def taking_turns(self) -> int:
        """How many pumps share the starts of an hour at the duty start level.

        Only a turn that passes at each stop, or at all stopped, spreads them: by the clock or by hours one pump may take
        all starts of an hour.
        """
        passes = self.choices.schools.alternation in (Alternation.ALL_STOPPED, Alternation.EACH_STOP)
        return (self.survey.pumping.first_group or self.hydraulics.duty_count) if passes else 1

    @cached_property
    def cycle_s(self) -> float:
        """Least time between two starts on the duty start level. T = 3600 / N / n"""
        return 3600.0 / self.starts_per_hour / self.shares_starts

    @cached_property
    def duty_m3s(self) -> float:
        """Rate of the strongest pump that may work the duty band, at the level where it is fastest: with a small pump
        first also a large one, while the small one is out."""
        hyd = self.hydraulics
        return max(hyd.strongest_m3s(1, hyd.fast_level_m, out) for out in hyd.outages)

    @cached_property
    def duty_volume_m3(self) -> float:
        """Active volume that keeps the permitted starts: V = Q T / 4."""
        return self.duty_m3s * self.cycle_s / 4.0

    @cached_property
    def counted_main_m3(self) -> float:
        """What the detention school adds for the rising main."""
        counts_main = self.choices.schools.detention is DetentionCounts.WELL_AND_MAIN
        return self.hydraulics.main.volume_m3 if counts_main else 0.0

    @cached_property
    def top_of_starts_m(self) -> float:
        """Where water would back up the wrong way: inlet invert less freeboard, or the overflow when the sewer may store."""
        inlet = self.survey.inlet
        return inlet.overflow_m if inlet.sewer_storage else inlet.invert_m - self.choices.rules.freeboard_m

    @cached_property
    def above_intake(self) -> Bound:
        """Below the pump intake there is nothing to pump: h = z, from the survey."""
        intake_m = self.survey.well.intake_m
        trail = Trail(
            "h = z",
            (Term("z", "pump intake above floor", intake_m, Q.LEVEL),),
            Term("h", "bound", intake_m, Q.LEVEL),
            "survey",
        )
        return Bound(intake_m, "pump intake", "The pump draws air and burns its seal and motor.", Source.PHYSICS, trail)

    @cached_property
    def reach_low(self) -> tuple[Bound, ...]:
        """The sensor's lowest reading; floats have none."""
        return () if self.survey.sensor is None else (self.above_sensor_low,)

    @cached_property
    def reach_high(self) -> tuple[Bound, ...]:
        """The sensor's highest reading; floats have none."""
        return () if self.survey.sensor is None else (self.below_sensor_high,)

    @cached_property
    def above_sensor_low(self) -> Bound:
        """The lowest level the sensor can tell apart from its own bottom: h = z + 3 x wobble or 5 counts."""
        low_m, margin_m = self.hydraulics.sensor_low_m, self.hydraulics.reading_margin_m
        terms = (
            Term("z", "lowest level the sensor can read", low_m, Q.LEVEL),
            Term("m", "reading margin: 3 x wobble or 5 counts", margin_m, Q.LEVEL),
        )
        trail = Trail("h = z + m", terms, Term("h", "bound", low_m + margin_m, Q.LEVEL), "sensor survey")
        return Bound(
            low_m + margin_m,
            "lowest level the sensor can read",
            "The reading never gets so low: nothing happens.",
            Source.PHYSICS,
            trail,
        )

    @cached_property
    def below_sensor_high(self) -> Bound:
        """The highest level the sensor can tell apart from its own top: h = z - 3 x wobble or 5 counts."""
        high_m, margin_m = self.hydraulics.sensor_high_m, self.hydraulics.reading_margin_m
        terms = (
            Term("z", "highest level the sensor can read", high_m, Q.LEVEL),
            Term("m", "reading margin: 3 x wobble or 5 counts", margin_m, Q.LEVEL),
        )
        trail = Trail("h = z - m", terms, Term("h", "bound", high_m - margin_m, Q.LEVEL), "sensor survey")
        return Bound(
            high_m - margin_m,
            "highest level the sensor can read",
            "The reading never gets so high: nothing happens.",
            Source.PHYSICS,
            trail,
        )

    @cached_property
    def maker_submergence(self) -> Bound:
        """What the strictest maker of the pumps asks over the intake to cool motor and seal: h = z + S."""
        intake_m = self.survey.well.intake_m
        submergence_m = max(pump.min_submergence_m for pump in self.survey.pumps)
        terms = (
            Term("z", "pump intake above floor", intake_m, Q.LEVEL),
            Term("S", "least submergence the pump's maker asks", submergence_m, Q.LEVEL),
        )
        trail = Trail("h = z + S", terms, Term("h", "bound", intake_m + submergence_m, Q.LEVEL), "pump maker's manual")
        return Bound(
            intake_m + submergence_m,
            "maker's least submergence",
            "The motor loses its cooling; the pump may draw air.",
            Source.MAKER,
            trail,
        )

    @cached_property
    def vortex(self) -> Bound:
        """Over the intake of the worst pump at its fastest, against a vortex: h = z + D (1 + 2.3 Fr), ANSI/HI 9.8."""
        survey, hyd = self.survey, self.hydraulics
        intake_m = survey.well.intake_m
        worst = max(
            range(hyd.pump_count),
            key=lambda i: vortex_submergence_m(
                survey.pumps[i].bell_diameter_m, hyd.point((i,), hyd.fast_level_m).flow_m3s
            ),
        )
        bell_m, flow_m3s = survey.pumps[worst].bell_diameter_m, hyd.point((worst,), hyd.fast_level_m).flow_m3s
        submergence_m = vortex_submergence_m(bell_m, flow_m3s)
        froude = (submergence_m / bell_m - 1.0) / 2.3
        terms = (
            Term("z", "pump intake above floor", intake_m, Q.LEVEL),
            Term("D", "intake diameter", bell_m, Q.SMALL_LENGTH),
            Term("Fr", f"Froude number v/sqrt(g D) of pump {worst + 1} at its fastest", froude, Q.RATIO),
        )
        trail = Trail(
            "h = z + D · (1 + 2.3 · Fr)", terms, Term("h", "bound", intake_m + submergence_m, Q.LEVEL), "ANSI/HI 9.8"
        )
        return Bound(
            intake_m + submergence_m,
            "submergence against a vortex",
            "A vortex draws air: the pump rattles and wears.",
            Source.CODE,
            trail,
        )

    @cached_property
    def dry_pit(self) -> tuple[Bound, ...]:
        """The level that gives a pump in a dry pit its NPSH, at its fastest; nothing where pumps stand in the water."""
        hyd, found = self.hydraulics, []
        for index, pump in enumerate(self.survey.pumps):
            flow = hyd.point((index,), hyd.fast_level_m).flow_m3s
            needed_m = hyd.npsh_required_m(index, flow)
            if pump.dry_pit_m is None or needed_m is None:
                continue
            lost_m, margin_m = pump.suction_loss_m, self.choices.rules.npsh_margin_m
            value = pump.dry_pit_m + needed_m + margin_m + lost_m - hyd.suction_room_m
            terms = (
                Term("z", "impeller above the well floor", pump.dry_pit_m, Q.LEVEL),
                Term("N", f"NPSH pump {index + 1} requires at its fastest", needed_m, Q.HEAD),
                Term("m", "margin by rule", margin_m, Q.HEAD),
                Term("f", "lost in its suction pipe", lost_m, Q.HEAD),
                Term("a", "air pressure less vapour pressure, as a column", hyd.suction_room_m, Q.HEAD),
            )
            trail = Trail("h = z + N + m + f - a", terms, Term("h", "bound", value, Q.LEVEL), "NPSH available over required")
            harm = "The pump cavitates: its impeller is eaten away, it loses its water."
            found.append(Bound(value, f"NPSH of pump {index + 1} in the dry pit", harm, Source.MAKER, trail))
        return tuple(found)

    @cached_property
    def below_inlet(self) -> Bound:
        """Starts stand under the inlet invert less freeboard, or under the overflow where the sewer may store."""
        inlet, freeboard_m = self.survey.inlet, self.choices.rules.freeboard_m
        if inlet.sewer_storage:
            trail = Trail(
                "h = o",
                (Term("o", "overflow level", inlet.overflow_m, Q.LEVEL),),
                Term("h", "bound", inlet.overflow_m, Q.LEVEL),
                "survey; the sewer may store",
            )
            return Bound(
                inlet.overflow_m,
                "overflow level",
                "Sewage leaves the wrong way before the pump starts.",
                Source.PHYSICS,
                trail,
            )
        terms = (
            Term("z", "inlet invert above floor", inlet.invert_m, Q.LEVEL),
            Term("f", "freeboard", freeboard_m, Q.LEVEL),
        )
        trail = Trail(
            "h = z - f",
            terms,
            Term("h", "bound", self.top_of_starts_m, Q.LEVEL),
            "rule: the sewer is not used for storage",
        )
        return Bound(
            self.top_of_starts_m,
            "inlet invert less freeboard",
            "Water backs up the sewer: solids settle, cellars flood.",
            Source.RULE,
            trail,
        )

    @cached_property
    def response(self) -> Bound:
        """Highest alarm level from which the peak inflow leaves time to come: h = V^-1(V(overflow) - i t)."""
        well, inlet = self.hydraulics.well, self.survey.inlet
        peak_m3s, response_s = self.survey.inflow.peak_m3s, self.survey.demands.response_s
        value = well.level_after_m(inlet.overflow_m, -peak_m3s * response_s)
        terms = (
            Term("o", "overflow level", inlet.overflow_m, Q.LEVEL),
            Term("i", "peak inflow", peak_m3s, Q.FLOW),
            Term("t", "crew's response time", response_s, Q.DURATION),
            Term("A", MEAN_AREA, well.mean_area_m2(inlet.overflow_m, -peak_m3s * response_s), Q.AREA),
        )
        trail = Trail(
            "h = o - i · t / A", terms, Term("h", "bound", value, Q.LEVEL), "survey: no pump runs, peak inflow goes on"
        )
        return Bound(value, "crew's response time", "The well overflows before anyone arrives.", Source.RULE, trail)
