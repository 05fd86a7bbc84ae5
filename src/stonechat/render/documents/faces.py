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
def held_by(name: str) -> frozenset[int]:
    """Return every character that a face holds."""
    with resources.as_file(FOLDER.joinpath(name)) as path, TTFont(path, lazy=True) as face:
        return frozenset(face.getBestCmap())


def _is_first(name: str) -> bool:
    """Tell whether all is set in a face as far as it goes."""
    return not name.startswith("other") and "-ext-" not in name


def _rare(texts: Iterable[str]) -> set[int]:
    """Return the characters of some texts that the first faces do not all hold."""
    used = {ord(mark) for text in texts for mark in text if ord(mark) > 0x7E}
    return used.difference(_UNSEEN).difference(frozenset.intersection(*map(held_by, filter(_is_first, files()))))


def needed(texts: Iterable[str]) -> tuple[str, ...]:
    """Return the files of the faces that some texts are set in: a print reads no others, which would take seconds."""
    rare = _rare(texts)
    return tuple(name for name in files() if _is_first(name) or (rare and not rare.isdisjoint(held_by(name))))


def missing(texts: Iterable[str]) -> str:
    """Return the characters of some texts that no face holds, each once, in the order of their numbers."""
    rare = _rare(texts)
    return "".join(map(chr, sorted(rare.difference(*map(held_by, files()) if rare else ()))))


def style(names: Iterable[str]) -> str:
    """Return the rules that make faces known to a print: `text` and `figures`, `-ext` of both, and the others."""
    rules = []
    for name in names:
        family, _, weight = name.removesuffix(".woff2").rpartition("-")
        if weight.isdigit() and len(weight) == 3:
            rules.append(f'@font-face {{ font-family: "{family}"; src: url("{name}"); font-weight: {weight}; }}')
        else:  # a face that stands in has one weight, and is called as its file
            rules.append(f'@font-face {{ font-family: "{name.removesuffix(".woff2")}"; src: url("{name}"); }}')
    return "\n".join(rules)


def others(names: Iterable[str]) -> str:
    """Return the families that stand in, each with a comma before it, for a style sheet."""
    return "".join(f', "{name.removesuffix(".woff2")}"' for name in names if name.startswith("other"))
