"""Rides in from FIT, TCX and GPX: the same ride reads the same; damaged and strange files are told."""

import io
from datetime import UTC, datetime

import numpy as np
import pytest
from fit_tool.fit_file_builder import FitFileBuilder
from fit_tool.profile.messages.file_id_message import FileIdMessage
from fit_tool.profile.messages.record_message import RecordMessage
from fit_tool.profile.messages.sport_message import SportMessage
from fit_tool.profile.profile_type import FileType, Manufacturer, Sport

from stonechat.errors import TooLarge, UnreadableFile
from stonechat.formats.ride_file import MOST_BYTES, read_ride

START = 1_800_000_000
SAMPLES = [(START + k, 46.0 + k / 20_000.0, 8.0, 300.0 + k / 10, 5.0 + k % 3, 150 + k % 7, 12.0) for k in range(120)]


def clock(then: int) -> str:
    return datetime.fromtimestamp(then, UTC).strftime("%Y-%m-%dT%H:%M:%SZ")


def gpx() -> bytes:
    points = "".join(
        f'<trkpt lat="{lat}" lon="{lon}"><ele>{height}</ele><time>{clock(then)}</time><extensions>'
        f"<power>{power}</power><x:atemp xmlns:x='urn:any'>{temp}</x:atemp><speed>{speed}</speed></extensions></trkpt>"
        for then, lat, lon, height, speed, power, temp in SAMPLES
    )
    return f"<gpx><trk><type>cycling</type><trkseg>{points}</trkseg></trk></gpx>".encode()


def tcx() -> bytes:
    points = "".join(
        f"<Trackpoint><Time>{clock(then)}</Time><Position><LatitudeDegrees>{lat}</LatitudeDegrees><LongitudeDegrees>{lon}"
        f"</LongitudeDegrees></Position><AltitudeMeters>{height}</AltitudeMeters><Extensions><T><Speed>{speed}</Speed>"
        f"<Watts>{power}</Watts></T></Extensions></Trackpoint>"
        for then, lat, lon, height, speed, power, _ in SAMPLES
    )
    return (
        '<TrainingCenterDatabase><Activities><Activity Sport="Biking"><Lap><Track>'
        f"{points}</Track></Lap></Activity></Activities></TrainingCenterDatabase>"
    ).encode()


def fit(sport: Sport = Sport.CYCLING) -> bytes:
    builder = FitFileBuilder(auto_define=True, min_string_size=4)
    about = FileIdMessage()
    about.type, about.manufacturer, about.product = FileType.ACTIVITY, Manufacturer.DEVELOPMENT.value, 1
    about.serial_number, about.time_created = 1, START * 1000
    builder.add(about)
    kind = SportMessage()
    kind.sport = sport
    builder.add(kind)
    for then, lat, lon, height, speed, power, temp in SAMPLES:
        record = RecordMessage()
        record.timestamp, record.position_lat, record.position_long = then * 1000, lat, lon
        record.enhanced_altitude, record.enhanced_speed, record.power = height, speed, power
        record.temperature = int(temp)
        builder.add(record)
    return bytes(builder.build().to_bytes())


@pytest.mark.parametrize("data", [gpx(), tcx(), fit()], ids=["gpx", "tcx", "fit"])
def test_the_same_ride_reads_the_same(data: bytes) -> None:
    ride = read_ride(data)
    wanted = np.array(SAMPLES)
    assert ride.times.tolist() == wanted[:, 0].tolist()
    assert ride.latitudes == pytest.approx(wanted[:, 1], abs=1e-6)
    assert ride.heights == pytest.approx(wanted[:, 3], abs=0.11)
    assert ride.speeds == pytest.approx(wanted[:, 4], abs=0.01)
    assert ride.powers.tolist() == wanted[:, 5].tolist()
    assert ride.sport.lower() in ("cycling", "biking", "1", "2")


def test_a_file_cut_off_keeps_what_came_before() -> None:
    data = fit()
    assert read_ride(data[: int(len(data) * 0.8)]).times.size > 60
    with pytest.raises(UnreadableFile, match="damaged"):
        read_ride(data[: int(len(data) * 0.2)])


def test_nonsense_in_a_field_is_no_figure() -> None:
    strange = (
        gpx().replace(b"<power>151</power>", b"<power>9e9</power>").replace(b"<power>152</power>", b"<power>x</power>")
    )
    ride = read_ride(strange)
    assert np.isnan(ride.powers[1]) and np.isnan(ride.powers[2]) and ride.powers[3] == 153


@pytest.mark.parametrize(("data", "says"), [
    (b"", "readable"), (b"{}", "readable"), (b"<gpx></gpx>", "0 samples"), (b"<kml/>", "not GPX"),
    (b'<gpx><rte><rtept lat="1" lon="2"/></rte></gpx>', "no ride"), (b"\x0e\x10\0\0\0\0\0\0.FIT", "damaged"),
])  # fmt: skip
def test_what_is_no_ride_is_told(data: bytes, says: str) -> None:
    with pytest.raises(UnreadableFile, match=says):
        read_ride(data)


def test_a_file_beyond_the_limit_is_refused() -> None:
    with pytest.raises(TooLarge, match="MB is the most"):
        read_ride(io.BytesIO(b"0" * (MOST_BYTES + 1)).getvalue())
