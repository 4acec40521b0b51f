"""What a person has settled of things that wait among the downloads: by it they are brought in."""

from __future__ import annotations

from collections.abc import Mapping

from lazy_magpie.catalogue import Catalogue, OneOf
from lazy_magpie.intake import Bundle, BundleIdentity
from lazy_magpie.model import Item, Kind, State


def answered(catalogue: Catalogue, path: str) -> Item | None:
    """Return the item with its main file at a path, if a person or a list has settled it; else None."""
    id = catalogue.items.at(path)
    if id is None or catalogue.items.answer_of(id) is None:
        return None
    return next((item for item in catalogue.items.ask(OneOf((id,))) if item.state is State.SETTLED), None)


def of_bundle(catalogue: Catalogue, bundle: Bundle) -> Item | None:
    """Return what a bundle was settled to be: its archive, or a file in its folder; None where it was not."""
    paths = [bundle.archive.path] if bundle.archive else [piece.source.path for piece in bundle.pieces]
    return next((item for path in paths if (item := answered(catalogue, path))), None)


def name_of_answer(fields: Mapping[str, object], name: BundleIdentity) -> BundleIdentity:
    """Return what something is called by an answer, and where that says nothing, by its own name; without a doubt."""
    title = fields.get("title") or fields.get("family") or name.title
    return BundleIdentity(
        str(fields.get("maker") or name.maker), str(title), str(fields.get("section") or name.section)
    )


def kind_of(item: Item | None, kind: Kind | None) -> Kind | None:
    """Return the kind of what a maker sells by an answer, else the one that it is taken for."""
    return item.kind if item is not None and item.kind in (Kind.KIT, Kind.DESIGN, Kind.FONT) else kind
