"""Random rings, and the same worked out in another way: friction by Colebrook iterated, branches balanced by bisection, heat marched cell by cell."""

import math
import random
from typing import Any

from goodbalance.core.balance.plan import Plan, Severity
from goodbalance.core.errors import GoodBalanceError
from goodbalance.core.stations.circulator.plant.equations import equations
from goodbalance.core.stations.circulator.survey.choices import CirculatorChoices
from goodbalance.core.stations.circulator.survey.survey import CirculatorSurvey
from goodbalance.core.stations.circulator.windows.reckon import reckon
from tools.march.worst import Worst

RingCase = tuple[CirculatorSurvey, CirculatorChoices, Plan]
RHO, HEAT, NU, G = 985.0, 4180.0, 0.5e-6, 9.80665
ROUGH = {"copper": 1.5e-6, "stainless": 5e-6, "plastic": 7e-6, "steel": 1e-4}
CELLS = 1500


def ring(rng: random.Random) -> tuple[CirculatorSurvey, CirculatorChoices]:
    """One of them: one to six branches, most of them balanced, some thermostatic, by any mode the pump knows."""
    count, kind = rng.choice([1, 2, 3, 4, 6]), rng.choice(["return", "return", "return", "heating", "crossover"])
    set_c = rng.uniform(45.0, 65.0) if kind == "heating" else rng.uniform(57.0, 65.0)
    branches: dict[str, Any] = {}
    for number in range(1, count + 1):
        length = rng.uniform(5.0, 12.0 if kind == "crossover" else 60.0)
        branches[f"branch_{number}"] = {
            "there_m": length, "there_bore_m": rng.choice([0.013, 0.016, 0.02]), "back_m": length * rng.uniform(0.8, 1.1), "back_bore_m": rng.choice([0.01, 0.013]), "material": rng.choice(list(ROUGH)),
            "insulation_m": rng.choice([0.013, 0.02, 0.03]), "back_insulation_m": rng.choice([0.009, 0.013, 0.02]), "around_c": rng.uniform(8.0, 24.0), "loss_wmk": rng.choice([None, None, 0.25]),
            "valve": rng.choice(["balancing"] * 5 + (["thermostatic"] if kind == "return" else [])), "closes_c": 58.0, "tap_m": rng.uniform(0.3, 3.0), "tap_m3s": rng.uniform(8e-5, 2e-4),
            "load_w": rng.uniform(800.0, 4000.0), "drop_k": rng.uniform(8.0, 18.0),
        }  # fmt: skip
    top, rate = rng.uniform(2.0, 8.0), rng.uniform(3e-4, 1.5e-3)
    begins = rng.uniform(5.0, 8.0)
    survey = CirculatorSurvey.model_validate({
        "visit": {"controls_off": True}, "ring": {"kind": kind, "branches": count}, **branches,
        "heat": {"kind": rng.choice(["stored", "stored", "instantaneous"]), "set_c": set_c, "watts": 60e3, "least_m3s": 1e-6, "kv_m3s": rng.uniform(1e-3, 3e-3), "mixing": rng.random() < 0.3, "mixed_c": set_c - 3.0, "cold_c": rng.uniform(6.0, 14.0)},
        "common": {"there_m": rng.uniform(1.0, 10.0), "bore_m": 0.025, "back_m": rng.uniform(1.0, 10.0), "back_bore_m": 0.02},
        "valves": {"turns": rng.choice([2.5, 4.0, 8.0]), "kv_m3s": rng.uniform(2.5e-4, 8e-4)},
        "pump": {"speeds": rng.choice([1, 3, 4]), "by_flow": True, "by_return": True, "vented": True, "curve": [{"flow_m3s": rate * s, "head_m": top * (1.0 - 0.8 * s * s), "power_w": 8.0 + 30.0 * s} for s in (0.0, 0.4, 0.8, 1.0)]},
        "use": {"periods": rng.choice([1, 2]), "from_1_h": begins, "to_1_h": rng.choice([22.0, 1.0]), "from_2_h": 12.0, "to_2_h": 14.0, "hot_c": 42.0},
        "control": {"outside": rng.choice(["none", "none", "none", "button", "building"]), "clock_backup": rng.random() < 0.7},
    })  # fmt: skip
    mode = rng.choice(["constant_pressure", "constant_pressure", "proportional_pressure", "fixed_speed", "constant_flow", "constant_return" if kind != "crossover" else "constant_flow"])
    schools = {"mode": mode, "hours": rng.choice(["wanted", "wanted", "always"]), "wins": rng.choice(["both", "either", "outside"])}
    return survey, CirculatorChoices.model_validate({"schools": schools, "rules": {"longest_rest_s": 86400.0, "least_return_c": rng.uniform(44.0, 52.0), "source": "a rule"}})


def rings(rng: random.Random, count: int) -> list[RingCase]:
    """So many whose plan is sound, and nothing of which stops the work."""
    found: list[RingCase] = []
    while len(found) < count:
        survey, choices = ring(rng)
        try:
            plan = reckon(survey, choices, False)
        except GoodBalanceError:
            continue
        if plan.is_sound and not any(finding.severity is Severity.STOP for finding in plan.findings):
            found.append((survey, choices, plan))
    return found


def friction(velocity: float, bore: float, rough: float) -> float:
    """Darcy's factor: 64/Re, or Colebrook iterated forty times."""
    reynolds = velocity * bore / NU
    if reynolds < 2300.0:
        return 64.0 / reynolds
    root = 8.0
    for _ in range(40):
        root = -2.0 * math.log10(rough / bore / 3.7 + 2.51 * root / reynolds)
    return 1.0 / root**2


def lost_pa(flow: float, length: float, bore: float, rough: float, fittings: float) -> float:
    """Of one pipe with its fittings. [m3/s, m]"""
    if flow <= 0.0:
        return 0.0
    velocity = flow / (math.pi / 4.0 * bore**2)
    return (friction(velocity, bore, rough) * length / bore + fittings) * RHO * velocity**2 / 2.0


def branch_pa(survey: CirculatorSurvey, number: int, flow: float, kv: float) -> float:
    """Of a branch with its valve, 0 for the first."""
    branch = survey.branches[number]
    rough = ROUGH[branch.material.value]
    pipes = lost_pa(flow, branch.there_m, branch.there_bore_m, rough, 0.5 * branch.fittings_k) + lost_pa(flow, branch.back_m, branch.back_bore_m, rough, 0.5 * branch.fittings_k)
    return pipes + 1e5 * (flow / kv) ** 2


def flows_at(survey: CirculatorSurvey, kvs: list[float], pump_pa: float) -> list[float]:
    """Every branch's flow where the pump adds so much, by two bisections one inside the other."""
    common, rough = survey.common, ROUGH[survey.common.material.value]

    def each(header: float) -> list[float]:
        found = []
        for number, kv in enumerate(kvs):
            low, high = 0.0, 0.05
            for _ in range(60):
                middle = 0.5 * (low + high)
                low, high = (middle, high) if branch_pa(survey, number, middle, kv) < header else (low, middle)
            found.append(low)
        return found

    def shared(total: float) -> float:
        heat = (2.0 if survey.heat.mixing else 1.0) * 1e5 * (total / survey.heat.kv_m3s) ** 2
        return lost_pa(total, common.there_m, common.bore_m, rough, 0.5 * common.fittings_k) + lost_pa(total, common.back_m, common.back_bore_m, rough, 0.5 * common.fittings_k) + heat

    low, high = 0.0, pump_pa
    for _ in range(60):
        middle = 0.5 * (low + high)
        low, high = (middle, high) if shared(sum(each(middle))) + middle < pump_pa else (low, middle)
    return each(low)


def marched_c(in_c: float, around_c: float, lost_wmk: float, length: float, flow: float) -> float:
    """Where water leaves a pipe, marched cell by cell by the middle of each."""
    at_c, cell = in_c, length / CELLS
    for _ in range(CELLS):
        half = at_c - 0.5 * cell * lost_wmk * (at_c - around_c) / (RHO * HEAT * flow)
        at_c -= cell * lost_wmk * (half - around_c) / (RHO * HEAT * flow)
    return at_c


def march(count: int) -> Worst:
    """Reckon and march so many random rings with plain valves: coldest points, velocities, noise, leads, and how far both reckonings are apart."""
    worst = Worst()
    for seed in range(count):
        survey, choices = ring(random.Random(seed))
        try:
            plan = reckon(survey, choices, False)
        except GoodBalanceError:
            worst.refused += 1
            continue
        sound = plan.is_sound and not any(finding.severity is Severity.STOP for finding in plan.findings)
        worst.sound, worst.not_sound = worst.sound + sound, worst.not_sound + (not sound)
        if sound and not survey.crosses and not any(branch.valve.value == "thermostatic" for branch in survey.branches):
            _look(survey, choices, plan, worst, seed)
    return worst


def _look(survey: CirculatorSurvey, choices: CirculatorChoices, plan: Plan, worst: Worst, seed: int) -> None:
    figures = {figure.id: figure.value for figure in plan.figures}
    kvs = [plan.value(f"valve_{number}", 0.0) / survey.valves.turns * survey.valves.kv_m3s for number in range(1, len(survey.branches) + 1)]
    flows = flows_at(survey, kvs, figures["adds"])
    common, eq = survey.common, equations(survey)
    divides = marched_c(survey.heat.flow_c, common.around_c, eq.there.lost_wmk, common.there_m, sum(flows))
    coldest = divides
    for number, (flow, branch, pipe) in enumerate(zip(flows, survey.branches, eq.pipes)):
        tap_c = marched_c(divides, branch.around_c, pipe.there.lost_wmk, branch.there_m, flow)
        end_c = marched_c(eq.emits_c(number, tap_c, flow), branch.around_c, pipe.back.lost_wmk, branch.back_m, flow)
        coldest = min(coldest, end_c)
        worst.note("flow of a branch, both reckonings apart, over 2 %", abs(flow / figures[f"flow_{number + 1}"] - 1.0) / 0.02, seed)
        worst.note("return of a branch, both reckonings apart, over 0.2 K", abs(end_c - figures[f"end_{number + 1}"]) / 0.2, seed)
        worst.note("pressure over a valve, over what is quiet", 1e5 * (flow / kvs[number]) ** 2 / survey.pump.loudest_pa / 1.02, seed)
        if survey.heats:
            worst.note("heat asked, over what the circuit gives", branch.load_w / (RHO * HEAT * flow * (tap_c - eq.emits_c(number, tap_c, flow))) / 1.1, seed)
    if not survey.heats:
        around = min(branch.around_c for branch in survey.branches)
        worst.note("coldest point asked over its air, over that of the coldest branch", (choices.rules.least_return_c - around) / (coldest - around), seed)
    if "lead" in plan:
        fills = max((math.pi / 4.0 * branch.there_bore_m**2 * branch.there_m) / flow for branch, flow in zip(survey.branches, flows))
        worst.note("time until plain water is through, over the lead", (fills + math.pi / 4.0 * common.bore_m**2 * common.there_m / sum(flows)) / plan.value("lead", 1.0), seed)
