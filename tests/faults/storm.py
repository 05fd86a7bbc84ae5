"""Sends damaged files and forms to the program and looks at what becomes of the data: the heart of both the short form
in the tests and the long form on the command line."""

import random
import re
from collections import Counter
from collections.abc import Callable
from dataclasses import dataclass, field
from urllib.parse import urlencode

from fastapi.testclient import TestClient
from sqlalchemy import Engine, text

from tests.faults.damage import Form, damaged_form, forms_of

ROOMS = ("line", "rhythm", "rig", "kit", "load", "supply", "night", "charge", "mend", "cards", "diary")
_PRINT = text(
    "select (select count(*) || ' ' || coalesce(sum(revision), 0) from plan), "
    "(select count(*) || ' ' || coalesce(max(made_at)::text, '') from plan_step), (select count(*) from course), "
    "(select count(*) || ' ' || coalesce(max(changed_at)::text, '') from shelf_item), "
    "(select count(*) || ' ' || coalesce(max(made_at)::text, '') from upload), "
    "(select count(*) || ' ' || coalesce(max(heard_at)::text, '') from run)"
)


@dataclass
class Outcome:
    """What came of a storm."""

    engine: Engine
    statuses: Counter[int] = field(default_factory=Counter)
    faults: list[str] = field(default_factory=list)
    kept: tuple[object, ...] = ()  # print of what was there after the last answer

    def note(self, status: int, told: str, what: str) -> None:
        """Take an answer down; a 5xx, a traceback and a refusal that changed something are faults."""
        self.statuses[status] += 1
        now = print_of(self.engine)
        if status >= 500:
            self.faults.append(f"{status}: {what}")
        elif status >= 400 and now != self.kept:
            self.faults.append(f"{status} and changed: {what}")
        if "Traceback" in told:
            self.faults.append(f"a traceback: {what}")
        self.kept = now


def print_of(engine: Engine) -> tuple[object, ...]:
    """How much is kept and when it was last written: every write of the program changes it."""
    with engine.connect() as connection:
        return tuple(connection.execute(_PRINT).one())


def send_file(client: TestClient, address: str, name: str, data: bytes, outcome: Outcome, **fields: str) -> int:
    """Send one file and note what came of it."""
    answer = client.post(address, files={name: ("file", data)}, data=fields)
    outcome.note(answer.status_code, answer.text, f"{address} {data[:60]!r} …")
    return answer.status_code


def every_form(client: TestClient, plan: str) -> list[Form]:
    """Return the forms of all rooms and of every tab that they lead to."""
    found: dict[str, Form] = {}
    for room in ROOMS:
        page = client.get(f"{plan}/{room}").text
        tabs = set(re.findall(rf'"{plan}/{room}\?[^"]*?\btab=([a-z_-]+)', page))
        for text_ in (page, *(client.get(f"{plan}/{room}", params={"tab": tab}).text for tab in sorted(tabs))):
            for form in forms_of(text_):
                if "/variant/delete" in form.address:  # the storm would go on over nothing
                    continue
                found.setdefault(form.address.partition("?")[0] + str(sorted({k for k, _ in form.fields})), form)
    return list(found.values())


def storm_of_forms(
    client: TestClient,
    engine: Engine,
    plan: str,
    forms: list[Form],
    *,
    requests: int,
    seed: int,
    tell: Callable[[str], None] = print,
) -> Outcome:
    """Send so many damaged forms to a plan."""
    chance, outcome = random.Random(seed), Outcome(engine)
    choices = sorted({choice for form in forms for choice in form.choices})
    for number in range(requests):
        if number % 200 == 199:
            tell(f"{number + 1} forms: {dict(outcome.statuses)}, {len(outcome.faults)} faults")
            client.post(f"{plan}/do/undo", data={"revision": str(revision_of(engine, plan)), "leg": "0"})
        form = chance.choice(forms)
        revision = revision_of(engine, plan)
        sound = Form(
            address=form.address,
            fields=tuple((k, str(revision) if k == "revision" else v) for k, v in form.fields),
            choices=form.choices,
        )
        address, fields = damaged_form(sound, choices, chance)
        outcome.kept = print_of(engine)
        body = urlencode([(k, v.encode("utf-8", "surrogatepass")) for k, v in fields]).encode()
        answer = client.post(address, content=body, headers={"Content-Type": "application/x-www-form-urlencoded"})
        outcome.note(answer.status_code, answer.text, f"{address} {fields!r}"[:600])
    return outcome


def revision_of(engine: Engine, plan: str) -> int:
    """Return the revision of the plan at an address."""
    with engine.connect() as connection:
        found = connection.execute(text("select revision from plan where id = :id"), {"id": plan.split("/")[2]})
        return int(found.scalar() or 0)
