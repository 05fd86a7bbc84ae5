"""What all parts of the plan document share."""

from collections.abc import Collection
from dataclasses import dataclass
from datetime import datetime
from typing import Annotated, Any

from pydantic import AfterValidator, BaseModel, ConfigDict, Field, GetCoreSchemaHandler, GetJsonSchemaHandler
from pydantic_core import CoreSchema, core_schema

from stonechat.core.plan.limits import LIMITS


def limit(name: str, factor: float = 1.0) -> Any:
    """Return the limits of a figure by the core's own, in the document's unit."""
    low, high = LIMITS[name]
    return Field(ge=round(low * factor, 9), le=round(high * factor, 9))


Name = Annotated[str, Field(min_length=1, max_length=80)]
Id = Annotated[str, Field(pattern=r"^[A-Za-z0-9][A-Za-z0-9_-]{0,59}$")]
ClockTime = Annotated[str, Field(pattern=r"^([01]\d|2[0-3]):[0-5]\d$|^24:00$")]


def clock_text(seconds: float) -> str:
    """Return a time of day as HH:MM."""
    minutes = round(seconds / 60.0)
    return f"{minutes // 60:02d}:{minutes % 60:02d}"


def clock_seconds(text: str) -> float:
    """Return a time of day in seconds after midnight."""
    hours, minutes = text.split(":")
    return int(hours) * 3600.0 + int(minutes) * 60.0


def same_named(source: Any, names: tuple[str, ...]) -> dict[str, Any]:
    """Return the values that a document and the core's value share by name and unit."""
    return {name: getattr(source, name) for name in names}


def local_clock(value: datetime | None) -> datetime | None:
    """Return a clock time without offset, between 1990 and 2100; refuse another one."""
    if value is not None and (value.tzinfo is not None or not 1990 <= value.year <= 2100):
        raise ValueError("a local clock time has no offset and lies between 1990 and 2100")
    return value


LocalClock = Annotated[datetime, AfterValidator(local_clock)]


def one_of(value: str, known: Any, what: str) -> str:
    """Return a value that is on a list; refuse another one."""
    if value not in known:
        raise ValueError(f"“{value}” is no {what}; use one of {', '.join(known)}")
    return value


@dataclass(frozen=True)
class OneOf:
    """Marks a text that must be on a list; the published schema names the list too."""

    known: Collection[str]
    what: str

    def __get_pydantic_core_schema__(self, source: Any, handler: GetCoreSchemaHandler) -> CoreSchema:
        """Check the text after it proved to be one."""
        return core_schema.no_info_after_validator_function(
            lambda value: one_of(value, self.known, self.what), handler(source)
        )

    def __get_pydantic_json_schema__(self, schema: CoreSchema, handler: GetJsonSchemaHandler) -> dict[str, Any]:
        """Name every choice."""
        return {**handler(schema), "enum": list(self.known)}


class Part(BaseModel):
    """Base of all parts: frozen, strict about names, finite."""

    model_config = ConfigDict(extra="forbid", allow_inf_nan=False, frozen=True)
