"""What a player reads beside a thing: data files from templates and in open forms, and pictures that belong to it."""

from __future__ import annotations

from lazy_magpie.companion_files.data_text import FORMS, DataForm, data_form
from lazy_magpie.companion_files.picture_match import FoundPicture, PictureMatcher

__all__ = ["FORMS", "DataForm", "FoundPicture", "PictureMatcher", "data_form"]
