"""The pages of what is wrong: what `check` finds, by rule and folder, and how a mirror differs; to be searched."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from itertools import groupby
from typing import NamedTuple

from lazy_magpie.checks import Finding
from lazy_magpie.formatting import count_text
from lazy_magpie.mirrors import Difference
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


def mirror_page(title: str, differences: Sequence[Difference]) -> str:
    """Return the page of how a mirror differs as HTML; the files of one state stand together."""
    states = [
        {"name": state.value, "says": "", "findings": [_of_mirror(one) for one in some]}
        for state, some in groupby(differences, key=lambda one: one.state)
    ]
    count = count_text(len(differences), "difference")
    return rendered("checks.html", title=f"the mirror of {title}", rules=states, findings=count, mended=None)


def _of_mirror(one: Difference) -> _Line:
    there = f"there it is {written(one.other)}" if one.other else ""
    return _Line(written(parent(one.path)), written(one.path), " · ".join(filter(None, (there, one.why))), "")
