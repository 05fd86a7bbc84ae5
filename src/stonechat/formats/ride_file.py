"""Rides as recorded, from FIT, TCX and GPX: every sample with its clock, and what sensors wrote beside its place."""

import io
import struct
from collections.abc import Iterator
from datetime import UTC, datetime
from typing import Any

import fitdecode
import numpy as np
from lxml import etree

from stonechat.core.diary.record import RideRecord
from stonechat.errors import TooLarge, UnreadableFile
from stonechat.formats.fit import is_fit
from stonechat.formats.xml_file import parse_xml
from stonechat.text import clean_text

MOST_BYTES = 60_000_000
MOST_SAMPLES = 1_500_000
_FEWEST = 60  # samples, below which it is no ride
_DEGREES = 180.0 / 2**31  # ° in a semicircle, the unit of positions in FIT
_LOOKED_AT = 4_096  # bytes at the head of a file
_FIELDS = ("lat", "lon", "height", "speed", "power", "temp")
# widest of each, beyond which a sensor wrote nonsense: °, °, m, m/s, W, °C
_WIDEST = {
    "lat": (-90.0, 90.0), "lon": (-180.0, 180.0), "height": (-500.0, 9_000.0), "speed": (0.0, 60.0),
    "power": (0.0, 2_500.0), "temp": (-60.0, 70.0),
}  # fmt: skip
_DAMAGE = (
    fitdecode.FitError, struct.error, ValueError, KeyError, IndexError, TypeError, OverflowError, AttributeError,
    AssertionError, MemoryError,
)  # fmt: skip
_Sample = dict[str, float]


def read_ride(data: bytes) -> RideRecord:
    """Return the samples of a ride.

    Raises `TooLarge` over the limits, `UnreadableFile` where it is no ride with clocks.
    """
    if len(data) > MOST_BYTES:
        raise TooLarge(f"The ride has {len(data) / 1e6:.0f} MB; {MOST_BYTES / 1e6:.0f} MB is the most.")
    if is_fit(data):
        sport, samples, breaks_off = _from_fit(data)
        return _record(sport, samples, breaks_off=breaks_off)
    if b"TrainingCenterDatabase" in data[:_LOOKED_AT]:
        sport, samples = _from_tcx(data)
    else:
        sport, samples = _from_gpx(data)
    return _record(sport, samples)


def _record(sport: str, samples: list[_Sample], *, breaks_off: bool = False) -> RideRecord:
    if len(samples) < _FEWEST:
        raise UnreadableFile(
            f"The file holds {len(samples)} samples with a clock; a ride has thousands. A planned course is no ride: "
            "choose the activity that was recorded."
        )

    def column(name: str) -> np.ndarray:
        values = np.array([sample.get(name, np.nan) for sample in samples])
        low, high = _WIDEST[name]
        with np.errstate(invalid="ignore"):
            return np.where((values >= low) & (values <= high), values, np.nan)

    return RideRecord(
        times=np.array([sample["time"] for sample in samples]),
        latitudes=column("lat"),
        longitudes=column("lon"),
        heights=column("height"),
        speeds=column("speed"),
        powers=column("power"),
        temps=column("temp"),
        sport=clean_text(sport)[:40],
        breaks_off=breaks_off,
    )


def _refuse_many(count: int) -> None:
    if count > MOST_SAMPLES:
        raise TooLarge(f"The ride has more than {MOST_SAMPLES:,} samples. Split it, a file for each day.")


def _from_fit(data: bytes) -> tuple[str, list[_Sample], bool]:
    samples: list[_Sample] = []
    sport, breaks_off = "", False
    try:
        with fitdecode.FitReader(io.BytesIO(data), error_handling=fitdecode.ErrorHandling.RAISE) as reader:
            for frame in reader:
                if frame.frame_type != fitdecode.FIT_FRAME_DATA:
                    continue
                if frame.name in ("session", "sport") and not sport:
                    sport = str(frame.get_value("sport", fallback="") or "")
                if frame.name == "record" and (sample := _of_fit(frame)):
                    samples.append(sample)
                    _refuse_many(len(samples))
    except _DAMAGE as exc:
        # a device whose battery died leaves the end of its file unwritten: what came before is good
        if len(samples) < _FEWEST:
            raise UnreadableFile(f"The FIT file is damaged after {len(samples)} samples. Export it again.") from exc
        breaks_off = True
    return sport, samples, breaks_off


def _of_fit(frame: Any) -> _Sample | None:
    def value(*names: str) -> float:
        for name in names:
            found = frame.get_value(name, fallback=None)
            if isinstance(found, int | float):
                return float(found)
        return float("nan")

    moment = frame.get_value("timestamp", fallback=None)
    if not isinstance(moment, datetime):
        return None
    return {
        "time": _seconds(moment),
        "lat": value("position_lat") * _DEGREES,
        "lon": value("position_long") * _DEGREES,
        "height": value("enhanced_altitude", "altitude"),
        "speed": value("enhanced_speed", "speed"),
        "power": value("power"),
        "temp": value("temperature"),
    }


_XML_NAMES = {
    "ele": "height", "AltitudeMeters": "height", "speed": "speed", "Speed": "speed", "power": "power",
    "PowerInWatts": "power", "Watts": "power", "atemp": "temp", "temp": "temp", "LatitudeDegrees": "lat",
    "LongitudeDegrees": "lon",
}  # fmt: skip


def _from_gpx(data: bytes) -> tuple[str, list[_Sample]]:
    root = parse_xml(data, root_name="gpx", kind="GPX")
    kinds = [node.text or "" for node in root.iter("{*}type") if etree.QName(node.getparent()).localname == "trk"]
    return (kinds[0] if kinds else ""), list(_of_xml(root, "trkpt", "time"))


def _from_tcx(data: bytes) -> tuple[str, list[_Sample]]:
    root = parse_xml(data, root_name="TrainingCenterDatabase", kind="TCX")
    sports = [node.get("Sport") or "" for node in root.iter("{*}Activity")]
    return (sports[0] if sports else ""), list(_of_xml(root, "Trackpoint", "Time"))


def _of_xml(root: etree._Element, point: str, clock: str) -> Iterator[_Sample]:
    count = 0
    for node in root.iter("{*}" + point):
        count += 1
        _refuse_many(count)
        sample: _Sample = {}
        for name, key in (("lat", "lat"), ("lon", "lon")):
            sample[key] = _figure(node.get(name))
        for part in node.iter():
            if not isinstance(part.tag, str):
                continue
            name = etree.QName(part).localname
            if name == clock and "time" not in sample:
                moment = _moment(part.text)
                if moment is not None:
                    sample["time"] = moment
            elif name in _XML_NAMES:
                sample[_XML_NAMES[name]] = _figure(part.text)
        if "time" in sample:
            yield sample


def _figure(text: str | None) -> float:
    try:
        return float(text or "nan")
    except ValueError:
        return float("nan")


def _moment(text: str | None) -> float | None:
    try:
        found = datetime.fromisoformat((text or "").strip().replace("Z", "+00:00"))
    except ValueError:
        return None
    return _seconds(found) if 1990 <= found.year <= 2100 else None


def _seconds(moment: datetime) -> float:
    """Return a moment in seconds since 1970; one without a zone is UTC, as these formats mean it."""
    return moment.replace(tzinfo=moment.tzinfo or UTC).timestamp()
