"""Pages for the eye: self-contained HTML, and the small pictures in it."""

from __future__ import annotations

from lazy_magpie.report.copies_page import Card, Group, copies_page
from lazy_magpie.report.drawing import drawn

__all__ = ["Card", "Group", "copies_page", "drawn"]
