"""The page of pictures for things: those that are planned, and side by side those that may belong to a thing or not."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass

from lazy_magpie.formatting import count_text
from lazy_magpie.paths import written
from lazy_magpie.report.pages import rendered

PLANNED, ASKED = "planned", "in question"


@dataclass(frozen=True)
class PicturePair:
    """A thing (its name, the path of its file) and pictures for it, with what is to be said of them.

    `is_asked` says that a person has to choose. `own` is the file from which the thing itself is drawn, "" for none.
    """

    name: str
    path: str
    pictures: tuple[str, ...]
    why: str
    is_asked: bool
    own: str = ""


def pictures_page(title: str, pairs: Sequence[PicturePair], images: Mapping[str, str]) -> str:
    """Return the page as HTML; `images` are the pictures of files as data URIs, by their paths."""
    shown = sorted(pairs, key=lambda pair: (not pair.is_asked, pair.path))
    planned = sum(not pair.is_asked for pair in pairs)
    return rendered(
        "pictures.html",
        title=title,
        pairs=[_shape(pair, images) for pair in shown],
        planned=count_text(planned, "picture"),
        asked=len(pairs) - planned,
    )


def _shape(pair: PicturePair, images: Mapping[str, str]) -> dict[str, object]:
    return {
        "state": ASKED if pair.is_asked else PLANNED,
        "name": written(pair.name),
        "path": written(pair.path),
        "why": pair.why,
        "cards": list(_cards(pair, images)),
    }


def _cards(pair: PicturePair, images: Mapping[str, str]) -> Iterable[dict[str, str]]:
    if pair.own:
        yield {"word": "stays", "says": "the thing", "path": written(pair.own), "image": images.get(pair.own, "")}
    says, word = ("perhaps", "open") if pair.is_asked else ("its picture", "stays")
    for path in pair.pictures:
        yield {"word": word, "says": says, "path": written(path), "image": images.get(path, "")}
