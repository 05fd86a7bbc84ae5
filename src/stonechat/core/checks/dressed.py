"""Checks of warmth riding: body, hands and feet on the coldest stretch, in kelvin."""

from collections.abc import Iterator
from functools import partial

from stonechat.core.checks.check import Check
from stonechat.core.ledger.ridden import Ridden
from stonechat.core.night.lacking import remedies_for, worst_spell
from stonechat.core.night.ladder import DESCENT, Ladder
from stonechat.core.night.report import degrees
from stonechat.core.night.riding import VALID_TO
from stonechat.core.night.sleep import BAND
from stonechat.core.numerics.findings import Finding, State
from stonechat.text import listed

_BRIEF = 0.25  # h, too cold for less is passed over where it is within the band
_CHILL = 12.0  # °C, in warmer air nothing is named that would help: the figure is beyond the model
_EVEN = 0.5  # K
_FAR = 10.0  # K too cold, from which no figure is told


def warm_enough(ridden: Ridden, *, code: str, title: str, zones: tuple[str, ...]) -> Iterator[Finding]:
    """The stretch with least warmth to spare of some zones of the body."""
    if not ridden.kit.items:
        return
    ladder = ridden.report(Ladder)
    spells = {zone: worst_spell(ladder, zone) for zone in zones}
    zone = min(zones, key=lambda name: float(ladder.zones[name].margin[spells[name]]))
    spell, entry = spells[zone], ladder.zones[zone]
    margin = float(entry.margin[spell])
    cold = float(ladder.spells.lengths[entry.margin < 0.0].sum() / 3600.0)
    worn = [piece.name for piece in entry.outfits[int(entry.chosen[spell])].pieces]
    sentence = f"{stretch_words(ladder, spell)}, in {listed(worn, 5) or 'nothing'}: "
    where = f"{zone}: " if len(zones) > 1 else ""
    if margin < -_FAR:
        sentence += f"{where}far too cold for so little."
    else:
        spare = f"{abs(margin):.0f} K {'too cold' if margin < 0.0 else 'to spare'}"
        sentence += f"{where}{'just enough' if abs(margin) < _EVEN else spare} (±{BAND:.0f})."
    if margin < 0.0:
        sentence += f" Too cold for {cold:.1f} h of the race."
        chill = float(ladder.spells.going.temps[spell]) <= _CHILL
        ways = remedies_for(ladder, zone, spell, most=2) if chill else ()
        if ways:
            sentence += (
                " What would help: " + " or ".join(f"{way.name} ({1000 * way.mass:.0f} g)" for way in ways) + "."
            )
    elif float(ladder.spells.going.temps[spell]) > VALID_TO:
        sentence += " The coldest there is; above 10 °C the figure is an estimate."
    yield Finding(
        code=code, state=_state(margin, cold), title=title, sentence=sentence, margin=margin, unit="K", room="night"
    )


def _state(margin: float, cold: float) -> State:
    """Return broken beyond the band of the model, tight within it."""
    if margin >= BAND:
        return State.FINE
    return State.TIGHT if margin >= -BAND or cold < _BRIEF else State.BROKEN


def stretch_words(ladder: Ladder, spell: int) -> str:
    """Say where a stretch is and what it is like."""
    spells = ladder.spells
    minutes, temp = spells.lengths[spell] / 60.0, float(spells.going.temps[spell])
    what = "a descent" if spells.kinds[spell] == DESCENT else "on foot" if spells.kinds[spell] != "riding" else "riding"
    rain = " on a wet day" if spells.wet[spell] else ""
    return f"Km {spells.begins[spell] / 1e3:.0f}, {what} of {minutes:.0f} min at {degrees(temp)}{rain}"


_REASONS = (
    ("riding", "Warmth riding", "Cold muscles are slow, and hypothermia ends more than a race.", ("trunk", "legs")),
    ("hands", "Hands", "Numb fingers do not brake, shift, eat or mend a tube.", ("hands",)),
    ("feet", "Feet", "Numb feet last for weeks, and walking is part of the race.", ("feet",)),
    ("ears", "Head and ears", "Much warmth goes where nothing covers it.", ("head",)),
)
CHECKS = tuple(
    Check(code=code, title=title, reason=reason, run=partial(warm_enough, code=code, title=title, zones=zones))
    for code, title, reason, zones in _REASONS
)
