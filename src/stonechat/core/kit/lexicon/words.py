"""Words of things in one spelling: plurals, hyphens, British and American English, figures and units taken off."""

import re
import unicodedata


def words_in(text: str) -> frozenset[str]:
    """Return the words of a text as a set.

    Parameters
    ----------
    text : str
        With white space between.

    Returns
    -------
    words : frozenset of str
        Each once.
    """
    return frozenset(text.split())


# spelled otherwise, or another word for the same
_SAME = {
    "tire": "tyre", "tires": "tyre", "bivy": "bivvy", "bivi": "bivvy", "bivouac": "bivvy", "fiber": "fibre",
    "sanitizer": "sanitiser", "sanitizing": "sanitising", "moisturizer": "moisturiser", "moisturizing":
    "moisturising", "vulcanizing": "vulcanising", "sterilizing": "sterilising", "organizer": "organiser",
    "organizers": "organiser", "pajama": "pyjama", "pajamas": "pyjama", "license": "licence", "adaptor": "adapter",
    "adaptors": "adapter", "flashlight": "torch", "flashlights": "torch", "diaper": "nappy", "diapers": "nappy",
    "grey": "gray", "colour": "color", "metre": "meter", "litre": "liter", "batt": "battery", "batts": "battery",
    "viz": "vis", "dyno": "dynamo", "synth": "synthetic", "insul": "insulated", "wp": "waterproof", "h2o": "water",
    "handlebar": "bar", "handlebars": "bar", "microfiber": "microfibre", "aluminum": "aluminium", "meds": "med",
    "dehydr": "dehydrated", "disk": "disc", "fleecy": "fleece", "sleeved": "sleeve", "sleeves": "sleeve",
    "fingered": "finger", "rechargable": "rechargeable", "camping": "camp", "inflateable": "inflatable", "tshirts":
    "tshirt", "zipties": "ziptie", "derailer": "derailleur", "mitten": "mitts", "mittens": "mitts", "mitt": "mitts",
    "nbr": "number", "bidons": "bidon", "lamps": "lamp", "torches": "torch", "trousers": "trouser",
}  # fmt: skip
# what says nothing of a thing
_EMPTY = words_in(
    """
    a an the my of and or to on in my own some each per total ca approx incl no nr for with from in against
    used when if as
    """
)
# what ends in s and is no plural, or is another thing than its singular
_AS_IT_IS = words_in(
    """
    boots shorts tights glasses lens lenses pants rolls wraps bibs cards gas gps canvas compass brass press
    mattress dress less plus bus cross hexagons contacts longs nuts specs matches readers pjs gummies papers
    tools goggles chews spares waves lights briefs
    """
)
_SHORT = (
    (r"\bl\s*/\s*s\b|\bls\b|\blong[- ]sleeved?\b", "long sleeve"),
    (r"\bs\s*/\s*s\b|\bss\b|\bshort[- ]sleeved?\b", "short sleeve"),
    (r"\bw\s*/\s*o\b", " without "),
    (r"\bw\s*/\s*|\bw\s+(?=[a-z])", " with "),
    (r"\bt[- ]shirts?\b", "tshirt"),
    (r"\bi\.?d\.?\b", "id"),
    (r"\bco[₂2]\b", "co2"),
    (r"\be-(?=\w)", "e "),
)
# figures with their unit say how much, not what
_FIGURES = re.compile(
    r"""(?<![\w])[~≈+±-]?\d+(?:[.,/]\d+)*\s?(?:mah|wh|w|v|a|kg|g|gr|gram|grams|mg|oz|lbs?|ml|cl|dl|l|liters?|litres?|
    mm|cm|m|km|inch|in|"|”|'|x|°\s?[cf]?|c|f|k|lm|lumens?|lux|h|hrs?|hours?|min|s|sp|spd|speed|p|pcs?|pairs?|person|
    pack|day|days|%|months?|functions?|fill|fp|cuin|d|den|mph)?(?![\w])|\br\s?\d+(?:[.,]\d+)?\b|\bx\s?\d+\b|
    \b\d+\s?x\s?\d*\b|\bspf\s?\d+\b(?!\w)|\b\d+c\b""",
    re.VERBOSE,
)
_KEPT_FIGURES = re.compile(r"\b(co2|t10|t25|t30|mp3|aa|aaa|cr\d{4}|lr44|18650|21700|m[3-8]|360|ffp2|1st|spf)\b")


def stem(word: str) -> str:
    """Return a word in the singular, in British spelling.

    Parameters
    ----------
    word : str
        One word in lower case.

    Returns
    -------
    stem : str
        Alike for all ways of writing it.

    Examples
    --------
    >>> [stem(word) for word in ("tires", "batteries", "patches", "glasses", "socks")]
    ['tyre', 'battery', 'patch', 'glasses', 'sock']
    """
    word = _SAME.get(word, word)
    if word in _AS_IT_IS or len(word) <= 3 or word.endswith(("ss", "us", "is")):
        return word
    if word.endswith("ies") and len(word) > 4:
        return word[:-3] + "y"
    if word.endswith(("ches", "shes", "xes", "sses", "zes")):
        return word[:-2]
    if word.endswith("s"):
        return _SAME.get(word[:-1], word[:-1])
    return word


def plain(text: str) -> str:
    """Return a name in lower case without accents, usual abbreviations written out, figures with units taken off.

    Parameters
    ----------
    text : str
        As riders type it.

    Returns
    -------
    plain : str
        Words and the signs between them.

    Examples
    --------
    >>> plain("L/S base-layer (180 g)").split()
    ['long', 'sleeve', 'base', 'layer', '(', ')']
    """
    folded = unicodedata.normalize("NFKD", text.casefold().replace("ß", "ss"))
    folded = "".join(char for char in folded if not unicodedata.combining(char))
    for pattern, words in _SHORT:
        folded = re.sub(pattern, words, folded)
    folded = re.sub(r"\s[-–—]\s", " ; ", folded)  # a dash between spaces parts what it is from what is said of it
    folded = _FIGURES.sub(lambda match: match[0] if _KEPT_FIGURES.search(match[0]) else " ", folded)
    return re.sub(r"[\u2010-\u2015_\-]", " ", folded).replace("’", "'").replace("'s ", " ")


def tokens_of(text: str) -> tuple[str, ...]:
    """Return the words of a plain text, each in one spelling.

    Parameters
    ----------
    text : str
        From `plain`.

    Returns
    -------
    tokens : tuple of str
        In order; what says nothing is left out.

    Examples
    --------
    >>> tokens_of(plain("2 x Tire levers"))
    ('tyre', 'lever')
    """
    words = re.findall(r"[a-z][a-z0-9]*|\d{4,5}|\d(?=st\b)st", text)
    return tuple(stem(word) for word in words if word not in _EMPTY and len(word) > 1)
