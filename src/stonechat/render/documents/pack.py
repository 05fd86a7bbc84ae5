"""The offline pack: a page that works on a phone with no network, with all that it needs inside."""

import base64
import hashlib
import json
from collections.abc import Mapping
from dataclasses import dataclass
from functools import cache
from importlib import resources
from typing import Any

import numpy as np

from stonechat.core.ledger.ridden import Ridden
from stonechat.core.line.stops import OFFERS
from stonechat.core.numerics.arrays import FloatArray
from stonechat.core.plan.late import JUMP, LateTable
from stonechat.core.plan.plan import Plan, Variant
from stonechat.core.plan.sky import clock_after
from stonechat.formats.hours import hours_text
from stonechat.render.documents.sheets import Sheet, sheets_of
from stonechat.render.environment import environment
from stonechat.render.notes import dress_note

FORMAT = "stonechat-pack"
_MOST_POINTS = 2_400  # of the course, so that the pack stays small
_AFTER, _QUARTER = 3 * 86_400, 900  # s after the finish for which clocks are told; within which a clock is set
_FOLDER = resources.files("stonechat.render").joinpath("pack")
_VENDOR = resources.files("stonechat").joinpath("web/static/vendor")


@dataclass(frozen=True, kw_only=True)
class PackPage:
    """The page, and what a browser may run of it."""

    html: bytes
    policy: str  # content security policy that lets its own script and style, and nothing else


def pack_data(plan: Plan, variant: Variant, ridden: Ridden, late: LateTable) -> dict[str, Any]:
    """Return all that the pack holds, plain values; the emergency page is none of it."""
    return {
        "format": FORMAT,
        "version": 1,
        "plan": plan.name,
        "variant": variant.name,
        "start": ridden.way.start.timestamp(),
        "zones": _zones(ridden),
        "course": _course(ridden),
        "stops": [_stop(ridden, k) for k in range(len(ridden.timetable.visits))],
        "legs": [_leg(ridden, k) for k in range(len(ridden.timetable.legs))],
        "late": _late(late),
        "bags": _bags(ridden),
        "sheets": [_sheet(sheet) for sheet in sheets_of(plan, variant, ridden) if sheet.key != "stops"],
    }


def _zones(ridden: Ridden) -> list[list[int]]:
    """Return how far the clock is before UTC [min], and from when on [s], to some days after the finish."""
    found: list[list[int]] = []
    for then in range(0, int(ridden.ledger.finish) + _AFTER, _QUARTER):
        offset = clock_after(ridden, then).utcoffset()
        minutes = int(offset.total_seconds() / 60.0) if offset else 0
        if not found or found[-1][1] != minutes:
            found.append([then, minutes])
    return found


def _course(ridden: Ridden) -> dict[str, list[float]]:
    profile, clocks = ridden.way.profile, ridden.ride.clocks
    count = min(_MOST_POINTS, profile.distances.size)
    keep = np.unique(np.linspace(0, profile.distances.size - 1, count).round().astype(np.int64))

    def rounded(values: FloatArray, digits: int) -> list[float]:
        return [round(value, digits) for value in values[keep].tolist()]

    return {
        "km": rounded(profile.distances / 1e3, 2),
        "lat": rounded(profile.latitudes, 5),
        "lon": rounded(profile.longitudes, 5),
        "up": rounded(profile.ascent_by_end, 0),
        "s": rounded(clocks, 0),
    }


def _stop(ridden: Ridden, k: int) -> dict[str, Any]:
    visit = ridden.timetable.visits[k]
    stop, doors = visit.stop, ridden.timetable.clock.doors
    told: dict[str, Any] = {
        "name": visit.name,
        "km": round(visit.distance / 1e3, 2),
        "arr": round(visit.elapsed),
        "offers": [key for key in OFFERS if stop and key in stop.offers],
        "past": visit.passed,
        "cut": None if visit.margin is None else round(visit.elapsed + visit.margin),
    }
    if stop is None:
        return told
    provided, node = ridden.provisions, k + 1
    told |= {
        "must": bool(provided.must[node]),
        "hours": hours_text(stop.hours),
        "note": stop.note,
        "water": round(float(provided.water.leaving[node]), 2) if provided.water.refilled[node] else None,
        "kcal": round(float(provided.eaten.leaving[node])) if provided.food.refilled[node] else None,
        "doors": None,
    }
    if doors.known[k]:
        first, last = int(doors.first[k]), int(doors.first[k + 1])
        midnight = ridden.timetable.clock.start_of_day
        told["doors"] = [
            [round(float(when[j]) - midnight) for when in (doors.opens, doors.shuts)] for j in range(first, last)
        ]
    return told


def _leg(ridden: Ridden, k: int) -> dict[str, Any]:
    leg = ridden.timetable.legs[k]
    return {
        "km": round(leg.start / 1e3, 2),
        "water": round(float(ridden.provisions.water.leaving[k]), 2),
        "kcal": round(float(ridden.provisions.eaten.leaving[k])),
        "wear": dress_note(ridden, k),
    }


def _late(late: LateTable) -> dict[str, Any]:
    def whole(values: FloatArray) -> list[Any]:
        # what is behind a node does not move with it
        return [[[round(v / 10.0) for v in row[int(node) :]] for row in place]
                for node, place in zip(late.nodes.tolist(), values.tolist(), strict=True)]  # fmt: skip

    return {
        "nodes": late.nodes.tolist(),
        "delays": late.delays.tolist(),
        "jump": JUMP,
        "arr": whole(late.arrivals),
    }


def _bags(ridden: Ridden) -> dict[str, Any]:
    """Return what is in which bag: every different state of the load once, and which each leg has."""
    names = [item.name + (f" × {item.quantity}" if item.quantity > 1 else "") for item in ridden.kit.items]
    number = {item.id: k for k, item in enumerate(ridden.kit.items)}
    outside = [k for k, item in enumerate(ridden.kit.items) if item.worn or item.in_spot]
    states: list[Any] = []
    by_leg, amounts = [], []
    for load in ridden.film:
        state = [[s.carrier.name, [number[item.id] for item in s.items]] for s in load.carriers]
        if state not in states:
            states.append(state)
        by_leg.append(states.index(state))
        amounts.append([[round(s.water, 2), round(s.food * 1e3, 2)] for s in load.carriers])
    return {"things": names, "states": states, "legs": by_leg, "amounts": amounts, "on": outside}


def _sheet(sheet: Sheet) -> dict[str, Any]:
    return {
        "key": sheet.key,
        "title": sheet.title,
        "caution": sheet.caution,
        "ticks": sheet.ticks,
        "parts": [
            {
                "title": part.title,
                "sub": part.sub,
                "km": None if part.distance is None else round(part.distance / 1e3, 2),
                "lines": [[line.figure, line.text, line.note, line.must] for line in part.lines],
            }
            for part in sheet.parts
        ],
    }


@cache
def _part(name: str) -> str:
    return _FOLDER.joinpath(name).read_text("utf-8")


@cache
def _codes() -> str:
    """Return the script that draws square codes, which is none of ours."""
    return _VENDOR.joinpath("qrcode.js").read_text("utf-8")


def pack_page(data: Mapping[str, Any]) -> PackPage:
    """Return the page with everything inside it."""
    # `<` in the data must not end the script that holds it
    words = json.dumps(data, ensure_ascii=False, separators=(",", ":")).replace("<", "\\u003c")
    script, style, codes = _part("pack.js"), _part("pack.css"), _codes()
    html = (
        environment()
        .get_template("pack/page.html")
        .render(
            title=data["plan"],
            data=words,
            script=script,
            style=style,
            codes=codes,
            offers=OFFERS,
        )
    )
    policy = (
        f"default-src 'none'; script-src {_hash(script)} {_hash(codes)} 'self'; style-src {_hash(style)}; "
        "img-src 'self' data:; worker-src 'self'; manifest-src 'self'; connect-src 'self'; base-uri 'none'; "
        "form-action 'none'; frame-ancestors 'none'"
    )
    return PackPage(html=html.encode(), policy=policy)


def _hash(text: str) -> str:
    digest = base64.b64encode(hashlib.sha256(text.encode()).digest()).decode()
    return f"'sha256-{digest}'"


def service_worker() -> bytes:
    """Return the script that keeps the page for when there is no network."""
    return _part("worker.js").encode()


def manifest(name: str) -> dict[str, Any]:
    """Return what a phone is told to put the page on its home screen."""
    return {
        "name": f"{name}: pack",
        "short_name": name[:12],
        "start_url": "./",
        "scope": "./",
        "display": "standalone",
        "background_color": "#16130f",
        "theme_color": "#16130f",
        "icons": [{"src": "mark.svg", "sizes": "any", "type": "image/svg+xml", "purpose": "any"}],
    }
