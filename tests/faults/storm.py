"""Sends damaged files and forms to the program and looks at what becomes of the data: the heart of both the short form
in the tests and the long form on the command line."""

import random
from collections import Counter
from collections.abc import Callable
from dataclasses import dataclass, field
from urllib.parse import urlencode

from fastapi.testclient import TestClient
from sqlalchemy import Engine, text

from tests.faults.damage import Form, damaged_form, forms_of

ROOMS = ("line", "rhythm", "rig", "kit", "load", "supply", "cards")
_PRINTS = [
    *(
        text(f"select count(*), md5(coalesce(string_agg(md5(t::text), '' order by md5(t::text)), '')) from {table} t")  # noqa: S608
        for table in ("plan", "course", "shelf_item", "upload", "pack_run")
    ),
    text("select count(*), max(number), max(made_at) from plan_step"),  # a step is never written over
]


@dataclass
class Outcome:
    """What came of a storm."""

    statuses: Counter[int] = field(default_factory=Counter)
    faults: list[str] = field(default_factory=list)


def print_of(engine: Engine) -> tuple[object, ...]:
    """Everything kept, as one value that changes when any of it does."""
    with engine.connect() as connection:
        return tuple(connection.execute(query).one() for query in _PRINTS)


def send_file(
    client: TestClient, engine: Engine, address: str, name: str, data: bytes, outcome: Outcome, **fields: str
) -> int:
    """Send one file; note a 5xx, and a refusal that changed something all the same."""
    before = print_of(engine)
    answer = client.post(address, files={name: ("file", data)}, data=fields)
    _note(answer.status_code, answer.text, f"{address} {data[:60]!r} …", before, engine, outcome)
    return answer.status_code


def _note(status: int, told: str, what: str, before: object, engine: Engine, outcome: Outcome) -> None:
    outcome.statuses[status] += 1
    if status >= 500:
        outcome.faults.append(f"{status}: {what}")
    elif status >= 400:
        if print_of(engine) != before:
            outcome.faults.append(f"{status} and changed: {what}")
        if "Traceback" in told:
            outcome.faults.append(f"a traceback: {what}")


def every_form(client: TestClient, plan: str) -> list[Form]:
    """Return the forms of all rooms, with those that are shown when something is opened."""
    found: dict[str, Form] = {}
    for room in ROOMS:
        for query in (
            "",
            "?tab=new",
            "?tab=pack",
            "?tab=whatif",
            "?tab=weigh",
            "?tab=shelf",
            "?tab=bike",
            "?tab=start",
        ):
            page = client.get(f"{plan}/{room}{query}")
            if page.status_code == 200:
                for form in forms_of(page.text):
                    found.setdefault(form.address.partition("?")[0] + str(sorted({k for k, _ in form.fields})), form)
    return list(found.values())


def storm_of_forms(
    client: TestClient, engine: Engine, plan: str, *, requests: int, seed: int, tell: Callable[[str], None] = print
) -> Outcome:
    """Send so many damaged forms of all rooms to a plan."""
    chance, outcome = random.Random(seed), Outcome()
    forms = every_form(client, plan)
    choices = sorted({choice for form in forms for choice in form.choices})
    for number in range(requests):
        if number % 200 == 199:
            tell(f"{number + 1} forms: {dict(outcome.statuses)}, {len(outcome.faults)} faults")
            client.post(f"{plan}/do/undo", data={"revision": str(revision_of(client, plan)), "leg": "0"})
        form = chance.choice(forms)
        revision = revision_of(client, plan)
        sound = Form(
            address=form.address,
            fields=tuple((k, str(revision) if k == "revision" else v) for k, v in form.fields),
            choices=form.choices,
        )
        address, fields = damaged_form(sound, choices, chance)
        before = print_of(engine)
        body = urlencode([(k, v.encode("utf-8", "surrogatepass")) for k, v in fields]).encode()
        answer = client.post(address, content=body, headers={"Content-Type": "application/x-www-form-urlencoded"})
        _note(answer.status_code, answer.text, f"{address} {fields!r}"[:600], before, engine, outcome)
    return outcome


def revision_of(client: TestClient, plan: str) -> int:
    """Return the plan's revision as its pages carry it."""
    page = client.get(f"{plan}/cards").text
    return int(page.partition('data-revision="')[2].partition('"')[0] or 0)
