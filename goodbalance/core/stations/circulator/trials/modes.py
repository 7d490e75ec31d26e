"""Every mode the pump could go by, side by side on the same ring with the same valves: what each gives and costs."""

from dataclasses import dataclass

from goodbalance.core.balance.plan import Plan, Setting
from goodbalance.core.errors import GoodBalanceError
from goodbalance.core.stations.circulator.names import BY_HAND, Mode
from goodbalance.core.stations.circulator.names import SettingId as S
from goodbalance.core.stations.circulator.plant.equations import equations
from goodbalance.core.stations.circulator.plant.laws import is_able
from goodbalance.core.stations.circulator.plant.network import KV_PA
from goodbalance.core.stations.circulator.plant.steady import Steady, steady
from goodbalance.core.stations.circulator.plant.year import costs
from goodbalance.core.stations.circulator.survey.choices import CirculatorChoices
from goodbalance.core.stations.circulator.survey.hours import in_mode
from goodbalance.core.stations.circulator.survey.survey import CirculatorSurvey
from goodbalance.core.stations.circulator.windows.consequences import plan_values, wait_s
from goodbalance.core.stations.circulator.windows.making import velocities
from goodbalance.core.stations.circulator.windows.reckon import make_settings

SET = (S.SPEED, S.SET_PRESSURE, S.SET_FLOW, S.SET_RETURN)


@dataclass(frozen=True, slots=True)
class Tried:
    """One mode: whether the pump knows it, its set value in its window where it has one, and what comes of it.

    coldest_c: of the ring; wait_s: at the slowest tap while it runs, None where nobody draws; year: heat its pipes lose and what the pump takes [J];
    noise_pa: the most over a valve; hours_s: it runs in a week.
    """

    mode: Mode
    able: bool
    setting: Setting | None
    runs: Steady
    coldest_c: float
    wait_s: float | None
    heat_j: float
    pump_j: float
    noise_pa: float
    velocity_share: float
    hours_s: float
    keeps: bool
    quiet: bool


def compare(survey: CirculatorSurvey, choices: CirculatorChoices, plan: Plan) -> tuple[Tried, ...]:
    """Each mode with its own recommended set value; valves as they are planned. In the order of what a year costs, those that keep the rule first."""
    kept = {setting.id: setting.value for setting in plan.settings if setting.group == BY_HAND}
    found = []
    for mode in Mode:
        own = choices.schools.mode is mode
        chosen = dict(choices.chosen) if own else {**{key: value for key, value in choices.chosen.items() if key not in SET}, **kept}
        tried = _tried(survey, choices.model_copy(update={"chosen": chosen, "schools": choices.schools.model_copy(update={"mode": mode})}), mode)
        if tried is not None:
            found.append(tried)
    return tuple(sorted(found, key=lambda each: (not each.able, not each.keeps, not each.quiet, each.heat_j + each.pump_j)))


def _tried(survey: CirculatorSurvey, choices: CirculatorChoices, mode: Mode) -> Tried | None:
    eq = equations(survey)
    try:
        made = make_settings(survey, choices)
    except GoodBalanceError:
        return None
    bare = Plan(made, ())
    values = plan_values(bare)
    runs = steady(eq, mode, values)
    now, warm = runs.running, runs.warmth
    hours = in_mode(survey, choices, bare.value(S.LEAD, 0.0), mode)
    year = costs(eq, now.branches_m3s, warm, eq.flow_c, now.power_w, hours)
    wait = None if survey.heats else max(wait_s(eq, number, warm.taps_c[number] < survey.use.hot_c) for number in range(len(eq.pipes)))
    noise = max((KV_PA * (flow / kv) ** 2 for flow, kv in zip(now.branches_m3s, runs.network.kvs) if kv > 0.0), default=0.0)
    rules = velocities(choices)
    share = max((now.flow_m3s if branch is None else now.branches_m3s[branch]) / piece.area_m2 / eq.fastest_ms(piece.material, eq.flow_c, rules) for piece, branch in eq.always_pieces)
    asked = 0.0 if survey.heats else survey.use.hot_c if survey.crosses else choices.rules.least_return_c
    setting = next((one for one in made if one.id in SET), None)
    keeps = runs.coldest_c >= asked - 0.05 and (setting is None or not setting.window.is_empty)
    return Tried(
        mode, is_able(survey.pump, mode), setting, runs, runs.coldest_c, wait, year.heat_j, year.pump_j, noise, share, sum(end - begin for begin, end in hours), keeps,
        noise <= survey.pump.loudest_pa * 1.001 and share <= 1.001,
    )  # fmt: skip
