"""The text of a data file: from a Jinja2 template of one's own, which can reach nothing, or in an open form."""

from __future__ import annotations

import re
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Any

from lazy_magpie.companion_files.open_forms import dublin_core, json_ld, xmp
from lazy_magpie.companion_files.works import Work
from lazy_magpie.errors import UsageError
from lazy_magpie.model import Item, Value
from lazy_magpie.paths import endings_of, name_of, parent, split_ending, written

_MARKED_UP = re.compile(r"\.(?:xml|html?|xhtml|svg|nfo)$", re.IGNORECASE)
"""Endings of texts in which what a value holds has to be escaped."""
_SUFFIX = ".j2"
_LARGEST = 1 << 20


@dataclass(frozen=True)
class DataForm:
    """A form of data files: the ending that they have, and what makes the text of one.

    `name` is what the file of a show or an album is called; "" says: as its folder.
    """

    ending: str
    text: Callable[[Item | Work], str]
    name: str = ""


FORMS: Mapping[str, DataForm] = {
    "json-ld": DataForm(".jsonld", json_ld),
    "dublin-core": DataForm(".xml", dublin_core),
    "xmp": DataForm(".xmp", xmp),
}
"""The open forms that come with magpie."""


def data_form(name: str, template: str) -> DataForm:
    """Return the form of a template of one's own; `name` is its file's (lounge.xml.j2), `template` its text.

    Raises UsageError with the line where it is no template that can be read.
    """
    from jinja2 import TemplateSyntaxError
    from jinja2.sandbox import ImmutableSandboxedEnvironment

    own = name.removesuffix(_SUFFIX)
    ending = split_ending(own)[1]
    if not name.endswith(_SUFFIX) or not ending:
        raise UsageError(f"A template is called by what it makes: {own or 'lounge'}.xml.j2, not {name}.")
    around = ImmutableSandboxedEnvironment(autoescape=bool(_MARKED_UP.search(own)), keep_trailing_newline=True)
    try:
        compiled = around.from_string(template)
    except TemplateSyntaxError as error:
        raise UsageError(f"{name}, line {error.lineno}: {error.message}; correct the template.") from None
    return DataForm(ending, lambda item: _filled(name, compiled, item), own)


def _filled(name: str, compiled: Any, item: Item | Work) -> str:
    """Fill a template in. Raises UsageError where it asks for what there is not, or makes far too much."""
    where = item.folder if isinstance(item, Work) else item.path
    try:
        text = "".join(_limited(compiled.generate(values_of(item)), name))
    except UsageError:
        raise
    except Exception as error:  # whatever a template does
        raise UsageError(f"{name} can't be filled in for {written(where)}: {error}; correct the template.") from None
    return text


def _limited(pieces: Any, name: str) -> Any:
    size = 0
    for piece in pieces:
        size += len(piece)
        if size > _LARGEST:
            raise UsageError(f"{name} makes more than a megabyte for one thing; correct the template.")
        yield piece


def values_of(item: Item | Work) -> dict[str, Any]:
    """Return what a template may name: all fields and facts, and where the thing lies; what is missing is empty.

    Of a show or an album these are what all of its things say alike; `things` are the values of each.
    """
    if isinstance(item, Work):
        things = [values_of(one) for one in item.things]
        places = {"path": written(item.folder), "folder": written(name_of(item.folder)), "stem": written(item.title)}
        return {**_shown(item.fields), **places, "kind": item.kind.value, "tags": item.tags, "things": things}
    return {
        **_shown({**item.facts, **item.fields, **item.custom}),
        "kind": item.kind.value,
        "path": written(item.path),
        "folder": written(name_of(parent(item.path))),
        "stem": written(split_ending(name_of(item.path))[0]),
        "tags": list(item.tags),
        "endings": list(endings_of(name_of(file.path) for file in item.files)),
    }


def _shown(values: Mapping[str, Value]) -> dict[str, Value]:
    return {key: written(value) if isinstance(value, str) else value for key, value in values.items()}
