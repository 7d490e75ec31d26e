"""Facts: what a survey asks. One declaration gives the form its label, the check its limits, the error its words."""

import threading
import types
from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace
from enum import StrEnum
from functools import cache, wraps
from typing import Any, Self, TypeVar, Union, get_args, get_origin

from cachetools import LRUCache
from pydantic import BaseModel, ConfigDict, Field
from pydantic.fields import FieldInfo

from goodbalance.core.balance.quantities import Quantity

Conditions = tuple[tuple[str, tuple[str, ...]], ...]  # (path of another fact, ".name" for one beside it; values that make this one asked)


class Facts(BaseModel):
    """A group of facts that crosses the boundary: frozen, SI, nothing unknown accepted."""

    model_config = ConfigDict(frozen=True, extra="forbid", allow_inf_nan=False)

    def __deepcopy__(self, memo: dict[int, object] | None = None) -> Self:
        return self  # nothing in it changes


Asked = TypeVar("Asked", bound=Facts)
Made = TypeVar("Made")


def once_each(make: Callable[[Asked], Made]) -> Callable[[Asked], Made]:
    """What is made of the same object is made once. By identity: to compare a survey fact by fact takes longer than its equations."""
    kept: LRUCache[int, tuple[Asked, Made]] = LRUCache(512)
    lock = threading.Lock()

    @wraps(make)
    def once(facts: Asked) -> Made:
        with lock:
            known = kept.get(id(facts))
        if known is not None and known[0] is facts:  # kept beside what was made of it, so that no other gets its id
            return known[1]
        made = make(facts)
        with lock:
            kept[id(facts)] = facts, made
        return made

    return once


@dataclass(frozen=True, slots=True)
class Fact:
    """How one fact is asked. Limits in SI: outside low..high is refused, outside `usual` is questioned."""

    label: str
    quantity: Quantity | None = None
    low: float | None = None
    high: float | None = None
    usual: tuple[float, float] | None = None
    hint: str = ""
    options: tuple[tuple[str, str], ...] = ()
    only_if: Conditions = ()
    required: bool = True
    max_length: int = 2000
    long_text: bool = False
    typical: "Typical | None" = None


@dataclass(frozen=True, slots=True)
class Typical:
    """What a number usually is where nobody has measured it [SI], and half the 95 % width of its doubt, a share of it."""

    value: float
    share: float


@dataclass(frozen=True, slots=True)
class AskedFact:
    """A fact with its path in the survey, e.g. well.diameter_m or pump_1.curve.0.head_m."""

    path: str
    fact: Fact
    kind: type
    default: Any
    table: tuple[str, str, Conditions] | None = None  # title, lead, conditions of the small table it stands in


@dataclass(frozen=True, slots=True)
class Alike:
    """Sections of which there are several alike: what of each is asked in one table, a line for each of them, side by side.

    columns: the names of those facts, and what heads their columns.
    """

    title: str
    lead: str
    columns: tuple[tuple[str, str], ...]


@dataclass(frozen=True, slots=True)
class Section:
    """A group of facts asked together."""

    id: str
    title: str
    lead: str
    facts: tuple[AskedFact, ...]
    only_if: Conditions
    alike: Alike | None = None


@dataclass(frozen=True, slots=True)
class Grouped:
    """A field that holds facts: a section of the survey, or with rows a small table in one."""

    title: str
    lead: str
    only_if: Conditions
    rows: int
    alike: Alike | None = None


def _asked(default: Any, mark: Fact | Grouped, **limits: Any) -> Any:
    """A field with what is asked kept beside its limits."""
    info = Field(default, **limits)
    info.metadata.append(mark)
    return info


def fact(
    label: str,
    quantity: Quantity,
    low: float,
    high: float,
    *,
    default: Any = ...,
    usual: tuple[float, float] | None = None,
    hint: str = "",
    only_if: Conditions = (),
    typical: float | None = None,
    doubt: float | None = None,
) -> Any:
    """A number with its unit and limits, both in SI. With only_if the number is None when not asked.

    typical: what may stand for it while nobody has measured it; doubt: how far off that may be, a share of it. A doubt
    alone says that the default is such a number.
    """
    if typical is None and doubt is not None:
        typical = default
    usually = None if typical is None else Typical(typical, doubt or 0.0)
    asked = Fact(label, quantity, low, high, usual, hint, (), only_if, required=default is ..., typical=usually)
    return _asked(None if only_if and default is ... else default, asked, ge=low, le=high)


def choice(
    label: str,
    options: type[StrEnum],
    labels: dict[str, str],
    *,
    default: StrEnum,
    hint: str = "",
    only_if: Conditions = (),
) -> Any:
    """One of several named answers: the members of `options` that have a label."""
    pairs = tuple((member.value, labels[member.value]) for member in options if member.value in labels)
    return _asked(default, Fact(label, hint=hint, options=pairs, only_if=only_if))


def yes_no(label: str, *, default: bool, hint: str = "", only_if: Conditions = ()) -> Any:
    """A yes or a no."""
    asked = Fact(label, hint=hint, options=(("yes", "Yes"), ("no", "No")), only_if=only_if)
    return _asked(default, asked)


def words(label: str, *, max_length: int = 200, hint: str = "", long_text: bool = False, required: bool = False) -> Any:
    """Free text."""
    asked = Fact(label, hint=hint, required=required, max_length=max_length, long_text=long_text)
    return _asked(... if required else "", asked, max_length=max_length)


def section(title: str, lead: str = "", *, rows: int = 0, only_if: Conditions = (), default: Any = ..., alike: Alike | None = None) -> Any:
    """A group of facts, or a short table of them (rows > 0). alike: what is asked of it in one table with the sections like it."""
    return _asked(default, Grouped(title, lead, only_if, rows, alike))


@cache
def sections(model: type[Facts]) -> tuple[Section, ...]:
    """The sections of a survey in the order they are asked, each with its flat list of facts."""
    found = []
    for name, info in model.model_fields.items():
        group = next((mark for mark in info.metadata if isinstance(mark, Grouped)), None)
        if group is not None:  # else it is not asked in a form, for example levels set by dragging
            facts = tuple(_walk(_model_of(info), name))
            found.append(Section(name, group.title, group.lead, facts, group.only_if, group.alike))
    return tuple(found)


def _walk(model: type[Facts], prefix: str, table: tuple[str, str, Conditions] | None = None) -> Iterator[AskedFact]:
    for name, info in model.model_fields.items():
        path = f"{prefix}.{name}"
        mark = next((mark for mark in info.metadata if isinstance(mark, Fact | Grouped)), None)
        if isinstance(mark, Fact):
            beside = tuple((f"{prefix}{other}" if other.startswith(".") else other, values) for other, values in mark.only_if)
            yield AskedFact(path, replace(mark, only_if=beside), _plain_type(info.annotation), info.default, table)
        elif mark is not None:
            for row in range(mark.rows):
                yield from _walk(_model_of(info), f"{path}.{row}", (mark.title, mark.lead, mark.only_if))
        else:
            raise TypeError("a survey field is declared with fact, choice, yes_no, words or section")


def _plain_type(annotation: Any) -> Any:
    """float out of float | None."""
    if get_origin(annotation) in (Union, types.UnionType):
        return next(arg for arg in get_args(annotation) if arg is not type(None))
    return annotation


def _model_of(info: FieldInfo) -> type[Facts]:
    """The Facts class of a section, whether single, optional or in a tuple."""
    annotation = _plain_type(info.annotation)
    model: type[Facts] = get_args(annotation)[0] if get_origin(annotation) is tuple else annotation
    return model
