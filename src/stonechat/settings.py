"""Every setting, read once at start from the environment (prefix ``STONECHAT_``) and passed on as values."""

from pathlib import Path

from pydantic import Field, ValidationError
from pydantic_settings import BaseSettings, SettingsConfigDict

from stonechat.errors import InvalidInput


class Settings(BaseSettings):
    """Settings of one process; each has a default that works locally."""

    model_config = SettingsConfigDict(env_prefix="STONECHAT_", frozen=True, extra="ignore")

    database_url: str = Field("", description="Address of the database; empty: the private cluster.")
    data_dir: Path | None = Field(None, description="Folder of the private cluster; empty: chosen by user.")
    port: int = Field(8765, ge=0, le=65_535, description="Loopback port of the web server; 0: any that is free.")
    upload_limit_mb: float = Field(24.0, gt=0, le=1_000, description="Largest file that may be sent in.")
    track_points_limit: int = Field(150_000, ge=100, description="Most points a course may hold.")
    patterns: bool = Field(False, description="Whether the page of all parts is served at /patterns, for builders.")
    pack_limit_s: float = Field(30.0, gt=0, le=3_600, description="Longest time one packing may take.")


def read_settings() -> Settings:
    """Return the settings; a bad one is refused with a sentence naming the variable and what is allowed."""
    try:
        return Settings()
    except ValidationError as exc:
        item = exc.errors()[0]
        name = "STONECHAT_" + str(item["loc"][0]).upper()
        raise InvalidInput(f"The setting {name} is {item['input']!r}: {item['msg']}.", subject=name) from exc
