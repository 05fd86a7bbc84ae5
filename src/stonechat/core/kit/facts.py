"""Figures that a kind of thing may have besides mass and size: food energy, battery, warmth, light.

Each is declared here once; document, form, table and page follow from it. A figure that nobody gave is not known.
"""

import re
from dataclasses import dataclass


@dataclass(frozen=True, kw_only=True)
class Fact:
    """One such figure, of one thing."""

    key: str
    name: str
    unit: str
    low: float
    high: float
    headers: str  # pattern of column headers that mean it
    units: frozenset[str]  # what may stand behind a figure in a cell
    in_names: str  # pattern by which names tell it; the figure is the group `value`
    of: frozenset[str]  # categories of things that may have it; those of "other" may have any


def _units(words: str) -> frozenset[str]:
    return frozenset({"", *words.split()})


def _of(categories: str) -> frozenset[str]:
    return frozenset({"other", *categories.split()})


FACTS: dict[str, Fact] = {
    fact.key: fact
    for fact in (
        Fact(key="kcal", of=_of("food"), units=_units("kcal kcals cal"),
             name="food energy", unit="kcal", low=0.0, high=20_000.0,
             headers=r"\bk?cals?\b|calories|food energy", in_names=r"(?P<value>\d[\d.,]*)\s*kcal\b"),
        Fact(key="mah", of=_of("power navigation"), units=_units("mah ah"),
             name="battery charge", unit="mAh", low=1.0, high=200_000.0,
             headers=r"\bm?ah\b|battery capacity", in_names=r"(?P<value>\d[\d.,]*)\s*(?P<unit>m?ah)\b"),
        Fact(key="wh", of=_of("power navigation"), units=_units("wh"),
             name="battery energy", unit="Wh", low=0.01, high=2_000.0,
             headers=r"\bwh\b|watt.?hours",
             in_names=r"(?P<value>\d[\d.,]*)\s*wh\b"),
        Fact(key="volts", of=_of("power navigation"), units=_units("v"),
             name="voltage of its mAh", unit="V", low=1.0, high=60.0,
             headers=r"\bvolts?\b|\bv\b$", in_names=r"(?P<value>\d+(?:[.,]\d+)?)\s*v\b"),
        Fact(key="watts", of=_of("power navigation"), units=_units("w watt watts"),
             name="power that it draws, or gives", unit="W", low=0.005, high=300.0,
             headers=r"\bwatts?\b|\bw\b$", in_names=r"(?<![\w.,])(?P<value>\d+(?:[.,]\d+)?)\s*w(?:atts?)?\b"),
        Fact(key="ports", of=_of("power"), units=_units("ports"),
             name="outlets", unit="ports", low=1.0, high=10.0,
             headers=r"\bports?\b|\boutlets?\b", in_names=r"(?P<value>[1-9])[\s-]*(?:x\s*)?(?:ports?|outlets?)\b"),
        Fact(key="share_out", of=_of("power"), units=_units("%"),
             name="share that comes out of a bank", unit="%", low=30.0, high=100.0,
             headers=r"bank efficiency|efficiency of the bank", in_names=r"(?P<value>\d{2,3})\s*% efficien"),
        Fact(key="passes", of=_of("power"), units=_units(""),
             name="gives while it is charged: 1 yes, 0 no", unit="", low=0.0, high=1.0,
             headers=r"pass.?through", in_names=r"(?!)(?P<value>\d)"),
        Fact(key="lumens", of=_of("power"), units=_units("lm lumens lumen"),
             name="light", unit="lm", low=0.5, high=20_000.0,
             headers=r"\blm\b|lumens?",
             in_names=r"(?P<value>\d[\d.,]*)\s*(?:lm|lumens?)\b"),
        Fact(key="run_h", of=_of("power navigation"), units=_units("h hrs hr hours"),
             name="runs for", unit="h", low=0.05, high=5_000.0,
             headers=r"^(run|burn|runtime|run time|hours)\b",
             in_names=r"^(?!.*\bdries in\b).*?(?P<value>\d[\d.,]*)\s*(?:h|hrs?|hours)\b"),
        Fact(key="flow", of=_of("hygiene"), units=_units("ml/min"),
             name="filters", unit="ml/min", low=20.0, high=5_000.0,
             headers=r"\bml ?/ ?min\b|flow", in_names=r"(?P<value>\d[\d.,]*)\s*ml\s?/\s?min\b"),
        Fact(key="comfort", of=_of("sleep"), units=_units("° °c c"),
             name="comfort temperature", unit="°C", low=-60.0, high=35.0,
             headers=r"comfort|t.?comf", in_names=r"comfort[^\d+-]{0,4}(?P<value>[+-]?\d+(?:[.,]\d+)?)"),
        Fact(key="limit", of=_of("sleep"), units=_units("° °c c"),
             name="limit temperature", unit="°C", low=-60.0, high=35.0,
             headers=r"\blimit\b|t.?lim", in_names=r"limit[^\d+-]{0,4}(?P<value>[+-]?\d+(?:[.,]\d+)?)"),
        Fact(key="rated", of=_of("sleep"), units=_units("° °c c"),
             name="temperature on the label, if it does not say which", unit="°C",
             low=-60.0, high=35.0, headers=r"temp(erature)? rating|rated to|°c",
             in_names=r"^(?!.*(?:comfort|limit)).*?(?:rated[^\d+-]{0,4}(?P<value>[+-]?\d+(?:[.,]\d+)?)|"
                      r"(?<![\w.,])(?P<other>[+-]?\d+(?:[.,]\d+)?)\s?°\s?c?\b|(?<![\w.,])(?P<bare>[+-]\d+)\s?c\b)"),
        Fact(key="fill_g", of=_of("sleep clothes"), units=_units("g"),
             name="fill, down or fibre", unit="g", low=5.0, high=1_500.0,
             headers=r"\b(fill|down)( weight| mass)?\b[\s(]*g?\)?$",
             in_names=r"(?P<value>\d[\d.,]*)\s*g\s+(?:of\s+)?(?:fill|down)\b|"
                      r"fill\s+(?P<other>\d[\d.,]*)\s*g\b"),
        Fact(key="loft", of=_of("sleep clothes"), units=_units("fp cuin in³"),
             name="fill power", unit="in³/oz", low=300.0, high=1_100.0,
             headers=r"fill.?power|\bfp\b|cuin|loft",
             in_names=r"(?P<value>\d{3,4})\s*(?:fp|cuin|fill power|fill-power|loft)\b"),
        Fact(key="clo", of=_of("clothes"), units=_units("clo"),
             name="warmth when worn", unit="clo", low=0.01, high=6.0,
             headers=r"\bclo\b", in_names=r"(?P<value>\d+(?:[.,]\d+)?)\s*clo\b"),
        Fact(key="mat_cm", of=_of("sleep"), units=_units("cm"), name="length of a mat", unit="cm", low=30.0, high=230.0,
             headers=r"mat length|length of (the )?mat", in_names=r"(?=.*\b(?:mat|pad)\b).*?(?P<value>\d{2,3})\s*cm\b"),
        Fact(key="air", of=_of("clothes"), units=_units("l/m²s l/m2s"),
             name="air that passes", unit="l/m²s", low=0.1, high=1_000.0,
             headers=r"air.?perm|permeability",
             in_names=r"(?P<value>\d+(?:[.,]\d+)?)\s*l/\(?m[²2]\s?s\)?"),
        Fact(key="dries_h", of=_of("clothes"), units=_units("h hrs hr hours"),
             name="dries when worn in", unit="h", low=0.1, high=72.0,
             headers=r"\bdries\b|drying time|dry time",
             in_names=r"\bdries in (?P<value>\d+(?:[.,]\d+)?)\s*(?:h|hrs?|hours)\b"),
        Fact(key="wet_keeps", of=_of("clothes sleep"), units=_units("%"),
             name="warmth kept when wet", unit="%", low=5.0, high=100.0,
             headers=r"(warm|keeps|works)\b.*\b(wet|damp)\b",
             in_names=r"(?P<value>\d{1,3})\s*%\s+(?:when |if )?(?:wet|damp)\b"),
        Fact(key="r_value", of=_of("sleep"), units=_units("r"),
             name="R-value", unit="R", low=0.05, high=15.0,
             headers=r"\br.?values?\b|^r$",
             in_names=r"\br[\s-]?(?:value)?\s?(?P<value>\d+(?:[.,]\d+)?)\b"),
    )
}  # fmt: skip
_SLEEP = frozenset(
    {"comfort", "limit", "rated", "r_value", "mat_cm"}
)  # told by names of things one sleeps in or on only


def figure_of(text: str) -> float:
    """Return a figure with thousands apart or a decimal comma.

    Parameters
    ----------
    text : str
        Digits, dots and commas, with a sign or not.

    Returns
    -------
    value : float
        Three digits behind a single comma are thousands. [1]

    Examples
    --------
    >>> figure_of("21,000"), figure_of("4,5"), figure_of("10.000,5")
    (21000.0, 4.5, 10000.5)
    """
    digits = text.strip().strip(".,")
    if re.fullmatch(r"[+-]?\d{1,3}(,\d{3})+(\.\d+)?", digits):
        return float(digits.replace(",", ""))
    if re.fullmatch(r"[+-]?\d{1,3}(\.\d{3})+,\d+", digits):
        return float(digits.replace(".", "").replace(",", "."))
    return float(digits.replace(",", "."))


def facts_in(name: str, *, of_sleep: bool) -> tuple[tuple[str, float], ...]:
    """Return the figures that a name tells.

    Parameters
    ----------
    name : str
        As riders call it.
    of_sleep : bool
        Whether it is something to sleep in or on, whose degrees are its warmth.

    Returns
    -------
    facts : tuple of tuple of str and float
        Key of FACTS and figure in its unit; what is out of range is left out.

    Examples
    --------
    >>> facts_in("Power bank 10 Ah", of_sleep=False)
    (('mah', 10000.0),)
    >>> facts_in("quilt comfort -3 °C", of_sleep=True)
    (('comfort', -3.0),)
    """
    plain = name.lower().replace("−", "-")
    found = []
    for fact in FACTS.values():
        match = re.search(fact.in_names, plain) if of_sleep or fact.key not in _SLEEP else None
        if match is None:
            continue
        told = match.groupdict()
        value = figure_of(next(told[key] for key in ("value", "other", "bare") if told.get(key)))
        value *= 1000.0 if told.get("unit") == "ah" else 1.0
        if fact.low <= value <= fact.high:
            found.append((fact.key, value))
    return tuple(found)
