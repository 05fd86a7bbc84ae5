"""The table of kinds: every row is whole, told apart from the others, and leads to the rooms it is for."""

from collections import defaultdict

import pytest

from stonechat.core.kit.item import Carried
from stonechat.core.kit.jobs import JOBS
from stonechat.core.kit.lexicon.kinds import FIELDS, KINDS, read_kinds
from stonechat.core.kit.lexicon.recognise import recognise
from stonechat.core.kit.lexicon.words import plain, tokens_of

HEADER = "key,title,words,but_not,field,carried,mass_g,volume_ml,rigid_mm,access,reaches,jobs,tools,marks\n"
ROW = "spoon,spoon,spoon;spork,,cooking,packed,5/15/60,5/20/70,170,camp,0.7,,,\n"


def test_there_are_kinds_in_every_field_and_for_every_job() -> None:
    assert len(KINDS) >= 320
    assert {kind.field for kind in KINDS.values()} == set(FIELDS)
    assert {job for kind in KINDS.values() for job in kind.jobs} == set(JOBS)


@pytest.mark.parametrize("key", sorted(KINDS))
def test_a_kind_is_known_by_its_own_words(key: str) -> None:
    kind = KINDS[key]
    told = [recognise(word).guesses for word in kind.words]
    assert told[0] and told[0][0].kind is kind, kind.words[0]
    # by each of them it is at least among what is offered
    assert all(key in {guess.kind.key for guess in guesses} for guesses in told)


def test_no_words_stand_for_two_kinds_but_those_that_are_asked_about() -> None:
    found = defaultdict(set)
    for kind in KINDS.values():
        for word in kind.words:
            found[tokens_of(plain(word))].add(kind.key)
    doubled = {words: keys for words, keys in found.items() if len(keys) > 1}
    assert all(len(words) == 1 for words in doubled)  # one word that says too little
    assert all(recognise(" ".join(words)).kind is None for words in doubled)


def test_figures_lie_within_their_bands_and_in_a_range_that_exists() -> None:
    for kind in KINDS.values():
        assert 0.0 < kind.mass.low <= kind.mass.usual <= kind.mass.high < 4.0, kind.key
        assert 0.0 <= kind.volume.low <= kind.volume.usual <= kind.volume.high <= 0.015, kind.key
        if kind.volume.usual:  # between down in a bag and solid steel
            assert 15.0 < kind.mass.usual / kind.volume.usual < 9_000.0, kind.key
        elif kind.carried is Carried.PACKED:
            pytest.fail(f"{kind.key} is packed and takes no room")
        assert (kind.carried is Carried.FIXED) <= bool(kind.spot), kind.key


@pytest.mark.parametrize(
    ("row", "why"),
    [
        (ROW.replace("5/15/60", "15/5/60"), "band"),
        (ROW.replace(",camp,", ",tent,"), "access"),
        (ROW.replace(",0.7,", ",often,"), "reaches"),
        (ROW.replace("cooking", "kitchen"), "field"),
        (ROW.replace(",0.7,,,", ",0.7,eat,,"), "job"),
        (ROW.replace(",0.7,,,", ",0.7,,,lost"), "mark"),
        (ROW.replace(",packed,", ",fixed nose,"), "spot"),
        (ROW + ROW, "twice"),
    ],
)
def test_a_row_that_is_wrong_is_named(row: str, why: str) -> None:
    assert read_kinds(HEADER + ROW)["spoon"].length == 0.17
    with pytest.raises(ValueError, match=f"spoon.*{why}"):
        read_kinds(HEADER + row)
