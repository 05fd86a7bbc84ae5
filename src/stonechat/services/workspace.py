"""What every use case needs: the store, the settings, the queue."""

from collections.abc import Callable
from dataclasses import dataclass, field

from stonechat.db.session import COMMITS as COMMITS
from stonechat.db.session import Commits as Commits
from stonechat.db.session import Store
from stonechat.db.session import make_probe as make_probe
from stonechat.outside.weather import SimulatedWeather, WeatherClient
from stonechat.settings import Settings


def _no_worker(_: int) -> None:
    return None


@dataclass(frozen=True, kw_only=True)
class Workspace:
    """Handed to every use case by the entry points."""

    store: Store
    settings: Settings
    place: str = ""  # where the data lies, in words for people
    weather: WeatherClient = field(default_factory=SimulatedWeather)
    defer_run: Callable[[int], None] = field(default=_no_worker)  # run id; asks a worker to take it up
