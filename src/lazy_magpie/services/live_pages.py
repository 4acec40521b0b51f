"""Pages of the live catalogue: part of a wall by find words, the report, and pictures as they are made.

Nothing is written but small pictures that are kept. Each answer opens the catalogue anew, so that it shows what is so.
"""

from __future__ import annotations

import re
import shlex
import threading
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from urllib.parse import urlencode

from lazy_magpie.catalogue import Catalogue, Condition, asks_for, opened
from lazy_magpie.collection import Collection
from lazy_magpie.errors import MagpieError, UsageError
from lazy_magpie.formatting import count_text
from lazy_magpie.report.collection_page import about_line, report_page
from lazy_magpie.report.picture_store import PictureSource
from lazy_magpie.report.wall_page import live_page
from lazy_magpie.services.report import report_of
from lazy_magpie.services.wall import places_of_wall, shown_of, store_of

ON_PAGE = 200
"""Items on one page."""
SORTS = {"": "place", "title": "title", "size": "size", "year": "year", "arrived": "arrived", "length": "length"}
_KEY = re.compile("[0-9a-f]{32}")
_WAIT = 60.0
_LINKED = 2
"""Pages before and behind that are linked, besides the first and the last."""


@dataclass(frozen=True)
class Asked:
    """What a person asks of the wall: find words, the field to sort by, and which page."""

    words: str = ""
    sort: str = ""
    down: bool = False
    page: int = 1


class LivePages:
    """The pages of a collection. `choose` turns find words into a condition."""

    def __init__(
        self, collection: Collection, choose: Callable[[Catalogue, Sequence[str]], Condition], on_page: int = ON_PAGE
    ) -> None:
        self.collection, self.choose, self.on_page = collection, choose, on_page
        self.store = store_of(collection)
        self._drawing = threading.Lock()
        self._pending: set[str] = set()
        self._done = threading.Condition()

    def wall(self, asked: Asked, nonce: str) -> str:
        """Return a page of the wall; what is wrong with the words is said on it."""
        said = ""
        with opened(self.collection) as catalogue:
            try:
                words = shlex.split(asked.words)
                if asked.sort not in SORTS:
                    raise UsageError(f"There is no order “{asked.sort}”.")
                condition = self.choose(catalogue, words)
            except (UsageError, ValueError) as error:
                said = str(error) if isinstance(error, MagpieError) else f"The quotes in “{asked.words}” don't match."
                condition = self.choose(catalogue, [])
            return self._page(catalogue, condition, asked, said, nonce)

    def report(self) -> str:
        """Return the report as it is now."""
        tables = report_of(self.collection, "", lambda text: None, lambda count: None)
        return report_page(self.collection.name, about_line(tables), tables)

    def picture(self, key: str) -> bytes | None:
        """Return a picture, b"" where there is none, None for what is no key; one that is being drawn is waited for."""
        if not _KEY.fullmatch(key):
            return None
        with self._done:
            self._done.wait_for(lambda: key not in self._pending, _WAIT)
        return self.store.read(key)

    def _page(self, catalogue: Catalogue, condition: Condition, asked: Asked, said: str, nonce: str) -> str:
        gone = asks_for(condition, "gone")
        count = catalogue.items.count(condition, gone=gone)
        last = max(1, -(-count // self.on_page))
        number = min(max(asked.page, 1), last)
        window = ((number - 1) * self.on_page, self.on_page)
        places = places_of_wall(self.collection, catalogue, "")
        items = catalogue.items.ask(condition, asked.sort, down=asked.down, gone=gone, window=window)
        rows, whole, sources = shown_of(self.collection, catalogue, items, places)
        for one, source in zip(rows, sources, strict=True):
            if source and (self.store.has(source.key) or not self.store.is_tried(source.key)):
                one["picture"] = source.key
        self._draw(sources, places.whole)
        shown = f"{window[0] + 1:,} to {window[0] + len(rows):,} of {count_text(count, 'item')}" if count else "0 items"
        return live_page(
            self.collection.name,
            shown,
            rows,
            whole,
            action="./",
            nonce=nonce,
            words=asked.words,
            sort=asked.sort,
            sorts=list(SORTS.items()),
            down=asked.down,
            said=said,
            pages=list(_links(asked, number, last)) if last > 1 else [],
        )

    def _draw(self, sources: Sequence[PictureSource | None], whole: Callable[[str, str], str]) -> None:
        """Draw what there is no picture of yet, beside the answer."""
        lacking = [one for one in sources if one and not self.store.is_tried(one.key)]
        keys = {one.key for one in lacking}
        with self._done:
            lacking = [one for one in lacking if one.key not in self._pending]
            self._pending |= keys
        if not lacking:
            return

        def work() -> None:
            try:
                with self._drawing:
                    self.store.make(lacking, whole)
            except OSError:
                pass  # a full disk costs pictures, and nothing else
            finally:
                with self._done:
                    self._pending -= {one.key for one in lacking}
                    self._done.notify_all()

        threading.Thread(target=work, daemon=True).start()


def _links(asked: Asked, number: int, last: int) -> Iterator[tuple[str, str]]:
    """Yield the links to other pages (text, place); the page itself has no place."""
    near = range(max(1, number - _LINKED), min(last, number + _LINKED) + 1)
    if number > 1:
        yield "back", _place(asked, number - 1)
    for page in sorted({1, *near, last}):
        yield f"{page:,}", "" if page == number else _place(asked, page)
    if number < last:
        yield "next", _place(asked, number + 1)


def _place(asked: Asked, page: int) -> str:
    said = {"words": asked.words, "sort": asked.sort, "down": "1" * asked.down, "page": str(page)}
    return f"./?{urlencode({name: value for name, value in said.items() if value})}"
