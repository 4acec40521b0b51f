"""[field.NAME]: custom fields, which a person fills in or which come from tags."""

from __future__ import annotations

import dataclasses
import re
from collections.abc import Mapping
from typing import Any

from lazy_magpie.config.config_text import ConfigText
from lazy_magpie.errors import UsageError
from lazy_magpie.fields import FIELDS, PLACES, CustomField, CustomFieldType
from lazy_magpie.naming import TEMPLATE_FIELDS
from lazy_magpie.suggest import nearest

KEYS = {"type": str, "allowed": list, "needed": bool, "note": str, "from_tags": dict}
NAMED = True
_NAME = re.compile(r"[a-z][a-z_]{0,39}")


def read(tables: Mapping[str, Any], source: ConfigText) -> dict[str, CustomField]:
    """Return the custom fields by name. Raises ConfigError."""
    return {name: _field(name, table, source) for name, table in tables.items()}


def _field(name: str, table: Mapping[str, Any], source: ConfigText) -> CustomField:
    prefix = ("field", name)
    if not _NAME.fullmatch(name):
        raise source.wrong(prefix, f"“{name}” can't be a field's name: small letters and _, no more than 40.")
    if name in FIELDS or name in PLACES or name in TEMPLATE_FIELDS or name in ("id", "what", "tags"):
        raise source.wrong(prefix, f"there is a field “{name}” already; call yours otherwise.")
    sorts = [type.value for type in CustomFieldType]
    type = table.get("type", CustomFieldType.TEXT.value)
    if type not in sorts:
        hint = nearest(type, sorts, f"; there are {', '.join(sorts)}.")
        raise source.wrong((*prefix, "type"), f"there is no type “{type}”{hint}")
    allowed = tuple(table.get("allowed", ()))
    own = CustomField(name, CustomFieldType(type), (), table.get("needed", False), table.get("note", ""))
    for key, words in (("allowed", allowed), ("from_tags", tuple(table.get("from_tags", {}).values()))):
        for word in words:
            try:
                if not word.strip() or own.value(word) in ([], "") or (type == CustomFieldType.WORDS and "," in word):
                    raise UsageError(f"“{word}” can't be one word of “{name}”")
            except UsageError as error:
                raise source.wrong((*prefix, key), f"{error}.") from None
    return dataclasses.replace(own, allowed=allowed, from_tags=table.get("from_tags", {}))
