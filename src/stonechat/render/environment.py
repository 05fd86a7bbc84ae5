"""The one template environment: everything is escaped, an unknown name is an error."""

from functools import cache

from jinja2 import Environment, PackageLoader, StrictUndefined

from stonechat.render import filters
from stonechat.render.measures import measures


@cache
def environment() -> Environment:
    """Return the environment of all templates."""
    env = Environment(
        loader=PackageLoader("stonechat.render", "templates"),
        autoescape=True,
        undefined=StrictUndefined,
        trim_blocks=True,
        lstrip_blocks=True,
        auto_reload=False,
    )
    env.filters.update(filters.FILTERS)
    env.globals["measures"] = measures
    return env
