"""What the Charge room shows."""

from dataclasses import dataclass

from stonechat.core.charge.graph import graph_of
from stonechat.core.charge.light import NAMES, WAYS
from stonechat.core.charge.lights import Lights
from stonechat.core.charge.report import BatteryLine, Charge
from stonechat.core.charge.rule import AT_SOCKETS, HUB_INTO, HUB_WHEN, ChargingRule
from stonechat.core.charge.run import BANK, CELLS, HUB, SUN, WALL
from stonechat.core.charge.sockets import Filling, Sockets, SocketStop
from stonechat.core.charge.things import BAND
from stonechat.core.ledger.ridden import Ridden
from stonechat.core.plan.plan import START
from stonechat.core.plan.power_prices import RACES, PowerWay
from stonechat.core.plan.power_ways import RuleCost
from stonechat.core.plan.sky import clock_after
from stonechat.render.drawings.charge_line import ChargeLine, charge_line
from stonechat.render.drawings.leads import LeadView, leads_drawing
from stonechat.render.filters import clock, distance_km, duration, minutes_or_none, minutes_plain, percent
from stonechat.services.charging import LostLead, hub_minutes, longer_halts, lost_leads, prices_of, rules_compared
from stonechat.text import capital, listed
from stonechat.web.desk import Desk
from stonechat.web.forms.binding import BoundForm
from stonechat.web.forms.charge import RuleForm, rule_values

LIGHT, LEADS, RULE, PRICES, SOCKETS, CHEAPEST = "light", "leads", "rule", "prices", "sockets", "cheapest"
_TABS = (
    ("", "Batteries"),
    (LIGHT, "Light"),
    (SOCKETS, "Sockets"),
    (LEADS, "Leads"),
    (RULE, "Rule"),
    (PRICES, "Prices"),
)
_ROLES = {
    "light": "front light", "rear": "rear light", "navigation": "navigation", "phone": "phone", "tracker": "tracker",
    "other": "other", "spare": "spare, not used", "bank": "bank", "shifting": "gears",
}  # fmt: skip
_SOURCES = {HUB: "the hub", WALL: "sockets", SUN: "the sun", BANK: "banks", CELLS: "new cells"}
_WAITED = 0.1  # h of waiting for a lead that are worth a word
_SOME = 0.05  # Wh that are worth a word
_MODES = {"low": "low", "mid": "middle", "high": "high"}


@dataclass(frozen=True, kw_only=True)
class BatteryRow:
    """One battery."""

    name: str
    role: str
    usual: bool  # whether usual figures stand for its own
    capacity: float  # Wh
    lowest: float  # 1
    where: str
    ends: float  # 1
    flat: str
    address: str  # that opens it
    is_open: bool


@dataclass(frozen=True, kw_only=True)
class OpenBattery:
    """A battery that is open: why it is as it is."""

    name: str
    sentences: tuple[str, ...]
    kit_address: str


@dataclass(frozen=True, kw_only=True)
class LightView:
    """What lights the dark."""

    rows: tuple[tuple[str, str, float, str], ...]  # the way, mode, h, lamp and its draw
    sentences: tuple[tuple[str, bool], ...]  # and whether it is wrong


@dataclass(frozen=True, kw_only=True)
class SocketRow:
    """A halt at a socket."""

    where: str
    when: str
    length: str
    taken: float  # Wh
    rows: tuple[tuple[str, str, str, str, bool], ...]  # thing, came, left, minutes on the wall, whether it is not full
    words: str
    address: str  # of the button that stays longer; empty: it gains nothing
    more: str
    values: dict[str, str]


@dataclass(frozen=True, kw_only=True)
class LeadsView:
    """The graph of leads."""

    pictures: tuple[tuple[str, LeadView], ...]
    lost: tuple[LostLead, ...]
    is_assumed: bool
    no_source: bool
    unfed: str
    unused: str
    waited: str


@dataclass(frozen=True, kw_only=True)
class RuleView:
    """The rule, and the cheapest."""

    form: BoundForm[RuleForm]
    hub: bool  # whether the wheel has a dynamo
    legs: str  # legs that are named for the hub
    address: str
    compare_address: str  # to compare; empty where that is done
    compared: tuple[tuple[str, str, str, str, str], ...]  # rule, drag, lost, all, what it does
    gain: str
    take_address: str
    bound: str


@dataclass(frozen=True, kw_only=True)
class PricesView:
    """Ways to have power, side by side."""

    ways: tuple[PowerWay, ...]
    sentence: str
    races: int


@dataclass(frozen=True, kw_only=True)
class ChargeView:
    """The Charge room."""

    headline: str
    tabs: tuple[tuple[str, str, bool], ...]
    tab: str
    dark: float  # h
    stored: float  # Wh
    wall: float  # Wh
    hub: float  # Wh
    hub_minutes: float
    used: float  # Wh
    lost: float  # Wh
    pictures: tuple[tuple[str, ChargeLine], ...]
    rows: tuple[BatteryRow, ...]
    battery: OpenBattery | None
    light: LightView | None
    sockets: tuple[SocketRow, ...]
    leads: LeadsView | None
    rule: RuleView | None
    prices: PricesView | None
    doubted: str
    no_wall: bool
    is_empty: bool
    kit_address: str
    close_address: str
    price_address: str


def charge_view(desk: Desk) -> ChargeView:
    """Return what the Charge room shows."""
    ridden = desk.evaluation.ridden
    charge = ridden.report(Charge)
    empty = not charge.lines
    tab = _tab_of(desk)
    return ChargeView(
        headline=_headline(charge),
        tabs=tuple((name, desk.at(tab=key), key == tab) for key, name in _TABS),
        tab=tab,
        dark=charge.dark_hours,
        stored=charge.stored,
        wall=charge.wall,
        hub=charge.hub,
        hub_minutes=hub_minutes(ridden),
        used=charge.run.used,
        lost=charge.run.lost,
        pictures=()
        if empty or tab
        else (
            ("wide", charge_line(ridden, leg=desk.leg)),
            ("narrow", charge_line(ridden, leg=desk.leg, narrow=True)),
        ),
        rows=() if tab else tuple(_row(desk, line) for line in charge.lines),
        battery=None if tab else _open_battery(desk, charge),
        light=_light(ridden, charge) if tab == LIGHT else None,
        sockets=_sockets(desk, ridden) if tab == SOCKETS else (),
        leads=_leads(ridden, charge) if tab == LEADS else None,
        rule=_rule(desk) if tab == RULE else None,
        prices=_prices(desk) if tab == PRICES else None,
        doubted=listed([bank.name for bank in charge.doubted], 3),
        no_wall=not empty and charge.electrics.wall <= 0.0,
        is_empty=empty,
        kit_address=desk.at("kit"),
        close_address=desk.at(),
        price_address=desk.at(tab=PRICES),
    )


def _tab_of(desk: Desk) -> str:
    tab = RULE if desk.look.tab == CHEAPEST or "rule" in desk.forms else desk.look.tab
    return tab if tab in dict(_TABS) else ""


def _headline(charge: Charge) -> str:
    if not charge.lines:
        return "Nothing electric aboard"
    if charge.flat:
        first = charge.flat[0]
        return f"{capital(first.thing.name)} is flat from {distance_km(first.flat_km or 0.0)}"
    return f"Nothing goes flat; {charge.spare:.0f} Wh to spare"


def _row(desk: Desk, line: BatteryLine) -> BatteryRow:
    flat = "" if line.flat_km is None else f"from {distance_km(line.flat_km)}, lacks {line.unmet:.0f} Wh"
    is_open = desk.look.open == line.thing.id
    return BatteryRow(
        name=line.thing.name,
        role=_ROLES[line.thing.role],
        usual=not line.thing.is_told,
        capacity=line.thing.capacity,
        lowest=line.lowest,
        where="" if line.thing.role == "spare" else distance_km(line.lowest_km),
        ends=line.ends,
        flat=flat,
        address=desk.at() if is_open else desk.at(open=line.thing.id),
        is_open=is_open,
    )


def _open_battery(desk: Desk, charge: Charge) -> OpenBattery | None:
    line = next((line for line in charge.lines if line.thing.id == desk.look.open), None)
    if line is None:
        return None
    ridden = desk.evaluation.ridden
    known = any(item.id == line.thing.id for item in ridden.kit.items)
    return OpenBattery(
        name=line.thing.name,
        sentences=tuple(why(ridden, charge, line)),
        kit_address=desk.at("kit", open=line.thing.id) if known else "",
    )


def why(ridden: Ridden, charge: Charge, line: BatteryLine) -> list[str]:
    """Say why a battery is as it is: what it holds, draws, and where what goes in comes from."""
    thing = line.thing
    told = [f"It holds {thing.capacity:.1f} Wh{'' if thing.is_told else ', as is usual for its kind'}."]
    if thing.role == "bank":
        told.append(
            f"It gave {line.used:.0f} Wh of its cells, {100.0 * thing.keeps:.0f} % of which come out of its socket."
        )
    elif thing.draws:
        told.append(_draw_words(charge, line))
    else:
        told.append("Nothing draws on it in this plan: it is there for a failure.")
    came = [f"{energy:.1f} Wh from {_SOURCES[k]}" for k, energy in enumerate(line.into) if energy > _SOME]
    told.append(f"{listed(came, 5)} went in." if came else "Nothing went in on the way.")
    if thing.cells:
        told.append(f"{line.swaps} of {thing.cells} sets of cells were changed.")
    at = clock(clock_after(ridden, line.lowest_at))
    if line.waited > _WAITED:
        told.append(f"It waited {line.waited:.1f} h for a lead: every one that fits was in use.")
    told.append(f"It is lowest, {percent(line.lowest)}, at {distance_km(line.lowest_km)} ({at}).")
    if line.is_flat:
        told.append(
            f"It is flat from {distance_km(line.flat_km or 0.0)} and lacks {line.unmet:.0f} Wh, {line.without:.1f} h "
            f"of use. {_what_it_takes(charge, line)}"
        )
    return told


def _draw_words(charge: Charge, line: BatteryLine) -> str:
    thing = line.thing
    if thing.role == "light":
        modes = listed([f"{_MODES[name]} {thing.mode(name):.1f} W" for name in NAMES], 3)
        hours = " + ".join(f"{hour:.1f}" for hour in charge.beam.tolist())
        return f"It draws {modes}; {hours} h of each make {line.used + line.unmet:.0f} Wh wanted, {line.used:.0f} had."
    parts = [
        f"{watts:.2f} W {words}"
        for watts, words in ((thing.always, "always"), (thing.riding, "riding"), (thing.dark, "more in the dark"))
        if watts > 0.0
    ]
    band = "" if thing.draw_told else f" (usual, ±{100.0 * BAND:.0f} %)"
    return f"It draws {listed(parts, 3)}{band}: {line.used + line.unmet:.0f} Wh wanted, {line.used:.0f} had."


def _what_it_takes(charge: Charge, line: BatteryLine) -> str:
    more = line.unmet / (0.85 * 0.92)
    return f"Some {more:.0f} Wh more in a bank ({more / 3.7:.0f} Ah), or as much less drawn, would do."


def _light(ridden: Ridden, charge: Charge) -> LightView:
    lights = ridden.report(Lights)
    lamp = lights.front
    rows = []
    for name, mode, hours in zip(WAYS, lights.dark.modes.tolist(), lights.dark.hours.tolist(), strict=True):
        if hours < _SOME:
            continue
        by = "the lamp on the hub" if lights.by_hub else "no lamp"
        if lamp is not None and not lights.by_hub:
            by = f"{lamp.name}, {lamp.mode(NAMES[mode]):.1f} W"
        rows.append((name, _MODES[NAMES[mode]], hours, by))
    told: list[tuple[str, bool]] = []
    if lights.by_hub:
        told.append((f"{lights.dim:.1f} h are too slow for the hub's lamp: a lamp with a battery lights them.", False))
    if lamp is not None:
        burns = f"{capital(lamp.name)} burns {lights.front_hours:.1f} h so on its own battery"
        wanted = f"of {lights.front_wanted:.1f} h wanted; with what is charged it is dark for {lights.unlit:.1f} h."
        told.append((f"{burns}, {wanted}", lights.unlit > _SOME))
    for second in lights.seconds:
        found = "at hand" if second.is_at_hand else "not found in the dark"
        words = f"Second light: {second.name}, some {second.hours:.0f} h, {second.where}: {found}."
        told.append((words, not second.is_at_hand))
    if not lights.seconds:
        told.append(("No second light is aboard.", lights.dark.total > 2.0))
    if lights.rear_by_hub:
        told.append(("The rear light runs on the hub.", False))
    elif lights.rear is not None:
        burns = f"{capital(lights.rear.name)} burns {lights.rear_hours:.0f} h on its own battery"
        dark = f"it is dark for {lights.rear_unlit:.1f} h of {lights.dark.total:.1f}."
        told.append((f"{burns}; {dark}", lights.rear_unlit > _SOME))
    else:
        told.append(("No rear light is aboard.", True))
    told.append((f"You are seen by {listed(lights.seen, 3)}." if lights.seen else "Nothing reflects or is bright.",
                 not lights.seen))  # fmt: skip
    return LightView(rows=tuple(rows), sentences=tuple(told))


def _sockets(desk: Desk, ridden: Ridden) -> tuple[SocketRow, ...]:
    halts = {halt.stop: halt for halt in longer_halts(desk.opened, desk.variant_id)}
    rows = []
    for halt in ridden.report(Sockets).halts:
        stop, longer = ridden.way.stops[halt.stop], halts.get(halt.stop)
        late = [one.thing.name for one in halt.unfilled]
        rows.append(
            SocketRow(
                where=f"{stop.name}, {distance_km(halt.distance)}",
                when=clock(clock_after(ridden, halt.begins)),
                length=duration(halt.length),
                taken=halt.taken,
                rows=tuple(_filling(one, halt) for one in halt.fillings if _is_told(one)),
                words=f"Not full on leaving: {listed(late, 4)}; all would be after {_until(halt.all_full)}."
                if late
                else "All that is used leaves full.",
                address="" if longer is None else desk.do("charge-stay", stop.id),
                more="" if longer is None else f"{longer.minutes:.0f} min longer save {longer.gain:.0f} min on average",
                values={} if longer is None else {"minutes": f"{longer.minutes:g}"},
            )
        )
    return tuple(rows)


def _is_told(filling: Filling) -> bool:
    return filling.reached and (filling.thing.draws or filling.thing.role == "bank")


def _filling(one: Filling, halt: SocketStop) -> tuple[str, str, str, str, bool]:
    if one.begins > halt.length:
        told = "full already" if one.fits else "not on the wall"
    else:
        ends = f"full after {_until(one.ends)}" if one.ends <= halt.length else "still filling"
        told = f"from {one.begins / 60.0:.0f} min, {ends}"
    return one.thing.name, percent(one.came), percent(one.left), told, not one.fits


def _until(seconds: float) -> str:
    return "more than a day" if seconds > 24 * 3600.0 else duration(seconds)


def _leads(ridden: Ridden, charge: Charge) -> LeadsView:
    graph = graph_of(charge.electrics)
    return LeadsView(
        pictures=(
            ("wide", leads_drawing(charge.electrics, graph)),
            ("narrow", leads_drawing(charge.electrics, graph, narrow=True)),
        ),
        lost=lost_leads(ridden),
        is_assumed=charge.electrics.assumes_leads,
        no_source=graph.no_source,
        unfed=listed([one.name for one in graph.unfed], 5),
        unused=listed(charge.electrics.cells_unused, 4),
        waited=listed([f"{one.thing.name} {one.waited:.1f} h" for one in charge.lines if one.waited > _WAITED], 5),
    )


def _rule(desk: Desk) -> RuleView:
    rule, hub = desk.variant.charging, desk.variant.bike.dynamo
    form = desk.form("rule", RuleForm, rule_values(rule))
    names = {START: "the start", **{stop.id: stop.name for stop in desk.opened.plan.line.stops}}
    named = [(names.get(stop, stop), when) for stop, when in (key.rsplit(" ", 1) for key in sorted(rule.hub_on))]
    legs = listed([f"{name} ({when})" for name, when in named], 40) if rule.hub_when == "legs" else ""
    compares = desk.look.tab == CHEAPEST
    if not compares:
        return RuleView(
            form=form, hub=hub, legs=legs, address=desk.do("charge-rule"), compare_address=desk.at(tab=CHEAPEST),
            compared=(), gain="", take_address="", bound="",
        )  # fmt: skip
    found = rules_compared(desk.opened, desk.variant_id)
    rows = [("Yours", found.own)] + ([("Cheapest", found.best)] if found.best.rule != found.own.rule else [])
    return RuleView(
        form=form,
        hub=hub,
        legs=legs,
        address=desk.do("charge-rule"),
        compare_address="",
        compared=tuple(_compared(name, cost, hub=hub) for name, cost in rows),
        gain=minutes_plain(found.own.total - found.best.total) if len(rows) > 1 else "",
        take_address=desk.do("charge-best") if len(rows) > 1 else "",
        bound=minutes_plain(found.bound),
    )


def _compared(name: str, cost: RuleCost, *, hub: bool) -> tuple[str, str, str, str, str]:
    drag, lost, total = (minutes_or_none(part) for part in (cost.drag, cost.lost, cost.total))
    return name, drag, lost, total, rule_words(cost.rule, hub=hub)


def rule_words(rule: ChargingRule, *, hub: bool) -> str:
    """Say what a rule does; of the hub where there is one."""
    when = f"below {100.0 * rule.hub_below:.0f} %" if rule.hub_when == "needed" else HUB_WHEN[rule.hub_when]
    by_hub = "; hub off" if rule.hub == "off" else f"; hub: {HUB_INTO[rule.hub]}, {when}"
    rest = "everything on the bank at rests" if rule.at_rest else "nothing more at rests"
    shares = f"on the bank from {100.0 * rule.low:.0f} % to {100.0 * rule.high:.0f} %"
    return f"{shares}; {rest}; at sockets {AT_SOCKETS[rule.sockets]}{by_hub if hub else ''}"


def _prices(desk: Desk) -> PricesView:
    ways, even = prices_of(desk.opened, desk.variant_id)
    sentence = (
        f"A hub costs {even.fixed:.0f} min here before it charges anything (it weighs more and turns along), and "
        f"{even.by_hub:.2f} min for each Wh; a bank {even.by_bank:.2f} min for each Wh that it delivers. Without "
        f"sockets a hub is cheaper from {even.night_count:.0f} such nights on, {even.dark_hours:.0f} h in the dark."
    )
    return PricesView(ways=ways, sentence=sentence, races=RACES)
