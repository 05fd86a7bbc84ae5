"""Which kind of file came, by its content."""

from stonechat.formats.course_file import CourseFile, FileLimits
from stonechat.formats.fit import is_fit, read_fit
from stonechat.formats.geojson import read_geojson
from stonechat.formats.gpx import read_gpx
from stonechat.formats.plan_json import SCHEMA
from stonechat.formats.tcx import read_tcx

_LOOKED_AT = 4_096  # bytes at the head of a file
_BLANK = b"\xef\xbb\xbf \t\r\n"


def is_plan(data: bytes) -> bool:
    """Tell whether a file is an exported plan, or means to be one."""
    if data.lstrip(_BLANK)[:1] != b"{":
        return False
    return SCHEMA.encode() in data or b'"coordinates"' not in data


def read_course(data: bytes, limits: FileLimits) -> CourseFile:
    """Return the course of a GPX, TCX, FIT or GeoJSON file."""
    if is_fit(data):
        return read_fit(data, limits)
    head = data.lstrip(_BLANK)
    if head[:1] in (b"{", b"["):
        return read_geojson(data, limits)
    if b"TrainingCenterDatabase" in head[:_LOOKED_AT]:
        return read_tcx(data, limits)
    return read_gpx(data, limits)
