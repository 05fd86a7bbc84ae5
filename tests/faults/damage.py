"""Files and forms as they come on a bad day: bent, cut, doubled, with words that mean something to somebody."""

import io
import json
import random
import zipfile
from collections.abc import Callable
from dataclasses import dataclass
from urllib.parse import parse_qsl, urlsplit

import lxml.html

# what trips programs over: figures beyond sense, empty and endless words, other programs' marks
WORDS = [
    "", " ", "0", "-0", "-1", "1e999", "1e-320", "nan", "inf", "99999999999999999999", "0x10", "1_000", "٣", "½",
    "12:60", "25:00", "2027-02-30", "9999-12-31", "-5", "null", "None", "true", "[]", "{}", "'", '"', "<b>", "&amp;",
    "\x00", "\x1b[2J", "\u202e", "\ud800", "\ufffe", "é" * 50, "x" * 5_000, "a" * 81, "../..", "%00", "=1+1", "\t=1",
    "home", "bold", "drops", "dry", "Etc/GMT+99", "; drop table plan", "{{7*7}}", "${7}", "\r\nSet-Cookie: a=b", "🚴",
]  # fmt: skip
_TOKENS = [word.encode("utf-8", "surrogatepass") for word in WORDS] + [
    b"<", b">", b"</", b"<!--", b"]]>", b"<!DOCTYPE a>", b"&#0;", b"&#x202e;", b"{", b"}", b"[", b"]", b",", b";", b":",
    b"\xff", b"\xfe\xff", b"\xef\xbb\xbf", b"\n", b"\r", b"\t", b"NaN", b"Infinity", b"-Infinity", b"1e400", b"\\ud800",
]  # fmt: skip


def damaged(data: bytes, chance: random.Random) -> bytes:
    """Return a file with one to four faults."""
    bent = bytearray(data)
    for _ in range(chance.randint(1, 4)):
        _FAULTS[chance.randrange(len(_FAULTS))](bent, chance)
    return bytes(bent)


def damaged_inside(packed: bytes, chance: random.Random) -> bytes:
    """Return a packed workbook with a fault in one of its parts, so that the packing itself is sound."""
    out = io.BytesIO()
    with zipfile.ZipFile(io.BytesIO(packed)) as source, zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as target:
        names = source.namelist()
        wrong = chance.choice(names)
        for name in names:
            data = source.read(name)
            target.writestr(name, damaged(data, chance) if name == wrong else data)
    return out.getvalue()


def _flip(data: bytearray, chance: random.Random) -> None:
    if data:
        data[chance.randrange(len(data))] ^= 1 << chance.randrange(8)


def _cut(data: bytearray, chance: random.Random) -> None:
    del data[chance.randrange(len(data) + 1) :]


def _drop(data: bytearray, chance: random.Random) -> None:
    start = chance.randrange(len(data) + 1)
    del data[start : start + chance.randint(1, 200)]


def _double(data: bytearray, chance: random.Random) -> None:
    start = chance.randrange(len(data) + 1)
    data[start:start] = data[start : start + chance.randint(1, 400)]


def _insert(data: bytearray, chance: random.Random) -> None:
    start = chance.randrange(len(data) + 1)
    data[start:start] = chance.choice(_TOKENS)


def _overwrite(data: bytearray, chance: random.Random) -> None:
    token, start = chance.choice(_TOKENS), chance.randrange(len(data) + 1)
    data[start : start + len(token)] = token


def _figure(data: bytearray, chance: random.Random) -> None:
    """Put a word in the place of a run of digits."""
    digits = [k for k, byte in enumerate(data[:100_000]) if 48 <= byte <= 57]
    if digits:
        start = end = chance.choice(digits)
        while end < len(data) and 46 <= data[end] <= 57:
            end += 1
        data[start:end] = chance.choice(_TOKENS)


_FAULTS: list[Callable[[bytearray, random.Random], None]] = [
    _flip, _flip, _cut, _drop, _double, _insert, _overwrite, _figure, _figure,
]  # fmt: skip


def damaged_json(data: bytes, chance: random.Random) -> bytes:
    """Return a document that is sound JSON with a wrong value somewhere in it."""
    raw = json.loads(data)
    for _ in range(chance.randint(1, 3)):
        place = raw
        for _ in range(chance.randint(0, 6)):
            keys = list(place) if isinstance(place, dict) else range(len(place)) if isinstance(place, list) else []
            inner = [key for key in keys if isinstance(place[key], dict | list) and place[key]]
            if not inner:
                break
            place = place[chance.choice(inner)]
        keys = list(place) if isinstance(place, dict) else list(range(len(place)))
        key = chance.choice(keys)
        if chance.random() < 0.2:
            del place[key]
        else:
            values = [*WORDS, None, True, -1, 10**30, 1e308, [], {}, [[]], {"a": 1}]
            place[key] = chance.choice(values)
        if not raw:
            break
    return json.dumps(raw).encode("utf-8", "surrogatepass")


@dataclass(frozen=True, kw_only=True)
class Form:
    """A form of a page, as a browser would send it."""

    address: str
    fields: tuple[tuple[str, str], ...]
    choices: tuple[str, ...]  # of its selects and buttons


def forms_of(page: str) -> list[Form]:
    """Return every form of a page that sends a change."""
    found = []
    for form in lxml.html.fromstring(page).iter("form"):
        if (form.get("method") or "get").lower() != "post":
            continue
        fields, choices = [], []
        for field in form.iter("input", "select", "textarea", "button"):
            name = field.get("name")
            if field.tag == "select":
                options = [option.get("value") or "" for option in field.iter("option")]
                choices += options
                value = next((o.get("value") or "" for o in field.iter("option") if "selected" in o.attrib), "")
            else:
                value = field.get("value") or (field.text or "" if field.tag == "textarea" else "")
            if name and field.get("type") != "file" and (field.get("type") != "checkbox" or "checked" in field.attrib):
                fields.append((name, value))
        found.append(Form(address=form.get("action") or "", fields=tuple(fields), choices=tuple(choices)))
    return found


def damaged_form(form: Form, choices: list[str], chance: random.Random) -> tuple[str, list[tuple[str, str]]]:
    """Return address and fields of a form with wrong words, a field too few or one twice."""
    fields = list(form.fields)
    kept = [k for k, (name, _) in enumerate(fields) if name != "revision"] or [0]
    for _ in range(chance.randint(1, 3)):
        if not fields:
            break
        k = chance.choice([k for k in kept if k < len(fields)] or [0])
        how = chance.random()
        if how < 0.1:
            del fields[k]
        elif how < 0.15:
            fields.append(fields[k])
        elif how < 0.45 and choices:
            fields[k] = (fields[k][0], chance.choice(choices))
        else:
            fields[k] = (fields[k][0], chance.choice(WORDS))
    query = parse_qsl(urlsplit(form.address).query)
    if query and chance.random() < 0.1:
        return form.address.partition("?")[0] + "?" + query[0][0] + "=" + "zz", fields
    return form.address, fields
