"""Figures as people type them: decimal commas, thin spaces, an attached unit."""

import math
import re
from collections.abc import Mapping
from difflib import get_close_matches

from stonechat.errors import InvalidInput

_PATTERN = re.compile(r"^([+-]?\d[\d.,' ]*|[+-]?[.,]\d+)\s*([^\d\s].*)?$")
_SPACES = str.maketrans({"\u00a0": " ", "\u2009": " ", "\u202f": " ", "−": "-"})
UNITS: dict[str, dict[str, float]] = {  # unit as typed, to the unit of the field
    "g": {"g": 1.0, "kg": 1000.0, "oz": 28.349523125, "lb": 453.59237},
    "ml": {"ml": 1.0, "l": 1000.0, "cl": 10.0, "in³": 16.387064, "in3": 16.387064, "cm³": 1.0, "cm3": 1.0},
    "mm": {"mm": 1.0, "cm": 10.0, "m": 1000.0, "in": 25.4},
    "kg": {"kg": 1.0, "g": 0.001, "lb": 0.45359237},
    "l": {"l": 1.0, "ml": 0.001},
    "km": {"km": 1.0, "m": 0.001, "mi": 1.609344},
    "m": {"m": 1.0, "km": 1000.0, "ft": 0.3048},
    "km/h": {"km/h": 1.0, "mph": 1.609344, "m/s": 3.6},
    "h": {"h": 1.0, "min": 1.0 / 60.0},
    "min": {"min": 1.0, "h": 60.0, "s": 1.0 / 60.0},
}


def parse_number(text: str, *, unit: str = "") -> float:
    """Return a typed figure in the wanted unit; refuse what is not a figure."""
    cleaned = text.translate(_SPACES).strip()
    match = _PATTERN.match(cleaned)
    if match is None:
        raise InvalidInput(f"“{text.strip()[:40]}” is not a number.")
    value = _digits(match[1])
    typed = (match[2] or "").strip()
    if typed and typed != unit:
        factor = UNITS.get(unit, {}).get(typed.lower())
        if factor is None:
            known = ", ".join(UNITS.get(unit, {})) or unit or "no unit"
            raise InvalidInput(f"“{typed[:20]}” is no unit for this; use {known}.")
        value *= factor
    return value


def words_from_list(text: str, known: Mapping[str, str], what: str) -> frozenset[str]:
    """Return the keys of words with commas between them; a word that is not known is refused with a near one."""
    found = set()
    for word in re.split(r"[,;]", text):
        plain = word.strip().lower()
        if not plain:
            continue
        if plain not in known:
            near = get_close_matches(plain, known, n=1, cutoff=0.5)
            advice = f" Did you mean “{near[0]}”?" if near else ""
            raise InvalidInput(f"“{word.strip()[:40]}” is no {what} that is known here.{advice}")
        found.add(known[plain])
    return frozenset(found)


def _digits(text: str) -> float:
    compact = text.replace(" ", "").replace("'", "")
    if "," in compact and "." in compact:
        decimal = max(compact.rfind(","), compact.rfind("."))
        whole = compact[:decimal].replace(",", "").replace(".", "")
        compact = whole + "." + compact[decimal + 1 :]
    elif "," in compact:
        compact = compact.replace(",", ".")
    try:
        value = float(compact)
    except ValueError:
        raise InvalidInput(f"“{text[:40]}” is not a number.") from None
    if not math.isfinite(value):
        raise InvalidInput(f"“{text[:40]}” is not a finite number.")
    return value
