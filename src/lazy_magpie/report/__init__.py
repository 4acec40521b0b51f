"""Pages for the eye: self-contained HTML, and the small pictures in it."""

from __future__ import annotations

from lazy_magpie.report.checks_page import checks_page, mirror_page
from lazy_magpie.report.copies_page import Card, CopyGroup, copies_page
from lazy_magpie.report.thumbnails import drawn, fitted, portraits

__all__ = ["Card", "CopyGroup", "checks_page", "copies_page", "drawn", "fitted", "mirror_page", "portraits"]
