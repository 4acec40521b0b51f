"""[naming.NAME]: templates by which things are filed, beside the conventions that come with magpie."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from lazy_magpie.config.config_text import ConfigText
from lazy_magpie.errors import TemplateError
from lazy_magpie.naming import TEMPLATE_KEYS, Naming, conventions, from_table

KEYS = {**dict.fromkeys(TEMPLATE_KEYS, str), "specials": str, "companions": bool, "sections": dict}
NAMED = True


def read(tables: Mapping[str, Any], source: ConfigText, own: frozenset[str]) -> dict[str, Naming]:
    """Return all namings by name; `own` are the custom fields that their templates may use. Raises ConfigError."""
    found = dict(conventions())
    for name, table in tables.items():
        for key in TEMPLATE_KEYS:
            if key in table:
                try:
                    from_table(name, {key: table[key]}, own)
                except TemplateError as error:
                    raise source.wrong(("naming", name, key), f"{error}") from None
        if "/" in table.get("specials", ""):
            raise source.wrong(("naming", name, "specials"), "“specials” is the name of one folder, without “/”.")
        found[name] = from_table(name, table, own)
    return found
