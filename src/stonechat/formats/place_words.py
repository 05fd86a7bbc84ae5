"""What course files say of a place in words: its kind, what it offers, when it is open, what to mind.

Names, symbols, comments and descriptions are read as riders and route makers write them, in the languages of common
course files. What is not said stays unknown; what was read is marked so, for the rider to look over.
"""

import re
from collections.abc import Mapping
from dataclasses import dataclass, field

from stonechat.core.line.stops import ALWAYS, DAY, FOOD_OFFERS, KINDS, SERVED, Hours, guess_kind
from stonechat.formats.hours import WEEKDAYS

# words of a kind, the more telling kinds first; matched as whole words
_KIND_WORDS: tuple[tuple[str, str], ...] = (
    ("checkpoint", r"check ?points?|cp ?\d+|control|contrôle|kontroll\w*"),
    ("ferry", r"ferry|ferries|fähre|bac|traghetto|transbordador"),
    ("cemetery", r"cemetery|cemeteries|graveyard|churchyard|friedhof|cimeti[èe]re|cimitero|cementerio"),
    ("bike_shop", r"bike ?shops?|bicycle (?:shop|repair)|cycle ?shop|bike repair|fahrradladen|vélociste|ciclista"),
    ("pharmacy", r"pharmac\w*|chemist|drugstore|apotheke|farmacia"),
    ("fuel", r"(?:gas|petrol|fuel|service|filling) ?stations?|gas ?stop|servo|petrol|tankstelle|station[- ]service"
             r"|gasolinera|benzinaio|distributore"),
    ("supermarket", r"super ?markets?|supermarch[ée]|supermercado|supermercato|hypermarket|grocer(?:y|ies)(?: store)?"
                    r"|food market"),
    ("bakery", r"baker(?:y|ies)|bäckerei|boulangerie|panader[íi]a|panificio|panetteria"),
    ("convenience", r"convenience(?: store| shop)?|corner (?:shop|store)|mini ?(?:market|mart)|kiosk|kiosque|alimentari"
                    r"|épicerie"),
    ("hut", r"(?:mountain |alpine )?huts?|refuges?|rifugio|refugio|hütte|gîte|gite"),
    ("campsite", r"camp ?(?:site|ground|ing)s?|campingplatz"),
    ("hotel", r"hotels?|hostels?|guest ?house|b ?& ?b|bed and breakfast|pension|albergo|auberge|gasthof|gasthaus|motel"
              r"|lodging|lodge|rooms?|pousada|hostal"),
    ("shelter", r"shelters?|bothy|bothies|lean-to|biwak|bivacco|bivouac|abri|unterstand"),
    ("cafe", r"caf[ée]s?|coffee(?: shop)?|bar|bistro|tea ?room|snack ?bar"),
    ("meal", r"restaurants?|diner|pub|inn|pizz(?:a|eria)|tavern\w*|trattoria|canteen|meals?|food|eat|burgers?|kebab"),
    ("shop", r"shops?|stores?|markets?|laden|magasin|tienda|negozio|provisions?|resupply"),
    ("toilet", r"toilets?|wc|rest ?rooms?|loo|bathroom|sanitair|baños?"),
    ("spring", r"springs?|streams?|creek|river|wells?|trough|lake|source|quelle|manantial|sorgente|bach"),
    ("tap", r"taps?|fountains?|drinking ?water|water ?(?:point|tap|fountain|fill|refill)?|h2o|brunnen|fontaine|fuente"
            r"|fontana|bubbler|standpipe|point d'eau|trinkwasser|eau potable|agua potable"),
    ("town", r"towns?|city|stadt|ville|ciudad"),
    ("village", r"villages?|hamlet|dorf|pueblo|paese"),
)  # fmt: skip
_OFFER_WORDS: dict[str, str] = {
    "water": r"water|h2o|taps?|fountains?|drinking|brunnen|fontaine|fuente|fontana|trinkwasser|eau|agua|acqua",
    "meal": r"restaurants?|meals?|caf[ée]s?|coffee|diner|pub|inn|pizz(?:a|eria)|bistro|hot food|cooked|kitchen|snacks?"
            r"|burgers?|kebab|bar",
    "shop": r"shops?|stores?|super ?markets?|supermarch[ée]|supermercado|market|baker(?:y|ies)|grocer\w*|kiosk"
            r"|provisions?|resupply|boulangerie|bäckerei|épicerie|minimarket|convenience|food",
    "bed": r"beds?|hotels?|hostels?|rooms?|lodg\w+|huts?|refuges?|rifugio|camp ?(?:site|ground|ing)?|b ?& ?b"
           r"|guest ?house|bunk\w*|shelters?|bothy|gîte|gite",
    "socket": r"sockets?|charg(?:e|ing|er)|power ?point|outlets?|plugs?|usb|electricity",
    "bike_shop": r"bike ?shops?|bicycle (?:shop|repair)|cycle ?shop|bike repair|fahrradladen|vélociste",
    "pharmacy": r"pharmac\w*|chemist|drugstore|apotheke|farmacia",
    "toilet": r"toilets?|wc|rest ?rooms?|loo|bathroom",
    "drop_box": r"drop ?(?:box|bag)(?:es|s)?",
}  # fmt: skip
_DOUBTFUL = re.compile(
    r"\b(?:filter(?:ed|ing)?|treat(?:ed|ment)?|boil(?:ed)?|purif\w+)\b"
    r"|\bnot (?:potable|drinkable|for drinking)\b|\bnon[- ]potable\b|\bundrinkable\b|\bkein trinkwasser\b"
    r"|\bunsafe water\b|\bcattle\b",
    re.IGNORECASE,
)
_NO = r"(?:no|without|kein\w*|pas d[e']|sans|sin|senza)"
_DRY = re.compile(r"\b(?:may be |often |can be |mostly )?dry\b|\bseasonal\b|\bunreliable\b", re.IGNORECASE)

_DAY_NAMES = {
    "mo": 0, "mon": 0, "monday": 0, "mondays": 0, "tu": 1, "tue": 1, "tues": 1, "tuesday": 1, "tuesdays": 1,
    "we": 2, "wed": 2, "wednesday": 2, "wednesdays": 2, "th": 3, "thu": 3, "thur": 3, "thurs": 3, "thursday": 3,
    "thursdays": 3, "fr": 4, "fri": 4, "friday": 4, "fridays": 4, "sa": 5, "sat": 5, "saturday": 5, "saturdays": 5,
    "su": 6, "sun": 6, "sunday": 6, "sundays": 6,
}  # fmt: skip
_DAY = r"(?:mon(?:days?)?|tue(?:s(?:days?)?)?|wed(?:nesdays?)?|thu(?:rs?(?:days?)?)?|fri(?:days?)?|sat(?:urdays?)?" \
       r"|sun(?:days?)?|mo|tu|we|th|fr|sa|su)"  # fmt: skip
_TIME = r"(\d{1,2})(?:[:.h](\d{2}))?\s*(am|pm|h|uhr)?"
_SPAN = re.compile(
    rf"\b{_TIME}\s*(?:-|–|—|to|until|till|bis)\s*{_TIME}(?![\d:.]|\s*(?:km|m|min|l|kg|%|€|eur)\b)",
    re.IGNORECASE,
)
_DAYS = re.compile(rf"\b({_DAY})\b\.?(?:\s*(?:-|–|—|to|bis)\s*({_DAY})\b\.?)?", re.IGNORECASE)
_WEEK = re.compile(
    r"\b(?:daily|every ?day|all week|7 ?days?(?: a week)?|täglich|tous les jours|todos los días)\b", re.IGNORECASE
)
_WORKDAYS = re.compile(r"\b(?:week ?days|working days|werktags)\b", re.IGNORECASE)
_ALL_DAY = re.compile(
    r"\b(?:24 ?(?:h(?:ours?|rs?)?|/ ?7)|24 ?hrs?|round the clock|always open|never shuts|all night)\b", re.IGNORECASE
)
_SHUT = re.compile(r"\b(?:closed|shut|off|geschlossen|fermé|cerrado|chiuso|ruhetag)\b", re.IGNORECASE)


@dataclass(frozen=True, kw_only=True)
class PlaceWords:
    """What was read of a place."""

    kind: str = "other"  # key of KINDS
    offers: frozenset[str] = frozenset()
    hours: Hours | None = None  # None: not said
    hours_by: Mapping[str, Hours] = field(default_factory=dict)
    is_doubted: bool = False  # it may be dry, or is only there at times
    read: frozenset[str] = frozenset()  # which of these were said


def read_place(name: str, symbol: str, words: str) -> PlaceWords:
    """Return what a place's name, its symbol and the rest of its words say; what they do not say is not known."""
    text = f"{name}. {symbol}. {words}".lower()
    kind, offers = _kind_and_offers(_kind(symbol) or _kind(name) or _kind(words), text)
    hours, hours_by = read_hours_of(words if words.strip() else name)
    said = {"kind": kind, "offers": offers, "hours": hours is not None or hours_by, "note": words.strip()}
    return PlaceWords(
        kind=kind or "other",
        offers=offers,
        hours=hours,
        hours_by={offer: own for offer, own in hours_by.items() if offer in offers},
        is_doubted=bool(_DRY.search(text)),
        read=frozenset(key for key, value in said.items() if value),
    )


def _kind_and_offers(kind: str, text: str) -> tuple[str, frozenset[str]]:
    """Return the kind of a place and what it offers: what is said, and what is usual of its kind."""
    offers = frozenset(_offers(text))
    is_told = kind == "town" and bool(offers & FOOD_OFFERS)  # what is said of a town is more than what is usual
    if kind and not is_told:
        offers |= KINDS[kind].offers - _denied(text)
    if offers & {"water"} and _DOUBTFUL.search(text):
        offers = (offers - {"water"}) | {"doubtful_water"}
    return (guess_kind(offers) if not kind and offers else kind), offers


def _kind(text: str) -> str:
    """Return the kind that some words name, empty where they name none."""
    plain = text.lower().replace("_", " ").replace("-", " ")
    for kind, words in _KIND_WORDS:
        for found in re.finditer(rf"\b(?:{words})\b", plain):
            if not re.search(rf"\b{_NO}\s+(?:\w+\s+)?$", plain[: found.start()]):
                return kind
    return ""


def _offers(text: str) -> set[str]:
    plain = re.sub(rf"\b(?:{_OFFER_WORDS['bike_shop']})\b", " ", text)  # a bike shop sells no food
    found = {offer for offer, words in _OFFER_WORDS.items() if re.search(rf"\b(?:{words})\b", plain)}
    found |= {"bike_shop"} if plain != text else set()
    return found - _denied(text)


def _denied(text: str) -> set[str]:
    """Return what some words say is not to be had."""
    return {offer for offer, words in _OFFER_WORDS.items() if re.search(rf"\b{_NO}\s+(?:\w+\s+)?(?:{words})\b", text)}


def read_hours_of(text: str) -> tuple[Hours | None, dict[str, Hours]]:
    """Return the hours that some words state, and those that they state for one offer alone (``tap 24 h``)."""
    by_offer: dict[str, Hours] = {}
    main: Hours | None = None
    for sentence in re.split(r"[;\n|]|(?<=[a-z\d)])\.\s", text):
        hours = read_hours(sentence)
        if hours is None:
            continue
        offer = _named_offer(sentence)
        # a tap has a door only by itself; of what is served, the first hours are the place's
        if offer and ((offer not in SERVED and _other_offers(text, offer)) or main is not None):
            by_offer[offer] = _with(by_offer.get(offer), hours)
        else:
            main = _with(main, hours)
    return main, by_offer


def _named_offer(sentence: str) -> str:
    """Return the one offer that a sentence is about, empty where it is about several or none."""
    named = [offer for offer, words in _OFFER_WORDS.items() if re.search(rf"\b(?:{words})\b", sentence.lower())]
    return named[0] if len(named) == 1 else ""


def _other_offers(text: str, offer: str) -> bool:
    return bool(_offers(text.lower()) - {offer})


def _with(before: Hours | None, more: Hours) -> Hours:
    """Return hours of several sentences together: a day that one of them names is as it says."""
    if before is None:
        return more
    return tuple(new or old for old, new in zip(before, more, strict=True))


def read_hours(text: str) -> Hours | None:
    """Return the hours that a sentence states: ``Mo-Sa 06:30-13:00``, ``24 h``, ``9am to 5pm daily, closed Sun``."""
    if _ALL_DAY.search(text) and not _SPAN.search(_ALL_DAY.sub("", text)):
        return ALWAYS
    week = _Week()
    for token in _tokens(text):
        if not (token.days and token.start < week.taken):
            week.take(token, text)
    if not any(week.days):
        return None
    return tuple(() if day in week.shut else tuple(sorted(set(spans))) for day, spans in enumerate(week.days))


class _Week:
    """The hours of a week as a sentence is read."""

    def __init__(self) -> None:
        self.days: list[list[tuple[float, float]]] = [[] for _ in WEEKDAYS]
        self.shut: set[int] = set()
        self.taken = 0  # up to where words are spoken for
        self._named: list[int] = []
        self._stated = False
        self._at = 0

    def take(self, token: "_Token", text: str) -> None:
        """Take the next days, times or closure."""
        if token.days:
            # days that follow on from one another without times between them are a list
            listed = bool(self._named) and not self._stated and not re.search(r"\d", text[self._at : token.start])
            self._named, self._stated = [*(self._named if listed else ()), *token.days], False
        elif token.span is not None:
            for day in self._named or range(7):
                self.days[day].append(token.span)
            self._stated = True
        else:
            self._close(token.start, text)
        self._at = token.start

    def _close(self, start: int, text: str) -> None:
        """Take a closure: of the days after it, else of those before it without times."""
        after, self.taken = _days_after(text, start)
        self.shut |= set(after or (self._named if not self._stated else ()))
        self._named, self._stated = ([] if after else self._named), True


def _days_after(text: str, start: int) -> tuple[list[int], int]:
    """Return the days that follow a word at once, as in ``closed on Sundays``, and where they end."""
    match = _SHUT.match(text, start)
    rest = re.compile(r"(?:\s|:|,|on|am)*").match(text, match.end()) if match else None
    days = _DAYS.match(text, rest.end()) if rest else None
    return (_range(days), days.end()) if days else ([], 0)


@dataclass(frozen=True)
class _Token:
    """Days named, hours of a day, or (neither) that it is shut."""

    start: int
    days: tuple[int, ...] = ()
    span: tuple[float, float] | None = None


def _tokens(text: str) -> list[_Token]:
    """Return days, times and closures of a sentence in order."""
    found: list[_Token] = []
    spans = list(_SPAN.finditer(text))
    inside = [(match.start(), match.end()) for match in spans]

    def free(match: re.Match[str]) -> bool:
        return not any(a < match.end() and match.start() < b for a, b in inside)

    for match in spans:
        is_dated = bool(re.search(rf"{_DAY}\b[.,:\s]*$", text[: match.start()], re.IGNORECASE))
        span = _span(match, is_dated=is_dated)
        if span is not None:
            found.append(_Token(match.start(), span=span))
    found += [_Token(match.start(), days=tuple(_range(match))) for match in _DAYS.finditer(text) if free(match)]
    found += [_Token(match.start(), days=tuple(range(7))) for match in _WEEK.finditer(text)]
    found += [_Token(match.start(), days=tuple(range(5))) for match in _WORKDAYS.finditer(text)]
    found += [_Token(match.start()) for match in _SHUT.finditer(text)]
    return sorted(found, key=lambda token: token.start)


def _range(match: re.Match[str]) -> list[int]:
    first = _DAY_NAMES[match[1].lower()]
    last = _DAY_NAMES[match[2].lower()] if match[2] else first
    return list(range(first, last + 1)) if first <= last else [*range(first, 7), *range(last + 1)]


def _span(match: re.Match[str], *, is_dated: bool) -> tuple[float, float] | None:
    """Return opening and closing time of a span, None where it is no times of day; after a day's name it is. [s]"""
    first, last = (match[1], match[2], match[3]), (match[4], match[5], match[6])
    has_colon = bool(first[1] or last[1])
    has_mark = bool(first[2] or last[2])
    looks_so = int(last[0]) > max(12, int(first[0]))  # two bare numbers: morning to evening
    if not any((has_colon, has_mark, is_dated, looks_so)):
        return None
    opens = _seconds(first, last[2] if not first[2] and (last[2] or "").lower() == "am" else first[2])
    shuts = _seconds(last, last[2])
    if opens is None or shuts is None or opens == shuts:
        return None
    return opens, shuts if shuts > opens else shuts + DAY


def _seconds(parts: tuple[str, str | None, str | None], mark: str | None) -> float | None:
    hour, minute = int(parts[0]), int(parts[1] or 0)
    half = (mark or "").lower()
    if half in ("am", "pm"):
        if hour > 12:
            return None
        hour = hour % 12 + (12 if half == "pm" else 0)
    return None if hour > 24 or minute > 59 or (hour == 24 and minute) else hour * 3600.0 + minute * 60.0
