"""What a rider says of failures: skill, own rates, own failures that make no sense."""

from dataclasses import replace

import pytest

from stonechat.core.mend.failures import FAILURES, Answer
from stonechat.core.mend.rule import MendRule, Told, failures_of, what_is_wrong

ZIP = replace(FAILURES["zip"], key="frame-zip", name="zip of the frame bag")


def test_skill_changes_what_wants_skill_only() -> None:
    usual, learning, mechanic = (failures_of(MendRule(skill=skill)) for skill in ("usual", "learning", "mechanic"))
    rim = usual["spoke"].answers[0], learning["spoke"].answers[0], mechanic["spoke"].answers[0]
    assert (
        learning["spoke"].answers[0].minutes > usual["spoke"].answers[0].minutes > mechanic["spoke"].answers[0].minutes
    )
    assert rim[1].holds < rim[0].holds < rim[2].holds
    easy = [failures["strap"].answers[0].minutes for failures in (usual, learning, mechanic)]
    assert easy[0] == easy[1] == easy[2]


def test_what_is_known_better_replaces_the_figure_and_narrows_its_band() -> None:
    known = failures_of(MendRule(told={"chain": Told(rate=0.2, ends=0.0)}, own=(ZIP,)))
    assert known["chain"].rate == 0.2 and known["chain"].ends == 0.0
    assert known["chain"].minutes == FAILURES["chain"].minutes and known["chain"].band < FAILURES["chain"].band
    assert known["frame-zip"].rate == ZIP.rate and len(known) == len(FAILURES) + 1


@pytest.mark.parametrize(
    ("wrong", "says"),
    [
        (replace(ZIP, rate=1_500.0), "1.5 times a km"),
        (replace(ZIP, ground="days", rate=40.0), "more than 20"),
        (replace(ZIP, ground="tyre", rate=1.4), "more than all punctures"),
        (replace(ZIP, minutes=0.0, ends=0.0), "neither loses time nor ends"),
        (
            replace(
                FAILURES["pump"], minutes=60.0, fails="pump",
                answers=(Answer(name="pump", needs=(frozenset({"pump"}),), pool="", minutes=2, holds=1, slower=0),),
            ),
            "with the very thing that has failed",
        ),
    ],
)  # fmt: skip
def test_a_failure_without_sense_is_told_in_a_sentence(wrong: object, says: str) -> None:
    assert says in what_is_wrong(wrong)  # type: ignore[arg-type]


def test_every_failure_of_the_tables_makes_sense() -> None:
    assert not [key for key, failure in FAILURES.items() if key != "pump" and what_is_wrong(failure)]
