"""What a name is taken for: the most specific words of the lexicon that stand in it, and how sure that is.

In English the thing comes last (a helmet *lamp*, a chain *tool*) and before what it is for, with or in (a *battery* for
the lamp): words of the lexicon that hold this head count in full, others for little. A comma or a bracket may turn the
order (light, rear).
"""

import math
import re
from collections import Counter
from collections.abc import Iterable, Mapping
from dataclasses import dataclass, replace
from functools import lru_cache

from stonechat.core.kit.lexicon.kinds import KINDS, Kind
from stonechat.core.kit.lexicon.words import plain, tokens_of, words_in

SURE = 0.6  # 1, from which a kind is taken without asking
ASKED = 0.25  # 1, from which it is shown as a possibility
RUNNERS = 4  # shown beside what it is taken for
_OFF_HEAD = 0.30  # 1, what words without the head count
_LOOSE = 0.93  # 1, what words in another order count
_TAIL = 0.85  # 1, what words after for, with, in a bracket or behind a comma count
_FOR = 0.8  # 1, weight of what a thing is for where its words do not say it
_LISTED, _NEAR = 0.9, 0.8  # 1, from which what is listed beside it goes along, by itself and with the first
_STRANGE = 0.30  # 1, weight of a word that the lexicon does not know
_TELLS_LITTLE = 0.25  # 1, weight of an adjective that is left over
_SPLIT = re.compile(
    r"\b(?:with|for|from|in|incl\.?|including|inside|against|used|when|if|on|as|around|at|by|into|behind|between|and|plus)"
    r"\b|[(),;+&/:|–]"
)
_PURPOSE = re.compile(r"\s(?:for|on|under)\s")  # what stands behind is what it is for, or where it goes
# what a device runs on, behind its own name, says nothing of what it is; nor does what a bank can do besides
_RUNS_ON = re.compile(
    r"\b((?:head)?torch|(?:head)?lamp|light|gps|unit|tracker|messenger|computer|beacon)\s+(?:aaa?|18650|21700)$"
)
_BESIDES = re.compile(r"\bpass[\s-]?through\b")
_LEFT_OUT = re.compile(r"\b(?:without|no|not|minus|excl\.?|except|instead of|to buy)\b.*")
_ALONG = re.compile(r"\s(?:with|incl\.?|including|and|plus)\s|[,+&/]")  # what stands behind goes along as well
_ADJECTIVES = words_in(
    """
    small large mini big new old light lightweight ultralight spare extra thin thick short long black white
    red blue green yellow orange gray pink carbon titanium ti merino wool nylon silicone plastic cheap good
    best race cycling bike bicycle travel emergency folding foldable compact backup second first main front
    rear back left right top winter summer warm thermal waterproof windproof rain insulated inflatable foam
    synthetic down reusable disposable rechargeable electric digital wireless bluetooth ultra super sil spf
    set kit pack pair packet piece bit bag tube bottle box tin sachet roll piece sheet refill half full size
    sized comfort custom home made homemade cut travel evening road gravel mountain trail running walking camp
    day night sleeping sleep personal usb mens womens men women padded hooded stretch soft hard own wrap clip
    packable clear salted worn medium random various assorted misc general adult
    """
)


_HOLDERS = words_in("bag tube bottle box tin sachet roll sheet pack set kit")  # the thing where nothing else names one
# what a thing is for that does not change what it is
_OCCASIONS = words_in("hotel hostel town evening camp race start finish home night day winter summer friend travel bed")


@dataclass(frozen=True, kw_only=True)
class Guess:
    """One kind that a name may mean."""

    kind: Kind
    score: float  # 1, share of the name that its words explain


@dataclass(frozen=True, kw_only=True)
class Recognition:
    """What a name is taken for."""

    name: str
    guesses: tuple[Guess, ...]  # likeliest first
    along: tuple[Kind, ...] = ()  # other things that the name says go along

    @property
    def kind(self) -> Kind | None:
        """What it is taken for, None where that is not sure."""
        return self.guesses[0].kind if self.sure >= SURE else None

    @property
    def sure(self) -> float:
        """How sure that is: what the words explain, less where another kind explains as much. [1]"""
        if not self.guesses:
            return 0.0
        best, others = self.guesses[0], self.guesses[1:]
        rival = max((other.score for other in others), default=0.0)
        tie = rival >= 0.98 * best.score and best.score < 0.98
        return 0.5 * best.score if tie else best.score

    @property
    def runners_up(self) -> tuple[Guess, ...]:
        """What else it may be."""
        return self.guesses[1:] if self.kind else self.guesses

    @property
    def jobs(self) -> frozenset[str]:
        """Jobs of what it is taken for and of what goes along."""
        kinds = () if self.kind is None else (self.kind, *self.along)
        return frozenset().union(*(kind.jobs for kind in kinds))

    @property
    def tools(self) -> frozenset[str]:
        """Sizes that it turns, with what goes along."""
        kinds = () if self.kind is None else (self.kind, *self.along)
        return frozenset().union(*(kind.tools for kind in kinds))


@dataclass(frozen=True)
class _Phrase:
    tokens: tuple[str, ...]
    key: str
    is_list: bool  # two things that go by one name: needle and thread


def _sets_of(words: Iterable[str]) -> list[frozenset[str]]:
    """Return the tokens of each of some words."""
    return [frozenset(tokens_of(plain(word))) for word in words]


def _phrases_of(kinds: Iterable[Kind]) -> list[_Phrase]:
    """Return the words of all kinds, in an order of their own."""
    phrases = {_Phrase(tokens_of(plain(words)), kind.key, " and " in words) for kind in kinds for words in kind.words}
    return sorted((phrase for phrase in phrases if phrase.tokens), key=lambda phrase: (phrase.tokens, phrase.key))


class Lexicon:
    """Kinds of things, ready to be looked up by name."""

    def __init__(self, kinds: Mapping[str, Kind]) -> None:
        self.kinds = kinds
        self._phrases = _phrases_of(kinds.values())
        self._not = {kind.key: _sets_of(kind.but_not) for kind in kinds.values()}
        spread = Counter(token for phrase in self._phrases for token in set(phrase.tokens))
        most = max(spread.values(), default=1)
        self._weight = {token: 1.0 + 0.12 * math.log2(most / count) for token, count in spread.items()}
        self._heads = {phrase.tokens[-1] for phrase in self._phrases}
        self._by_token: dict[str, list[_Phrase]] = {}
        self._ways: dict[str, set[tuple[str, ...]]] = {token: {(token,)} for token in spread}
        for phrase in self._phrases:
            for token in set(phrase.tokens):
                self._by_token.setdefault(token, []).append(phrase)
        for phrase in (phrase for phrase in self._phrases if len(phrase.tokens) == 2):  # leg warmers, legwarmers
            self._ways.setdefault("".join(phrase.tokens), set()).add(phrase.tokens)

    def look_up(self, name: str) -> Recognition:
        """Return what a name is taken for."""
        text = _LEFT_OUT.sub("", plain(name)).strip() or plain(name)
        text = _RUNS_ON.sub(r"\1", _BESIDES.sub("", text).strip()) or text
        guesses = self._guesses(text)
        along = self._along(text, guesses[0].kind) if guesses else ()
        return Recognition(name=name, guesses=guesses, along=along)

    def _guesses(self, text: str) -> tuple[Guess, ...]:
        found: dict[str, float] = {}
        for reading in _readings(text):
            for main in self._spellings(reading.main):
                for key, score in self._scores(replace(reading, main=main)).items():
                    found[key] = max(found.get(key, 0.0), score)
        best = sorted(found.items(), key=lambda entry: (-entry[1], entry[0]))
        kept = [Guess(kind=self.kinds[key], score=round(s, 4)) for key, s in best if s >= ASKED]
        return tuple(kept[: RUNNERS + 1])

    def _spellings(self, tokens: tuple[str, ...]) -> Iterable[tuple[str, ...]]:
        """Yield tokens as they are, and with compounds written as the lexicon has them."""
        yield tokens
        joined = self._joined(tokens)
        if joined != tokens:
            yield joined

    def _joined(self, tokens: tuple[str, ...]) -> tuple[str, ...]:
        found: list[str] = []
        k = 0
        while k < len(tokens):
            pair = "".join(tokens[k : k + 2])
            if k + 1 < len(tokens) and (pair,) in self._ways.get(pair, set()):
                found.append(pair)
                k += 2
                continue
            whole: tuple[str, ...] = (tokens[k],)
            ways = self._ways.get(tokens[k], {whole})
            found.extend(whole if whole in ways else min(ways))
            k += 1
        return tuple(found)

    def _scores(self, reading: "_Reading") -> dict[str, float]:
        """Return by kind what share of a name its best words explain."""
        main, tail = reading.main, set(self._joined(reading.tail)) | set(reading.tail)
        known = [token for token in main if token in self._weight]
        if not known:
            return {}
        head = self._head_of(known)
        matching = self._matching(reading, main, tail)
        told: dict[str, set[str]] = {}  # words that all phrases of a kind explain together
        for phrase in matching:
            told.setdefault(phrase.key, set()).update(token for token in phrase.tokens if token in main)
        purpose = set(self._joined(reading.purpose)) | set(reading.purpose)
        found: dict[str, float] = {}
        for phrase in matching:
            mine = told[phrase.key] | set(phrase.tokens)
            rest = sum(map(self._left, (token for token in main if token not in mine)))
            rest += _FOR * sum(self._weight.get(token, _STRANGE) for token in purpose - mine - _OCCASIONS)
            score = self._share(mine, main, rest)
            score *= (1.0 if head in phrase.tokens else _OFF_HEAD) * (1.0 if _contains(main, phrase.tokens) else _LOOSE)
            found[phrase.key] = max(found.get(phrase.key, 0.0), score)
        return found

    def _matching(self, reading: "_Reading", main: tuple[str, ...], tail: set[str]) -> list[_Phrase]:
        """Return the phrases whose words all stand in a reading."""
        near = {phrase for token in main for phrase in self._by_token.get(token, ())}
        return [
            phrase
            for phrase in near
            if set(phrase.tokens) - set(main) <= tail
            and not self._is_excluded(phrase, main)
            and (not reading.turned or reading.turned & set(phrase.tokens))
            and (not reading.listed or phrase.is_list)
        ]

    def _is_head(self, token: str) -> bool:
        """Tell whether a word names things; others only say what they are like."""
        return token in self._heads and token not in _ADJECTIVES

    def _left(self, token: str) -> float:
        """Return the weight of a word of a name that nothing explains."""
        if token not in self._weight:
            return _STRANGE
        return self._weight[token] * (1.0 if self._is_head(token) else _TELLS_LITTLE)

    def _share(self, mine: set[str], main: tuple[str, ...], rest: float) -> float:
        """Return what share of a name some words explain, a little less where they are few. [1]"""
        outside = sum(self._weight[token] for token in mine - set(main))
        explained = sum(self._weight[token] for token in mine & set(main)) + _TAIL * outside
        return explained / (explained + rest + (1.0 - _TAIL) * outside) * (1.0 - 0.06 / (1.0 + explained))

    def _is_excluded(self, phrase: _Phrase, main: tuple[str, ...]) -> bool:
        beside = set(main) - set(phrase.tokens)
        return any(words <= beside for words in self._not[phrase.key] if words)

    def _head_of(self, known: list[str]) -> str:
        """Return the word that says what a thing is: the last that may, else a holder, else the last."""
        heads = (token for token in reversed(known) if self._is_head(token))
        holders = (token for token in reversed(known) if token in _HOLDERS)
        return next(heads, None) or next(holders, known[-1])

    def _along(self, text: str, first: Kind) -> tuple[Kind, ...]:
        """Return other things that a list of several names: a wallet with cards and passport."""
        parts = [tokens for tokens in map(tokens_of, _ALONG.split(text.partition("(")[0])) if tokens]
        found = (self._beside(part, parts[0]) for part in parts[1:])
        return tuple(dict.fromkeys(kind for kind in found if kind is not None and kind is not first))

    def _beside(self, part: tuple[str, ...], first: tuple[str, ...]) -> Kind | None:
        """Return what a part of a name is beside the first, None where it is not sure."""
        alone = self._scores(_Reading(part))
        # a helmet with a light has a helmet lamp, not one on the bars
        near = {k: v for k, v in self._scores(_Reading(part, first)).items() if k not in alone and v > _NEAR}
        scores = near or {key: score for key, score in alone.items() if score >= _LISTED}
        return self.kinds[max(scores, key=lambda key: scores[key])] if scores else None


def _contains(tokens: tuple[str, ...], phrase: tuple[str, ...]) -> bool:
    width = len(phrase)
    return any(tokens[k : k + width] == phrase for k in range(len(tokens) - width + 1))


@dataclass(frozen=True)
class _Reading:
    """One way to read a name."""

    main: tuple[str, ...]  # the thing itself
    tail: tuple[str, ...] = ()  # what stands behind it
    purpose: tuple[str, ...] = ()  # of that, what it is for
    turned: frozenset[str] = frozenset()  # words one of which must be explained: those put before the thing
    listed: bool = False  # two things read as one


def _readings(text: str) -> Iterable[_Reading]:
    """Yield the ways to read a name: what comes first as the thing, or what stands behind a comma before it."""
    before, is_for, after = _PURPOSE.sub("\n", re.sub(r"[(\[].*?[)\]]", " ", text), count=1).partition("\n")
    pieces = [piece for piece in map(tokens_of, _SPLIT.split(text)) if piece]
    if not pieces:
        return
    first, rest = pieces[0], tuple(token for piece in pieces[1:] for token in piece)
    purpose = tokens_of(_SPLIT.split(after)[0]) if is_for and tokens_of(before)[: len(first)] == first else ()
    yield _Reading(first, rest, purpose)
    if re.match(r"^[^(]*[,(]", text):
        for piece in pieces[1:]:
            yield _Reading(piece + first, turned=frozenset(piece))
            yield _Reading(first + piece, turned=frozenset(piece))
    if rest and re.search(r"[&+/]|\band\b", text):
        yield _Reading(first + rest, turned=frozenset(rest), listed=True)


LEXICON = Lexicon(KINDS)


@lru_cache(maxsize=4096)
def recognise(name: str) -> Recognition:
    """Return what a name is taken for.

    Parameters
    ----------
    name : str
        As riders type it.

    Returns
    -------
    recognition : Recognition
        The kind where it is sure enough, what else it may be, and what goes along by the same name.

    Examples
    --------
    >>> recognise("Helmet lamp").kind.key, recognise("helmet").kind.key
    ('helmet_light', 'helmet')
    >>> recognise("Regenjacke").kind is None
    True
    """
    return LEXICON.look_up(name)
