"""The debrief: thing by thing with keys, bags, words, and the report of it."""

from dataclasses import dataclass

from stonechat.core.diary.debrief import BAG_STATES, FATES, USES, BagVerdict, Verdict
from stonechat.core.kit.item import Item
from stonechat.services.debrief import things_to_say
from stonechat.services.mending import things_worth
from stonechat.web.desk import Desk
from stonechat.web.forms.binding import BoundForm
from stonechat.web.forms.diary import WordsForm

KEYS = {  # key of the keyboard to what it says: field, value, words
    "u": ("use", "some", "used"), "n": ("use", "no", "not used"), "o": ("use", "once", "used once"),
    "d": ("use", "daily", "used daily"), "l": ("fate", "lost", "lost"), "b": ("fate", "broken", "broken"),
    "m": ("fate", "moved", "moved"), "h": ("fate", "", "came home"),
}  # fmt: skip


@dataclass(frozen=True, kw_only=True)
class ThingRow:
    """A thing, and what is said of it."""

    id: str
    name: str
    place: str
    verdict: Verdict
    judged: str  # insurance or waste, where it was not used
    noted: str  # what notes of the way say of it
    is_counted: bool


@dataclass(frozen=True, kw_only=True)
class BagRow:
    """A bag, and what is said of it."""

    id: str
    name: str
    verdict: BagVerdict


@dataclass(frozen=True, kw_only=True)
class DebriefView:
    """The part of the debrief."""

    rows: tuple[ThingRow, ...]
    said: int
    bags: tuple[BagRow, ...]
    uses: dict[str, str]
    fates: dict[str, str]
    states: dict[str, str]
    keys: dict[str, tuple[str, str, str]]
    thing_address: str
    bag_address: str
    words: BoundForm[WordsForm]
    words_address: str
    count_address: str
    counted: int
    report_address: str


def debrief_view(desk: Desk) -> DebriefView:
    """Return what is said of a race, and of what is still to be said."""
    plan, variant = desk.opened.plan, desk.variant
    debrief, places = variant.debrief, {carrier.id: carrier.name for carrier in variant.carriers}
    judged = _judged(desk)
    rows = tuple(
        _row(desk, item, places, judged, debrief.things.get(item.id, Verdict()))
        for item in things_to_say(plan, variant)
    )
    words = {"worked": debrief.worked, "change": debrief.change, "wished": "\n".join(debrief.wished)}
    return DebriefView(
        rows=rows,
        said=sum(1 for row in rows if row.verdict.use or row.verdict.fate),
        bags=tuple(
            BagRow(id=carrier.id, name=carrier.name, verdict=debrief.bags.get(carrier.id, BagVerdict()))
            for carrier in variant.bags
        ),
        uses=USES,
        fates=FATES,
        states=BAG_STATES,
        keys=KEYS,
        thing_address=desk.do("debrief-things"),
        bag_address=desk.do("debrief-bag"),
        words=desk.form("words", WordsForm, words),
        words_address=desk.do("debrief-words"),
        count_address=desk.do("debrief-count"),
        counted=sum(1 for row in rows if row.is_counted),
        report_address=desk.do("debrief.pdf"),
    )


def _judged(desk: Desk) -> dict[str, str]:
    """Return which unused things are insurance and which waste, by the three questions."""
    if not any(verdict.use == "no" for verdict in desk.variant.debrief.things.values()):
        return {}
    return {one.item.id: one.verdict for one in things_worth(desk.evaluation.ridden) if one.verdict}


def _row(desk: Desk, item: Item, places: dict[str, str], judged: dict[str, str], verdict: Verdict) -> ThingRow:
    notes = [note for note in desk.variant.diary if item.name.lower() in note.text.lower()]
    stowed = places.get(desk.variant.places.get(item.id, ""), "")
    place = "worn" if item.worn else "on the bike" if item.in_spot else stowed
    return ThingRow(
        id=item.id,
        name=item.name,
        place=place,
        verdict=verdict,
        judged=judged.get(item.id, "") if verdict.use == "no" else "",
        noted="; ".join(f"{note.kind} at {note.distance / 1e3:.0f} km" for note in notes[:2]),
        is_counted=item.id in desk.variant.debrief.counted,
    )
