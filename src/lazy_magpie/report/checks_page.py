"""The page of what is wrong: what `check` finds, by rule and folder, to be searched and filtered."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from itertools import groupby
from typing import NamedTuple

from lazy_magpie.checks import Finding
from lazy_magpie.formatting import count_text
from lazy_magpie.paths import parent, written
from lazy_magpie.report.pages import rendered


class _Line(NamedTuple):
    """A finding as the page shows it."""

    folder: str
    path: str
    text: str
    fix: str


def checks_page(title: str, findings: Sequence[Finding], says: Mapping[str, str]) -> str:
    """Return the page as HTML; the findings of one rule stand together, `says` has what each rule says."""
    rules = [
        {"name": rule, "says": says[rule], "findings": [_line(one) for one in found]}
        for rule, found in groupby(findings, key=lambda one: one.rule)
    ]
    return rendered(
        "checks.html",
        title=title,
        rules=rules,
        findings=count_text(len(findings), "finding"),
        mended=sum(one.fix is not None for one in findings),
    )


def _line(one: Finding) -> _Line:
    return _Line(written(parent(one.path)), written(one.path), one.text, one.fix or "")
