"""What every kind of station gives to the six views, and the kinds there are."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Any

from goodbalance.core.balance.facts import Facts
from goodbalance.core.balance.plan import Finding, Plan, Setting
from goodbalance.core.balance.proof import Proof
from goodbalance.core.balance.quantities import Quantity
from goodbalance.core.balance.trail import Otherwise
from goodbalance.core.rehearsal.engine import Bench, Run
from goodbalance.core.sheets.entry_sheet import EntrySheet, KeypadValue, Scale
from goodbalance.core.sheets.profile import Display, Profile


@dataclass(frozen=True, slots=True)
class Levels:
    """What only a station with a level has: drawdowns, trends of levels, a week of days, old floats."""

    measure: Callable[..., Any]  # (survey, pump, runs): a timed drawdown worked out
    trend_report: Callable[..., Any]  # (survey, times, levels, pumps, time of day): what a trend of levels tells
    trend_findings: Callable[..., list[Finding]]  # (survey, plan or None, report)
    hourly_m3s: Callable[..., tuple[float, ...]]  # (report): inflow of each hour of a day, or nothing
    drawdown_runs: Callable[..., list[Any]]  # (report, pump): cycles as timed drawdowns
    retrofit_map: Callable[..., Any]  # (survey, choices, plan, relays): old floats to relays, with a truth table, or None
    replaces_floats: Callable[[Any], bool]  # (survey): whether relays take the place of floats
    report: Callable[[Run[Any]], Any]  # a long run summed up


@dataclass(frozen=True, slots=True)
class StationKind:
    """The rooms of one kind of station. survey and choices below are instances of its two models."""

    id: str
    label: str
    main: Quantity  # what its sensor reads and its flags stand on
    start_name: str  # the start state of a bench run, as the record names it
    groups: tuple[tuple[str, str], ...]  # groups of settings in the order they are shown, each with its title
    survey_model: type[Facts]
    choices_model: type[Facts]
    family_of: Callable[[Mapping[str, str]], str]  # the controller family that suits a survey, by its answers
    companions_of: Callable[[Mapping[str, str]], tuple[str, ...]]  # families set beside it
    plausibility: Callable[[Mapping[str, Any]], list[Finding]]
    reckon: Callable[..., Plan]  # (survey, choices, explain_empty=True)
    chances: Callable[..., dict[str, float]]  # (survey, choices, plan): how likely each setting stays inside
    measured_of: Callable[..., tuple[Any, ...]]  # (survey, history): what was measured on site
    with_measured: Callable[..., Any]  # (survey, choices, measured): the survey reckoned with
    measured_findings: Callable[..., list[Finding]]  # (survey, choices, measured)
    as_found: Callable[[Any, str], float | None]  # (survey, setting id), in SI
    is_read: Callable[[Setting], bool]  # whether its sensor reads this setting
    readings: Callable[[Any, float], Any]  # (survey, value in SI): as instruments show it; has worded(units)
    otherwise: Callable[
        [Any, Plan, Setting], Otherwise | None
    ]  # (survey, plan, setting): as other controllers state it
    drawing: Callable[[Any, Any, Plan], dict[str, Any]]  # (survey, choices, plan): numbers in SI for the picture
    check_scaling: Callable[..., Any]  # (survey, body of a scaling check): worked out; None without a sensor
    bench: Callable[..., Bench]  # (survey, choices, plan, start=None)
    longest_run_s: float  # that the bench runs in one go
    keypad_scale: Callable[[Any, Profile, Display], Scale]
    keypad_values: Callable[..., dict[str, KeypadValue]]  # (survey, choices, plan, display)
    recheck: Callable[[Any, Any, EntrySheet], Plan]  # the plan with the settings as the keypad holds them
    proofs: Callable[[Any, Any, Plan], tuple[Proof, ...]]
    held: Callable[..., Any]  # (survey, choices, sheet, read-backs, scale): the plan as the devices hold it
    prove_on_bench: Callable[..., Any]  # (survey, choices, plan, held, only=None): proofs the bench can show, judged
    cautions: Callable[[Any, Any], tuple[str, ...]]  # (survey, choices): for the record and the door card
    by_clock: Callable[[Any, Any], tuple[str, ...]]  # (survey, choices): what the controller's clock changes, in words
    levels: Levels | None = None
    sheet_section: str = ""  # the section of the survey that is asked beside the entry sheet, too
