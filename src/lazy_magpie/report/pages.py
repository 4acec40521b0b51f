"""Renders the pages: one file each that needs nothing else, read without a network; one frame for all of them."""

from __future__ import annotations

from functools import cache
from typing import Any

from lazy_magpie.formatting import size_text


def rendered(template: str, **values: Any) -> str:
    """Return a page by its template; whatever values hold stays text."""
    return str(_environment().get_template(template).render(**values))


@cache
def _environment() -> Any:
    from jinja2 import Environment, PackageLoader

    environment = Environment(
        loader=PackageLoader("lazy_magpie.report", "."), autoescape=True, trim_blocks=True, lstrip_blocks=True
    )
    environment.filters["size"] = size_text
    return environment
