"""What a player reads beside a thing: data files from templates and in open forms, and pictures that belong to it."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence

from lazy_magpie.companion_files.data_text import FORMS, DataForm, data_form
from lazy_magpie.companion_files.index_page import index_html
from lazy_magpie.companion_files.picture_match import FoundPicture, PictureMatcher
from lazy_magpie.companion_files.play_list_text import Entry, m3u8, xspf
from lazy_magpie.companion_files.works import Work, WorkKind, work_of, works_in
from lazy_magpie.model import Kind

__all__ = [
    "FORMS",
    "LIST_FORMS",
    "PLAYED",
    "DataForm",
    "FoundPicture",
    "PictureMatcher",
    "Work",
    "WorkKind",
    "data_form",
    "work_of",
    "works_in",
]

PLAYED = (Kind.MOVIE, Kind.EPISODE, Kind.EXTRA, Kind.TRACK)
"""What has a place in a play list."""
LIST_FORMS: Mapping[str, Callable[[str, Sequence[Entry], str], str]] = {"m3u8": m3u8, "xspf": xspf, "html": index_html}
"""The forms of lists of things, by the ending that they have: each takes a title, the entries, and where it lies."""
