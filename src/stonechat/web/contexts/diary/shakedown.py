"""The ride with the loaded bike: what it showed, and what is done about it."""

from dataclasses import dataclass

from stonechat.core.diary.shakedown import LEAST_KM, REMEDIES, TROUBLES, Shaken
from stonechat.core.plan.plan import Plan, Variant
from stonechat.core.plan.remedies import Choice, choices_for, name_of
from stonechat.core.rig.places import PLACES
from stonechat.web.desk import Desk
from stonechat.web.forms.binding import BoundForm
from stonechat.web.forms.diary import FoundForm, ShakedownForm


@dataclass(frozen=True, kw_only=True)
class ShakenRow:
    """One finding."""

    trouble: str
    about: str
    words: str
    remedy: str  # key of the choice that was made
    choices: tuple[Choice, ...]  # what would mend it, the likeliest first
    was_done: str  # what was done about it, empty where nothing is yet
    address: str
    fix_address: str  # where the change is made, empty where there is no place for it


@dataclass(frozen=True, kw_only=True)
class ShakedownView:
    """The part of the loaded ride."""

    sentence: str
    rows: tuple[ShakenRow, ...]
    ride: BoundForm[ShakedownForm]
    ride_address: str
    form: BoundForm[FoundForm]
    form_address: str
    abouts: tuple[tuple[str, str], ...]


def shakedown_view(desk: Desk) -> ShakedownView:
    """Return findings, and the forms that bring them."""
    shakedown = desk.variant.shakedown
    values = {
        "day": shakedown.day.isoformat() if shakedown.day else "",
        "km": f"{shakedown.km:g}",
        "rough_km": f"{shakedown.rough_km:g}",
    }
    return ShakedownView(
        sentence=_sentence(desk),
        rows=tuple(_row(desk, k, one) for k, one in enumerate(shakedown.findings)),
        ride=desk.form("shakedown", ShakedownForm, values),
        ride_address=desk.do("shakedown"),
        form=desk.form("found", FoundForm, {"trouble": "rattles"}),
        form_address=desk.do("found"),
        abouts=(
            ("", "the bike or the body"),
            *((carrier.id, carrier.name) for carrier in desk.variant.carriers if carrier.mounted),
            *((item.id, item.name) for item in desk.evaluation.ridden.kit.items),
        ),
    )


def _sentence(desk: Desk) -> str:
    shakedown = desk.variant.shakedown
    if shakedown.day is None:
        return f"Not ridden yet. Ride {LEAST_KM:.0f} km or more as loaded for the start, some of it rough."
    left = len(shakedown.left)
    ridden = f"{shakedown.km:g} km loaded, {shakedown.rough_km:g} km rough"
    return f"{ridden}. Open findings: {left} of {len(shakedown.findings)}." if shakedown.findings else f"{ridden}."


def _row(desk: Desk, number: int, one: Shaken) -> ShakenRow:
    is_item = any(item.id == one.about for item in desk.opened.plan.items)
    is_carrier = any(carrier.id == one.about for carrier in desk.variant.carriers)
    fix = desk.at("load", open=one.about) if is_item else desk.at("rig", open=one.about) if is_carrier else ""
    plan, variant = desk.opened.plan, desk.variant
    return ShakenRow(
        trouble=TROUBLES[one.trouble],
        about=name_of(plan, variant, one.about),
        words=one.words,
        remedy=f"{one.remedy}:{one.to}" if one.remedy else "",
        choices=choices_for(plan, variant, one),
        was_done=_was_done(plan, variant, one) if one.done else "",
        address=desk.do("found", str(number)),
        fix_address=fix,
    )


def _was_done(plan: Plan, variant: Variant, one: Shaken) -> str:
    """Return what was done, as it is kept: a place or a thing that is gone since is left out."""
    to = PLACES.get(one.to) or (name_of(plan, variant, one.to) if one.to else "")
    return f"{REMEDIES[one.remedy]}{f': {to}' if to else ''}" if one.remedy else "mended"
