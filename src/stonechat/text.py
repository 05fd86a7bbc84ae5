"""Text from outside, made fit to be kept: one cleaning for forms, files, pastes and JSON. And names in a sentence.

What is left can be held by the database (no NUL), written as XML 1.0 and as JSON, and reads on the screen in the order
in which it stands (no overriding of direction: Unicode Standard Annex 9; its embeddings and isolates go too, for in a
name of 80 letters they only serve to deceive). Letters are composed (NFC), so that things alike compare alike.
"""

import unicodedata
from collections.abc import Iterable
from typing import Any

_NEVER = frozenset("\ufeff\u202a\u202b\u202c\u202d\u202e\u2066\u2067\u2068\u2069")  # mark of order, turns of direction
_UNFIT = ((0x00, 0x1F), (0x7F, 0x9F), (0xD800, 0xDFFF), (0xFDD0, 0xFDEF))  # controls, half letters, no characters
_BREAKS = frozenset("\r\v\f\x85\u2028\u2029")
_DEEPEST = 60  # levels of nesting that a JSON document of ours could have


def clean_text(text: str) -> str:
    """Return text of one line: breaks and tabs become blanks."""
    return " ".join(clean_lines(text).replace("\t", " ").split("\n")).strip()


def clean_lines(text: str) -> str:
    """Return text of several lines, with tabs; every way to break a line becomes the usual one."""
    if text.isascii() and text.isprintable():
        return text
    plain = text.replace("\r\n", "\n")
    kept = "".join("\n" if mark in _BREAKS else mark for mark in plain if mark in _BREAKS or _is_fit(mark))
    return unicodedata.normalize("NFC", kept)


def _is_fit(mark: str) -> bool:
    if mark in "\n\t":
        return True
    code = ord(mark)
    if code & 0xFFFE == 0xFFFE or mark in _NEVER:
        return False
    return not any(first <= code <= last for first, last in _UNFIT)


def clean_json(value: Any, level: int = 0) -> Any:
    """Return what came as JSON with every text in it cleaned, names too; `ValueError` where it nests without end."""
    if level > _DEEPEST:
        raise ValueError("nested too deeply")
    if isinstance(value, str):
        return clean_lines(value)
    if isinstance(value, list):  # the long ones are figures, which are as they are
        return [clean_json(part, level + 1) if isinstance(part, str | list | dict) else part for part in value]
    if isinstance(value, dict):
        return {clean_lines(name): clean_json(part, level + 1) for name, part in value.items()}
    return value


def capital(words: str) -> str:
    """Return words with their first letter large, as a sentence begins.

    >>> capital("chain of the M bike"), capital("")
    ('Chain of the M bike', '')
    """
    return words[:1].upper() + words[1:]


def listed(names: Iterable[str], most: int) -> str:
    """Return names as they stand in a sentence, the first of them and how many more there are.

    >>> listed(["pump", "plugs", "tube"], 2), listed(["pump", "plugs"], 2), listed([], 2)
    ('pump, plugs and 1 more', 'pump, plugs', '')
    """
    known = list(names)
    more = f" and {len(known) - most} more" if len(known) > most else ""
    return ", ".join(known[:most]) + more
