"""The faces that the prints are set in, and which characters none of them holds."""

from collections.abc import Iterable
from functools import cache
from importlib import resources

from fontTools.ttLib import TTFont

FOLDER = resources.files("stonechat").joinpath("web/static/vendor")
# what is seen in no face: blanks, joiners, choices of a variant
_UNSEEN = frozenset({0x20, 0xA0, 0x200B, 0x200C, 0x200D, 0x200E, 0x200F, 0x202F, 0x2009, *range(0xFE00, 0xFE10)})


@cache
def files() -> tuple[str, ...]:
    """Return the files of all faces: text and figures, then what stands in for what they lack."""
    names = sorted(entry.name for entry in FOLDER.iterdir() if entry.name.endswith(".woff2"))
    return tuple(sorted(names, key=lambda name: name.startswith("other")))


@cache
def covered() -> frozenset[int]:
    """Return every character that some face holds."""
    found: set[int] = set()
    for name in files():
        with resources.as_file(FOLDER.joinpath(name)) as path, TTFont(path, lazy=True) as face:
            found.update(face.getBestCmap())
    return frozenset(found)


def missing(texts: Iterable[str]) -> str:
    """Return the characters of some texts that no face holds, each once, in the order of their numbers."""
    used = {mark for text in texts for mark in text if ord(mark) > 0x7E}
    return "".join(sorted(mark for mark in used if ord(mark) not in covered() and ord(mark) not in _UNSEEN))


@cache
def style() -> str:
    """Return the rules that make the faces known to a print: `text` and `figures`, `-ext` of both, and the others."""
    rules = []
    for name in files():
        family, _, weight = name.removesuffix(".woff2").rpartition("-")
        if weight.isdigit() and len(weight) == 3:
            rules.append(f'@font-face {{ font-family: "{family}"; src: url("{name}"); font-weight: {weight}; }}')
        else:  # a face that stands in has one weight, and is called as its file
            rules.append(f'@font-face {{ font-family: "{name.removesuffix(".woff2")}"; src: url("{name}"); }}')
    return "\n".join(rules)


@cache
def others() -> str:
    """Return the families that stand in, as a list for a style sheet."""
    return ", ".join(f'"{name.removesuffix(".woff2")}"' for name in files() if name.startswith("other"))
