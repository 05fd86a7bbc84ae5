"""Forms: one class states names, units, limits and help; from it come parsing, sentences and the page's fields."""

import re
from collections.abc import Mapping
from dataclasses import dataclass, field
from datetime import datetime
from typing import Any, Generic, TypeVar, get_args

from pydantic import BaseModel, ConfigDict, Field, ValidationError, ValidationInfo, field_validator
from pydantic.fields import FieldInfo

from stonechat.core.plan.limits import LIMITS
from stonechat.errors import InvalidInput
from stonechat.formats.numbers import parse_number
from stonechat.render.measures import in_other_units, measures, other_unit, shown_unit, twelve_hours

_DIGITS = 4  # of a figure that is shown in another unit than its field's own
_SHOWN_STEP = 10.0**-_DIGITS
S = TypeVar("S", bound="Form")


class Form(BaseModel):
    """Base of all forms: figures may carry a decimal comma and their unit."""

    model_config = ConfigDict(extra="forbid", allow_inf_nan=False, frozen=True)

    @field_validator("*", mode="before")
    @classmethod
    def _parse(cls, value: Any, info: ValidationInfo) -> Any:
        entry = cls.model_fields[info.field_name or ""]
        extra = _extra(entry)
        if "options" in extra and value not in extra["options"]:
            raise ValueError(f"“{str(value)[:20]}” is not on its list. Choose one from the list.")
        return _typed_in(entry, value) if isinstance(value, str) else value


def _typed_in(entry: FieldInfo, words: str) -> Any:
    """Return what was typed into a field as what the field holds."""
    extra, number_kind = _extra(entry), _number_kind(entry)
    if number_kind:
        number = typed_figure(words, extra.get("unit", ""))
        return int(number) if number_kind is int and number.is_integer() else number
    match extra.get("kind"):
        case "time":
            return typed_time(words)
        case "moment":
            return _moment(words)
        case _:
            return words.strip()


def typed_figure(text: str, unit: str) -> float:
    """Return a typed figure in a field's own unit; one without a unit is in that which the page shows.

    Raises
    ------
    InvalidInput
        If it is no figure, or its unit is of something else.
    """
    other = other_unit(unit)
    if other is None:
        return parse_number(text, unit=unit)
    try:
        figure = other.metric(parse_number(text, unit=other.unit))
    except InvalidInput:
        return parse_number(text, unit=unit)  # its own unit stands behind it
    plain = round(figure, 3)  # what was shown with four decimals comes back as it was
    return plain if abs(plain - figure) * other.factor < _SHOWN_STEP else figure


def typed_time(text: str) -> str:
    """Return a typed time of day as HH:MM; what is none comes back as it is.

    >>> typed_time("9:30 pm"), typed_time("12 am"), typed_time("5:30"), typed_time("25:00")
    ('21:30', '00:00', '05:30', '25:00')
    """
    match = re.fullmatch(r"(\d{1,2})(?::([0-5]\d))?\s*(?:([ap])\.?m\.?)?", text.strip().lower())
    if match is None or (match[2] is None and match[3] is None):
        return text.strip()
    hour, minute = int(match[1]), int(match[2] or 0)
    if match[3]:
        if not 1 <= hour <= 12:
            return text.strip()
        hour = hour % 12 + (12 if match[3] == "p" else 0)
    return f"{hour:02d}:{minute:02d}"


def _moment(text: str) -> datetime:
    try:
        moment = datetime.fromisoformat(text.strip())
    except ValueError:
        moment = None
    if moment is None or len(text.strip()) <= len("2027-09-26") or moment.tzinfo or not 1990 <= moment.year <= 2100:
        raise ValueError(f"“{text[:30]}” is no day and time. Write it as 2027-09-26 18:00.")
    return moment


def figure(
    title: str,
    *,
    unit: str = "",
    limit: str,
    factor: float = 1.0,
    help: str = "",
    optional: bool = False,
    suggestions: str = "",
) -> Any:
    """Return a field for a figure; its limits are those of the core, turned into the form's unit."""
    low, high = (round(bound * factor, 9) for bound in LIMITS[limit])
    return Field(
        None if optional else ...,
        title=title,
        description=help,
        ge=low,
        le=high,
        json_schema_extra={"unit": unit, "suggestions": suggestions},
    )


def choice(
    title: str, options: Mapping[str, str], *, help: str = "", optional: str | None = None, usual: str = ""
) -> Any:
    """Return a field for one of several keys; `optional` stands for it where it is not sent, `usual` names that."""
    shown: Any = {"": usual, **options} if usual else dict(options)
    default: Any = ... if optional is None else optional
    return Field(default, title=title, description=help, json_schema_extra={"options": shown})


def text(
    title: str, *, help: str = "", least: int = 0, most: int = 80, pattern: str | None = None, suggestions: str = ""
) -> Any:
    """Return a field for words; `suggestions` names a list that the page offers with it."""
    default = ... if least else ""
    extra: Any = {"suggestions": suggestions} if suggestions else None
    return Field(
        default,
        title=title,
        description=help,
        min_length=least,
        max_length=most,
        pattern=pattern,
        json_schema_extra=extra,
    )


def clock_field(title: str, *, help: str = "") -> Any:
    """Return a field for a time of day, HH:MM."""
    return Field(
        title=title, description=help, pattern=r"^([01]\d|2[0-3]):[0-5]\d$", json_schema_extra={"kind": "time"}
    )


def moment_field(title: str, *, help: str = "") -> Any:
    """Return a field for a local day and time, which may be left empty."""
    return Field(None, title=title, description=help, json_schema_extra={"kind": "moment"})


def tick(title: str, *, help: str = "") -> Any:
    """Return a field that is ticked or not."""
    return Field(False, title=title, description=help)


def _extra(entry: FieldInfo) -> dict[str, Any]:
    return entry.json_schema_extra if isinstance(entry.json_schema_extra, dict) else {}


def _number_kind(entry: FieldInfo) -> type | None:
    kinds = get_args(entry.annotation) or (entry.annotation,)
    return float if float in kinds else int if int in kinds else None


@dataclass(frozen=True, kw_only=True)
class FieldView:
    """One field as the page shows it."""

    name: str
    label: str
    kind: str  # text, number, time, moment, select or tick
    value: str
    unit: str = ""
    help: str = ""
    error: str = ""
    options: Mapping[str, str] = field(default_factory=dict)
    suggestions: str = ""  # id of the list that goes with it


@dataclass(frozen=True)
class BoundForm(Generic[S]):
    """What was typed, and what it means."""

    schema: type[S]
    raw: Mapping[str, str]  # as typed; shown again as it was
    value: S | None  # None if anything is wrong
    errors: Mapping[str, tuple[str, ...]]  # by field; "" for the whole form

    def named(self, *names: str) -> tuple[FieldView, ...]:
        """Some of the fields, in the order asked for."""
        return tuple(self._view(name, self.schema.model_fields[name]) for name in names)

    @property
    def fields(self) -> tuple[FieldView, ...]:
        """The fields in order."""
        return tuple(self._view(name, entry) for name, entry in self.schema.model_fields.items())

    def with_error(self, name: str, sentence: str) -> "BoundForm[S]":
        """Return the form with one more thing wrong, found beyond the form itself."""
        return BoundForm(self.schema, self.raw, None, {**self.errors, name: (sentence,)})

    def _view(self, name: str, entry: FieldInfo) -> FieldView:
        extra = _extra(entry)
        kind = "number" if _number_kind(entry) else str(extra.get("kind", "text"))
        kind = "select" if "options" in extra else "tick" if entry.annotation is bool else kind
        return FieldView(
            name=name,
            label=entry.title or name,
            kind=kind,
            value=self.raw.get(name, ""),
            unit=shown_unit(str(extra.get("unit", ""))),
            help=entry.description or "",
            error=" ".join(self.errors.get(name, ())),
            options=extra.get("options", {}),
            suggestions=str(extra.get("suggestions", "")),
        )

    @property
    def general_error(self) -> str:
        """What is wrong with the form as a whole."""
        return " ".join(self.errors.get("", ()))


def bind(schema: type[S], raw: Mapping[str, str]) -> BoundForm[S]:
    """Return the form filled in; what is wrong stands at its field."""
    given = {name: value for name, value in raw.items() if value.strip()}
    try:
        return BoundForm(schema, raw, schema.model_validate(given), {})
    except ValidationError as exc:
        errors: dict[str, tuple[str, ...]] = {}
        for item in exc.errors(include_url=False):
            name = str(item["loc"][0]) if item["loc"] else ""
            errors[name] = (*errors.get(name, ()), _sentence(schema, name, item))
        return BoundForm(schema, raw, None, errors)


def start_values(schema: type[S], values: Mapping[str, Any]) -> BoundForm[S]:
    """Return a form that shows values; nothing is checked yet."""
    return BoundForm(schema, {name: _typed(_shown(schema, name, value)) for name, value in values.items()}, None, {})


def _shown(schema: type[Form], name: str, value: Any) -> Any:
    """Return a value of a field in the unit that the page shows."""
    entry = schema.model_fields.get(name)
    if entry is not None and _extra(entry).get("kind") == "time" and measures().twelve_hours and value:
        return twelve_hours(*(int(part) for part in str(value).split(":")))
    other = None if entry is None else other_unit(str(_extra(entry).get("unit", "")))
    return value if other is None or not isinstance(value, float | int) else round(other.shown(float(value)), _DIGITS)


def _typed(value: Any) -> str:
    if value is None or value is False:
        return ""
    if value is True:
        return "yes"
    if isinstance(value, datetime):
        return f"{value:%Y-%m-%d %H:%M}"
    return f"{value:.6f}".rstrip("0").rstrip(".") if isinstance(value, float) else str(value)


def _sentence(schema: type[Form], name: str, item: Any) -> str:
    """Return what is wrong with a field, for a person."""
    entry = schema.model_fields.get(name)
    unit = f" {_extra(entry)['unit']}" if entry is not None and _extra(entry).get("unit") else ""
    context, value = item.get("ctx", {}), item.get("input", "")
    given = f"{value:g}" if isinstance(value, float) else str(value)[:40]
    match item["type"]:
        case "missing":
            return "This is empty. Fill it in."
        case "greater_than_equal":
            told = f"{given}{unit} is below the least, {context['ge']:g}{unit}. Check the figure and its unit."
            return in_other_units(told)
        case "less_than_equal":
            told = f"{given}{unit} is above the most, {context['le']:g}{unit}. Check the figure and its unit."
            return in_other_units(told)
        case "value_error":
            return str(context["error"])
        case "string_pattern_mismatch" if entry is not None and _extra(entry).get("kind") == "time":
            return f"“{given}” is no time of day. Write it as 05:30."
        case "string_too_long":
            return f"This is longer than {context['max_length']} letters. Shorten it."
        case "int_type" | "int_from_float" | "int_parsing":
            return f"“{given}” is not a whole number."
        case "extra_forbidden":
            return f"The field “{name}” is not known here."
        case "literal_error":
            return f"“{given}” is not on the list."
        case _:
            return f"“{given}” does not fit here: {item['msg']}."
