"""Templates: units, dates and words for numbers, and what every page knows."""

import uuid
from collections.abc import Hashable
from itertools import groupby
from pathlib import Path
from typing import Any
from urllib.parse import quote

from fastapi import Request, Response
from fastapi.responses import HTMLResponse
from fastapi.templating import Jinja2Templates
from jinja2 import BaseLoader, ChoiceLoader, Environment, FileSystemLoader, PrefixLoader
from markupsafe import Markup

from goodbalance.core.balance.quantities import Quantity, UnitSystem, display_unit, show, show_number
from goodbalance.core.balance.trail import Trail
from goodbalance.web.guards import csrf_token
from goodbalance.web.memory import Memory
from goodbalance.web.progress import progress

FOLDER = Path(__file__).parent
VIEWS = (("survey", "Survey"), ("reckon", "Reckon"), ("rehearse", "Rehearse"), ("enter", "Enter"), ("prove", "Prove"), ("handover", "Hand over"))  # fmt: skip
TELLS = {
    "survey": "Here you note what is there, as you walk around it; what is still missing is counted for each part.", "reckon": "Here every setting stands in its window between two harms; move it, or ask why.",
    "rehearse": "Here the station runs before you touch the real one; break it on purpose and read why each pump runs or not.", "enter": "Here stands what you type at the keypad, in its order; read each number back.",
    "prove": "Here every function is made to happen on site; write down what you saw.", "handover": "Here stands what was found and what is left; sign it, and take it away.",
}  # fmt: skip
SHAPES = ("ok", "caution", "stop", "open", "note", "empty", "low", "high")

_own = FileSystemLoader(FOLDER / "templates")
_of_kinds: dict[str, BaseLoader] = {}  # by the kind's id, which its templates' names begin with
_written: Memory[tuple[Hashable, ...], Markup] = Memory(8000)
templates = Jinja2Templates(env=Environment(loader=ChoiceLoader([_own, PrefixLoader(_of_kinds)]), autoescape=True))


def take_templates(kind: str, folder: Path) -> None:
    """The templates of a kind of station, named after it."""
    _of_kinds[kind] = FileSystemLoader(folder / "templates")


def units_of(request: Request) -> UnitSystem:
    """The unit system of whoever asks."""
    person = getattr(request.state, "person", None)
    return UnitSystem(person.units) if person is not None else UnitSystem.METRIC


def context(request: Request, more: dict[str, Any]) -> dict[str, Any]:
    """What templates can use besides what the route hands over."""
    units = units_of(request)
    person = getattr(request.state, "person", None)
    paths = request.app.state.paths

    def url_for(name: str, /, **places: Any) -> str:
        """The path of a page: asked for some hundred times a page, so from a table and not by trying every route."""
        return paths[name].format(**{place: quote(str(value), safe="/") for place, value in places.items()})

    work = more.get("work")
    own = {} if work is None else {"own": request.app.state.pages[work.kind.id]}
    return {
        **own,
        "request": request,
        "url_for": url_for,
        "person": person,
        "units": units,
        "theme": person.theme if person is not None else "paper",
        "views": VIEWS,
        "tells": {view: text for view, text in TELLS.items() if person is not None and view not in person.dismissed.split()},
        "describes": TELLS.get(more.get("view", ""), "Settings of pump stations: reckoned, rehearsed, typed, proved and handed over."),
        "progress_of": progress,
        "new_key": lambda: uuid.uuid4().hex,
        "csrf": csrf_token(request),
        "unit": lambda quantity: display_unit(Quantity(quantity), units).symbol,
        "show": lambda value, quantity, more=0: show(value, Quantity(quantity), units, more),
        "number": lambda value, quantity, more=0: show_number(value, Quantity(quantity), units, more),
        "csrf_field": Markup('<input type="hidden" name="csrf" value="{}">').format(csrf_token(request)),
        **more,
    }


def page(request: Request, template: str, more: dict[str, Any], status: int = 200) -> Response:
    """A whole page. It says whose it is, so that a browser that keeps it never shows it to somebody else."""
    text = templates.get_template(template).render(context(request, more))
    person = getattr(request.state, "person", None)
    return HTMLResponse(text, status, {} if person is None else {"x-person": str(person.id)})


def part(request: Request, template: str, more: dict[str, Any]) -> str:
    """A piece of a page, for a script to put in place."""
    return templates.get_template(template).render(context(request, more))


def written(request: Request, template: str, more: dict[str, Any], *hangs_on: Hashable) -> Markup:
    """A piece that is the same for everybody who reads in these units, written once for all that it hangs on. No key, no name of a person in it."""
    return _written.once((template, units_of(request), *hangs_on), lambda: Markup(part(request, template, more)))


def moment(at: str) -> str:
    """A UTC time of the record, to the minute."""
    return f"{at[:10]} {at[11:16]} UTC"


def before_bracket(text: str) -> str:
    """An answer without its reason: what stands before the bracket at its end."""
    return text.partition(" (")[0] if text.endswith(")") else text


def in_bracket(text: str) -> str:
    """The reason of an answer: what stands in the bracket at its end; empty where there is none."""
    return text.partition(" (")[2][:-1] if text.endswith(")") else ""


def in_rows(fields: list[dict[str, Any]]) -> list[tuple[str, list[dict[str, Any]]]]:
    """Fields of a small table row by row, in their order."""
    return [(row, list(group)) for row, group in groupby(fields, key=lambda field: field["row"])]


def in_tables(fields: list[dict[str, Any]]) -> list[list[dict[str, Any]]]:
    """Fields of the small tables of a section, table by table."""
    return [list(group) for _, group in groupby((field for field in fields if field["row"]), key=lambda field: field["row"].rpartition(".")[0])]


def named(fields: list[dict[str, Any]], name: str) -> dict[str, Any]:
    """The field of a section that has a name."""
    return next(field for field in fields if field["path"].rpartition(".")[2] == name)


def lines(trail: Trail, units: UnitSystem) -> Markup:
    """A trail as a list, line by line: several hundred of them stand on a page."""
    return Markup('<ol class="trail"><li>') + Markup("</li><li>").join(trail.lines(units)) + Markup("</li></ol>")


def clock(seconds: float) -> str:
    """Seconds of a run as hours, minutes, seconds."""
    whole = int(seconds)
    days, rest = divmod(whole, 86400)
    text = f"{rest // 3600:02d}:{rest % 3600 // 60:02d}:{rest % 60:02d}"
    return f"day {days + 1} {text}" if days else text


templates.env.filters["moment"] = moment
templates.env.filters["lines"] = lines
templates.env.filters["clock"] = clock
templates.env.filters["in_rows"] = in_rows
templates.env.filters["in_tables"] = in_tables
templates.env.filters["named"] = named
templates.env.filters["before_bracket"] = before_bracket
templates.env.filters["in_bracket"] = in_bracket
templates.env.tests["has_bracket"] = lambda text: bool(in_bracket(text))
templates.env.auto_reload = False  # an include in a loop would look at its file each time
templates.env.trim_blocks = True
templates.env.lstrip_blocks = True
