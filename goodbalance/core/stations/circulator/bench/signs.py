"""What a person in front of a circulator can see, hear and feel: pipes, taps, display, lamps."""

from collections.abc import Iterator

from goodbalance.core.balance.quantities import Quantity as Q
from goodbalance.core.control.alarms import Cause
from goodbalance.core.rehearsal.troubles import Sign
from goodbalance.core.stations.circulator.bench.rehearse import RingBench
from goodbalance.core.stations.circulator.names import Alarm, State

PIPES, DISPLAY, PUMP, LAMPS = "Pipes, by a clip-on thermometer", "The display", "The circulator", "Lamps and alarms"
NEAR_K, NEAR_M3S, NEAR_SHARE, NEAR_W = 1.5, 8e-6, 0.08, 1.0  # two people with a thermometer; at a flow shown; at a power shown
CLOCK_S = 300.0


def signs(bench: RingBench) -> tuple[Sign, ...]:
    """In the order in which they are asked; always the same ones of one ring."""
    return (*_pipes(bench), *_display(bench), *_lamps(bench))


def _pipes(bench: RingBench) -> Iterator[Sign]:
    plant = bench.plant
    yield Sign("out", PIPES, "Going out, behind the heat", plant.out_c if plant.flows.running.flow_m3s > 0.0 else plant.there.begin_c, Q.TEMPERATURE, NEAR_K)
    for number, (out, back) in enumerate(zip(plant.outs, plant.returns), 1):
        name = bench.survey.branch_name(number)
        yield Sign(f"far.{number}", PIPES, f"At the far end of {name}", out.end_c(), Q.TEMPERATURE, NEAR_K)
        yield Sign(f"end.{number}", PIPES, f"Return of {name}", back.end_c(), Q.TEMPERATURE, NEAR_K)
    yield Sign("back", PIPES, "Coming back, at the pump", plant.back_c, Q.TEMPERATURE, NEAR_K)


def _display(bench: RingBench) -> Iterator[Sign]:
    logic, running = bench.logic, bench.plant.flows.running
    lit = logic.power
    yield Sign("supply", DISPLAY, "The circulator has supply", float(lit))
    for state, label in ((State.RUNS, "It says that it runs"), (State.RESTS, "It says that it rests")):
        yield Sign(f"state.{state}", DISPLAY, label, float(lit and logic.state is state))
    yield Sign("flow", DISPLAY, "Flow it shows", running.flow_m3s if lit else None, Q.LEAK, NEAR_M3S, NEAR_SHARE)
    yield Sign("power", DISPLAY, "Power it shows", running.power_w if lit else None, Q.POWER, NEAR_W, NEAR_SHARE)
    yield Sign("clock", DISPLAY, "Its clock is off by hours", float(lit and abs(logic.clock_off_s) > CLOCK_S))
    air = bench.plant.air and bool(bench.running)
    yield Sign("gurgles", PUMP, "It gurgles", float(air))
    yield Sign("hums", PUMP, "It hums and does not turn, or turns and moves nothing", float(lit and logic.runs and running.flow_m3s <= 0.0 and not air))


def _lamps(bench: RingBench) -> Iterator[Sign]:
    up = bench.alarms.lamps if bench.logic.power else {}
    words = {Alarm.NO_FLOW: "Moves no water", Alarm.SENSOR: "Return sensor", Alarm.CLOCK: "Clock not set", Alarm.NOT_AUTO: "Not in AUTO"}
    for alarm, label in words.items():
        yield Sign(f"alarm.{alarm}", LAMPS, label, float(Cause(alarm) in up))
