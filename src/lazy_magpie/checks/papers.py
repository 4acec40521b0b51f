"""Rules of what makers sell: kits that one can't look at, fonts of which one does not know what they allow."""

from __future__ import annotations

from collections.abc import Iterable

from lazy_magpie.checks.findings import Check, Finding, Rule, Sight
from lazy_magpie.identify.file_types import BY_ENDING, is_archive
from lazy_magpie.model import Item, Kind
from lazy_magpie.paths import name_of, parent, split_ending

_PREVIEW = ("preview", "folder.", "cover")


class _Preview(Check):
    """Kits without a preview."""

    def see(self, item: Item) -> Iterable[Finding]:
        """Look at a kit's files."""
        if item.kind is Kind.KIT and len(item.files) > 1 and not is_archive(name_of(item.path)):
            names = [name_of(file.path).lower() for file in item.files]
            roles = {file.role for file in item.files}
            if not roles & {"thumbnail", "cover"} and not any(word in name for name in names for word in _PREVIEW):
                yield Finding("no-preview", item.path, "the kit has no preview")


class _Licence(Check):
    """Families of fonts beside which no licence lies, and which say none themselves."""

    def __init__(self, sight: Sight) -> None:
        super().__init__(sight)
        self._families: dict[str, str] = {}
        self._licensed: set[str] = set()

    def see(self, item: Item) -> Iterable[Finding]:
        """Note fonts, and papers."""
        folder = parent(item.path)
        if item.kind is Kind.FONT and BY_ENDING.get(split_ending(item.path)[1].lower()) is Kind.FONT:
            self._families.setdefault(folder, item.path)
            if item.facts.get("licence") or any(file.role == "licence" for file in item.files):
                self._licensed.add(folder)
        elif item.fields.get("role") == "licence" or name_of(item.path).lower().startswith(("licen", "ofl")):
            self._licensed.add(folder)
        return ()

    def end(self) -> Iterable[Finding]:
        """Return a font for each folder without a licence."""
        for folder, path in self._families.items():
            if folder not in self._licensed:
                yield Finding("no-licence", path, "no licence lies with the font, and it names none")


RULES = (
    Rule("no-preview", "a kit without a preview", _Preview),
    Rule("no-licence", "a font without a licence", _Licence),
)
