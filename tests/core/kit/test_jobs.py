"""Jobs: what a race asks for, what does it, and how records move a chance."""

import math
from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from stonechat.core.kit.item import Item, Record
from stonechat.core.kit.jobs import BY_MARGIN, JOBS, JOBS_LIST, Asked, Demands, chance_of, cover
from stonechat.core.kit.lexicon.recognise import recognise


def thing(name: str, **more: object) -> Item:
    return Item(id=name, name=name, mass=0.1, volume=0.0001, roles=recognise(name).jobs, **more)  # type: ignore[arg-type]


@pytest.mark.parametrize(
    ("name", "roles"),
    [
        ("saddle cream", {"saddle_skin"}),
        ("Derailleur Hanger", {"hanger"}),
        ("reading glasses", {"read"}),
        ("riding glasses", {"eyes"}),
        ("earplugs and eye mask", {"ears"}),
        ("inner tube", {"tube"}),
        ("helmet light", {"spare_light"}),
        ("helmet", {"head"}),
        ("small towel", set()),
        ("gear cable", set()),
        ("spoke key", set()),
    ],
)
def test_a_name_tells_its_jobs(name: str, roles: set[str]) -> None:
    assert recognise(name).jobs == roles


@pytest.mark.parametrize("key", ["sun", "lube", "seen", "treat"])
def test_a_missing_thing_shows_and_a_present_one_does_not(key: str) -> None:
    states = {entry.job.key: entry.state for entry in cover((), Demands())}
    assert states[key] == "missing"
    doing = replace(thing("it"), roles=frozenset({key}))
    assert {e.job.key: e.state for e in cover((doing,), Demands())}[key] == "once"
    twice = (doing, replace(doing, id="other"))
    assert {e.job.key: e.state for e in cover(twice, Demands())}[key] == "several"


def test_what_a_race_does_not_ask_for_is_not_missing() -> None:
    indoors = Demands(nights_out=0, nights=0, wet=0.0, dark_hours=0.0, doubtful_water=0, low=18.0, electronic=False)
    missing = {entry.job.key for entry in cover((), indoors) if entry.state == "missing"}
    assert not missing & {"shelter", "seen", "treat", "warm_top"}
    bivvy = thing("bivvy bag")
    assert [e.state for e in cover((bivvy,), indoors) if e.job.key == "shelter"] == ["spare"]


def test_what_is_judged_by_its_margin_is_not_ticked() -> None:
    cold = Demands(low=-5.0, low_night=-8.0, nights_out=3)
    listed = {entry.job.key for entry in cover((thing("long gloves"), thing("quilt")), cold)}
    assert BY_MARGIN and not listed & BY_MARGIN and "warm_top" in listed


def test_a_job_done_without_is_not_missing() -> None:
    assert "read" not in {e.job.key for e in cover((), Demands(), frozenset({"read"}))}


def test_one_thing_may_do_several_jobs() -> None:
    phone = thing("phone")
    done = {e.job.key for e in cover((phone,), Demands()) if e.state == "once"}
    assert {"navigate", "call"} <= done


def test_the_chance_of_a_puncture_is_that_of_a_poisson_count() -> None:
    # 2 punctures expected, 26 % of them want a plug: one or more with 1 − e^−0.52
    asked = JOBS["plug"].ask(Demands(punctures=2.0))
    assert asked is not None and asked.chance == pytest.approx(1.0 - math.exp(-0.52))


@given(st.floats(0.0, 1.0), st.integers(0, 30), st.integers(0, 30))
def test_records_move_a_chance_between_the_estimate_and_the_share_used(chance: float, used: int, idle: int) -> None:
    item = thing("it", record=Record(carried=used + idle, used=used))
    found = chance_of(item, Asked(chance, ""))
    share = used / (used + idle) if used + idle else chance
    assert min(chance, share) - 1e-9 <= found <= max(chance, share) + 1e-9


def test_never_carried_before_leaves_the_estimate() -> None:
    assert chance_of(thing("it"), Asked(0.3, "")) == 0.3


@pytest.mark.parametrize("job", JOBS_LIST, ids=lambda job: job.key)
def test_a_job_is_complete(job) -> None:  # type: ignore[no-untyped-def]
    assert job.fails and job.minutes > 0.0 and 0.0 <= job.ends <= 1.0 and job.bought in ("", "shop", "bike_shop")
    assert "," not in job.name  # names are typed with commas between them
    for demands in (Demands(), Demands(nights_out=0, nights=0, dark_hours=0.0, wet=0.0, km=120.0, low=25.0)):
        asked = job.ask(demands)
        assert asked is None or (0.0 <= asked.chance <= 1.0 and asked.reason)
