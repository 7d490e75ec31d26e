"""Energy of a booster set over a day: serial against synchronous, set pressures, setback; and where pumps change over."""

from dataclasses import dataclass

from goodbalance.core.balance.plan import Plan
from goodbalance.core.stations.booster.names import SettingId as S
from goodbalance.core.stations.booster.plant.hydraulics import BoosterHydraulics, hydraulics
from goodbalance.core.stations.booster.survey.choices import BoosterChoices, Setback, Sharing
from goodbalance.core.stations.booster.survey.survey import BoosterSurvey
from goodbalance.core.stations.booster.windows.held import held_pa

# a usual day of a building by the hour, as shares of the way from the smallest flow to the design flow; ours
PATTERN = (
    0.02, 0.01, 0.01, 0.01, 0.03, 0.15, 0.45, 0.80, 0.70, 0.50, 0.40, 0.42,
    0.55, 0.45, 0.35, 0.32, 0.38, 0.55, 0.75, 0.70, 0.50, 0.30, 0.15, 0.05,
)  # fmt: skip
HOUR_S = 3600.0
SEARCHED = 400  # flows looked at for change-overs


@dataclass(frozen=True, slots=True)
class Way:
    """Power and pumps at one flow in one way of sharing. speeds of the pumps that run."""

    power_w: float
    pumps: int
    speeds: tuple[float, ...]


@dataclass(frozen=True, slots=True)
class DayEnergy:
    """One way to run the day. short_h: hours in which the pressure could not be held."""

    name: str
    energy_j: float
    volume_m3: float
    short_h: int
    now: bool = False  # as the plan has it

    @property
    def per_volume(self) -> float:
        """[J/m3]"""
        return self.energy_j / self.volume_m3 if self.volume_m3 > 0.0 else 0.0


@dataclass(frozen=True, slots=True)
class ChangeOver:
    """The flow from which one more pump takes less power, and the speeds just below and above."""

    flow_m3s: float
    pumps: int  # above it
    speed_below: float
    speed_above: float


def hours_m3s(survey: BoosterSurvey) -> tuple[float, ...]:
    """Demand of each hour of the day: as surveyed, or a usual pattern between the smallest and the design flow."""
    demand = survey.demand
    known = [hour.flow_m3s for hour in demand.hours if hour.flow_m3s is not None]
    if demand.hourly and len(known) == len(PATTERN):
        return tuple(known)
    return tuple(
        demand.least_m3s * share / PATTERN[4] if share <= PATTERN[4] else share * demand.design_m3s for share in PATTERN
    )


def together(hyd: BoosterHydraulics, set_pa: float, suction_pa: float, flow_m3s: float, pumps: int) -> Way | None:
    """So many pumps at one speed; None where they cannot."""
    holding = hyd.holding(set_pa, suction_pa, flow_m3s, pumps)
    return Way(holding.power_w, pumps, (holding.speed,) * pumps) if holding.feasible else None


def in_a_row(hyd: BoosterHydraulics, set_pa: float, suction_pa: float, flow_m3s: float, pumps: int) -> Way | None:
    """All but one at full speed, the last one for the rest.

    None where the full ones already give more, where it is not enough, or where a full one runs beyond its curve or
    lacks suction: at full speed it gives most.
    """
    head_m = hyd.added_m(set_pa, suction_pa)
    full = hyd.flow_at(1.0, head_m)
    rest = flow_m3s - (pumps - 1) * full
    if rest < -1e-9 or (pumps > 1 and (full <= 0.0 or not _bears(hyd, full, 1.0, suction_pa))):
        return None
    speed = hyd.speed(head_m, max(0.0, rest), 1)
    if speed > 1.0 + 1e-9 or not _bears(hyd, max(0.0, rest), speed, suction_pa):
        return None
    power = (pumps - 1) * hyd.power_w(full, 1.0) + hyd.power_w(max(0.0, rest), speed)
    return Way(power, pumps, (*(1.0,) * (pumps - 1), speed))


def _bears(hyd: BoosterHydraulics, flow_m3s: float, speed: float, suction_pa: float) -> bool:
    """Whether one pump stands a flow at a speed: not beyond its curve, with the suction it requires."""
    needed_m = hyd.npsh_required_m(flow_m3s, speed)
    enough = needed_m is None or hyd.npsh_available_m(suction_pa) >= needed_m
    return enough and flow_m3s <= hyd.most_m3s * max(speed, 1e-9) * (1.0 + 1e-9)


def cheapest(hyd: BoosterHydraulics, set_pa: float, suction_pa: float, flow_m3s: float, sharing: Sharing) -> Way | None:
    """The number of duty pumps that takes least power at a flow."""
    way = together if sharing is Sharing.SYNCHRONOUS else in_a_row
    found = [way(hyd, set_pa, suction_pa, flow_m3s, n) for n in range(1, hyd.survey.pumping.duty_count + 1)]
    able = [each for each in found if each is not None]
    return min(able, key=lambda each: each.power_w) if able else None


def day_energy(survey: BoosterSurvey, choices: BoosterChoices, plan: Plan) -> tuple[DayEnergy, ...]:
    """The day at the mean suction, in every way the choices allow: sharing, setback, and the lowest set pressure allowed.

    Steady states hour by hour; starts, sleep and losses of the drives are left out.
    """
    values = {setting.id: setting.value for setting in plan.settings}
    schools, found = choices.schools, []
    sharings = tuple(Sharing) if survey.pumping.duty_count > 1 else (Sharing.SYNCHRONOUS,)
    setbacks = (Setback.NONE, schools.setback if schools.setback is not Setback.NONE else Setback.SQUARE)
    lowest_pa = plan.setting(S.SET_PRESSURE).window.low
    no_flow_pa = min(values[S.SET_PRESSURE], hydraulics(survey).wanted_pa(0.0))
    for sharing in sharings:
        for setback in setbacks:
            changed = choices.model_copy(update={"schools": schools.model_copy(update={"setback": setback})})
            have = {S.NO_FLOW_PRESSURE: no_flow_pa, **values}
            now = sharing is schools.sharing and setback is schools.setback
            words = "" if setback is Setback.NONE else ", with setback"
            way = _WORDS[sharing] if survey.pumping.duty_count > 1 else "one pump regulates"
            found.append(_day(survey, changed, have, sharing, f"{way}{words}", now))
    least = {**values, S.SET_PRESSURE: lowest_pa}
    flat = choices.model_copy(update={"schools": schools.model_copy(update={"setback": Setback.NONE})})
    found.append(_day(survey, flat, least, schools.sharing, "the lowest set pressure of its window", False))
    return tuple(found)


_WORDS = {Sharing.SYNCHRONOUS: "all at one speed", Sharing.SERIAL: "one regulates, the others full"}


def _day(
    survey: BoosterSurvey, choices: BoosterChoices, values: dict[str, float], sharing: Sharing, name: str, now: bool
) -> DayEnergy:
    hyd, energy_j, volume_m3, short = hydraulics(survey), 0.0, 0.0, 0
    for flow in hours_m3s(survey):
        suction_pa = (hyd.suction_pa(flow) + hyd.suction_pa(flow, True)) / 2.0
        way = cheapest(hyd, held_pa(survey, choices, values, flow), suction_pa, flow, sharing)
        if way is None:
            short += 1
            continue
        energy_j += way.power_w * HOUR_S
        volume_m3 += flow * HOUR_S
    return DayEnergy(name, energy_j, volume_m3, short, now)


def change_overs(
    survey: BoosterSurvey, choices: BoosterChoices, plan: Plan, sharing: Sharing
) -> tuple[ChangeOver, ...]:
    """Flows at which the cheapest number of pumps grows, by looking at many flows up to the design flow."""
    hyd, values = hydraulics(survey), {setting.id: setting.value for setting in plan.settings}
    found: list[ChangeOver] = []
    before: Way | None = None
    for step in range(1, SEARCHED + 1):
        flow = survey.demand.design_m3s * step / SEARCHED
        suction_pa = (hyd.suction_pa(flow) + hyd.suction_pa(flow, True)) / 2.0
        way = cheapest(hyd, held_pa(survey, choices, values, flow), suction_pa, flow, sharing)
        if way is not None and before is not None and way.pumps > before.pumps:
            found.append(ChangeOver(flow, way.pumps, before.speeds[-1], way.speeds[-1]))
        before = way or before
    return tuple(found)
