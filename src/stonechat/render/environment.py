"""The one template environment: everything is escaped, an unknown name is an error."""

from functools import cache

from jinja2 import Environment, PackageLoader, StrictUndefined

from stonechat.render import filters
from stonechat.render.measures import measures, shown_unit


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
    # functions, not filters: a filter over a constant is worked out only once
    env.globals.update(measures=measures, shown_unit=shown_unit)
    return env
