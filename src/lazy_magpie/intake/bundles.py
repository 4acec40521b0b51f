"""What a bundle is, and whose: by what is in it, by its name, by the makers one knows, by what the files in it say."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from itertools import takewhile

from lazy_magpie.change import Filesystem
from lazy_magpie.identify import siblings_of
from lazy_magpie.identify.file_types import BY_ENDING
from lazy_magpie.identify.folders import place_of
from lazy_magpie.identify.fonts import font as font_readings
from lazy_magpie.identify.kit_sections import maker_and_title, section_in, section_of, spaced
from lazy_magpie.identify.title_text import match_key, normalize_title
from lazy_magpie.intake.downloads import Bundle
from lazy_magpie.intake.embedded_text import NOTHING, EmbeddedText, embedded_text
from lazy_magpie.model import Kind
from lazy_magpie.paths import name_of, split_ending

_BY_MAKER = re.compile(r"(?i)^(?P<title>.+?)[ _.-]+(?:by|von|par|de|por)[ _.-]+(?P<maker>.+)$")
_PART = re.compile(r"(?i)[ ._-]*[(\[]?(?:part|pt|set|pack|vol)?[ ._-]*\d{1,2}[)\]]?$")
_WORD = re.compile(r"[^\W\d_]{3}")
_RULES = re.compile(r"(?i)\b(?:terms|licen[cs]e|read ?me|instructions|conditions)\b")
"""What titles of documents say that are about the use of a thing, not about the thing."""
_MOSTLY = 0.5
_SHORTEST = 3
"""Letters that a maker's name has at least where it is looked for in a text."""


class Makers:
    """The makers that one knows, by every spelling."""

    def __init__(self, known: Iterable[str], also: Mapping[str, Iterable[str]]) -> None:
        self._told = {match_key(one): name for name, others in also.items() for one in (name, *others)}
        self._by_key = {match_key(name): name for name in known} | self._told

    def spelled(self, name: str) -> str:
        """Return the one spelling of a maker's name, "" where nobody knows it."""
        return self._by_key.get(match_key(name), "")

    def told(self, name: str) -> str:
        """Return the one spelling of a maker whom the configuration names, "" where it does not."""
        return self._told.get(match_key(name), "")

    def in_front_of(self, text: str) -> tuple[str, str]:
        """Return the known maker that a name begins with, and the rest of it; ("", the name) where none does."""
        plain = spaced(text.replace("_", " ").replace("-", " "))
        words = list(re.finditer(r"[^\W_]+", plain))
        for count in range(len(words), 0, -1):
            if maker := self._by_key.get(match_key(plain[: words[count - 1].end()])):
                return maker, plain[words[count - 1].end() :].strip(" ._-")
        return "", text

    def named_in(self, text: str) -> str:
        """Return the one known maker that a text names, "" where it names none or several."""
        plain = match_key(text)
        found = {name for key, name in self._by_key.items() if len(key) >= _SHORTEST and key in plain}
        return found.pop() if len(found) == 1 else ""


@dataclass(frozen=True)
class BundleIdentity:
    """What a bundle of a maker's is called: "" for what is not known; `doubt` says what keeps it from being sure."""

    maker: str
    title: str
    section: str = ""
    doubt: str = ""


def sort_of(bundle: Bundle) -> Kind | None:
    """Return what a bundle holds: a kit, designs, a font; None where each file speaks for itself."""
    kinds = bundle.kinds
    if designs := kinds[Kind.DESIGN]:
        letters = siblings_of(name_of(piece.path) for piece in bundle.pieces).letters
        return Kind.FONT if letters and designs > 1 else Kind.DESIGN
    if kinds[Kind.FONT] and kinds[Kind.FONT] >= kinds[Kind.PICTURE]:
        return Kind.FONT
    if kinds[Kind.MOVIE] or kinds[Kind.TRACK] or kinds[Kind.GAME]:
        return None
    if kinds[Kind.PICTURE] >= _MOSTLY * len(bundle.pieces):
        return Kind.KIT
    return None


_PROJECT = frozenset(
    (
        "cmakelists.txt configure configure.ac configure.in makefile makefile.am makefile.in gnumakefile setup.py "
        "setup.cfg pyproject.toml package.json cargo.toml go.mod meson.build pom.xml build.gradle sconstruct build.xml"
    ).split()
)
"""Names of files by which programs are built."""
_CODE = frozenset(".c .cc .cpp .cxx .h .hh .hpp .py .js .ts .java .rs .go .cs .pl .rb .sh .vala .lua .php".split())
_RUN = frozenset(".exe .dll .msi .so .dylib .class".split())
_SHARE_OF_CODE = 0.2
"""The share of files with which a bundle of pictures or fonts is a program all the same: tools come with some."""


def is_program(bundle: Bundle) -> bool:
    """Say whether a bundle is a program or the source of one, which makes sense as a whole alone."""
    skip = len(bundle.common) + 1 if bundle.common else 0
    paths = [piece.path[skip:] for piece in bundle.pieces]
    endings = Counter(split_ending(name_of(path))[1].lower() for path in paths)
    code, run = (sum(endings[ending] for ending in some) for some in (_CODE, _RUN))
    built = any(path.count("/") < 2 and name_of(path).lower() in _PROJECT for path in paths)
    if not (run or (built and code)) or bundle.kinds[Kind.GAME]:
        return False
    return sort_of(bundle) is None or code + run >= _SHARE_OF_CODE * len(paths)


def is_wrapper(bundle: Bundle) -> bool:
    """Say whether a bundle holds archives and little else."""
    kinds = bundle.kinds
    return kinds[Kind.ARCHIVE] > 0 and kinds[Kind.ARCHIVE] >= _MOSTLY * (len(bundle.pieces) - kinds[Kind.DOCUMENT])


def identify_bundles(disk: Filesystem, sold: Sequence[tuple[Bundle, Kind]], makers: Makers) -> list[BundleIdentity]:
    """Return what bundles are called; where a name leaves a doubt, and of fonts, the files in it are asked."""
    names = [_name(bundle, kind, makers, NOTHING) for bundle, kind in sold]
    asked = [at for at, name in enumerate(names) if name.doubt or sold[at][1] is Kind.FONT]
    for at, said in zip(asked, embedded_text(disk, [sold[at][0] for at in asked]), strict=True):
        names[at] = _name(*sold[at], makers, said)
    return names


def _name(bundle: Bundle, kind: Kind, makers: Makers, said: EmbeddedText) -> BundleIdentity:
    if kind is Kind.FONT and (family := _family_of(bundle, said)):
        maker = makers.told(said.vendor) or makers.told(makers.in_front_of(bundle.name)[0])
        return BundleIdentity(maker if match_key(maker) != match_key(family) else "", family)
    return identify_bundle(bundle, makers, said)


def _family_of(bundle: Bundle, said: EmbeddedText) -> str:
    """Return what fonts are called together: their one family, or what the names of several begin with.

    They say it themselves, or all of their files are named so; where they say that they have families, but these have
    nothing in common, it is what the bundle is called. "" for nothing.
    """
    named = _families_by_name(bundle)
    if said.all_fonts and (shared := _shared_by(said.families)):
        return shared
    if len(named) == 1:
        return named[0]
    return (_shared_by(named) or normalize_title(spaced(_VERSION.sub("", bundle.name)))) if said.families else ""


_VERSION = re.compile(r"(?i)[ ._-]*v?\d+(?:[._]\d+)+.*$")


def _shared_by(families: Sequence[str]) -> str:
    """Return what the names of families begin with, by whole words, "" for nothing."""
    if len(families) < 2:
        return "".join(families)
    words = zip(*(re.split(r"[ _]+", family) for family in families), strict=False)
    return " ".join(some[0] for some in takewhile(lambda some: len(set(some)) == 1, words))


def _families_by_name(bundle: Bundle) -> Sequence[str]:
    """Return the families that the names of a bundle's fonts say."""
    found: set[str] = set()
    for piece in bundle.pieces:
        stem, ending = split_ending(name_of(piece.path))
        if BY_ENDING.get(ending.lower()) is Kind.FONT:
            found |= {str(read.fields.get("family", "")) for read in font_readings(stem, place_of(""))}
    return sorted(found)


def identify_bundle(bundle: Bundle, makers: Makers, said: EmbeddedText = NOTHING) -> BundleIdentity:
    """Say whose a bundle is and what it is called; `said` is what the files in it say.

    The bundle's own name, and that of the one folder in it, are both asked; a known maker decides. Where neither says
    anything, the titles of documents in it are asked, if a known maker is named there.
    """
    names = [bundle.name]
    if (top := bundle.top) and not section_of(top):
        names.append(top)
    read = [_read(name, makers) for name in names]
    best = next((one for one in read if one.maker and not one.doubt), None)
    if best is None and not any(one.title for one in read):
        titled = (_read(title, makers) for title in said.titles if not _RULES.search(title))
        best = next((one for one in titled if one.maker and not one.doubt), None)
    best = best or next((one for one in read if one.maker), None) or read[0]
    if best.doubt and said.text and (maker := makers.named_in(said.text)):
        title = best.title if match_key(maker) != match_key(best.title) else ""
        whole = " ".join(filter(None, (best.maker, title))) if match_key(best.maker) != match_key(maker) else title
        return BundleIdentity(maker, whole or best.title, best.section)
    return best


def _read(name: str, makers: Makers) -> BundleIdentity:
    """Read one name: a section behind it, a known maker in front or behind "by", else a guess."""
    if not _WORD.search(name):
        return BundleIdentity("", "", doubt="no maker: nothing says who made it")
    section, _, front = section_in(name)
    front = front if section else name
    if not section:
        front = _PART.sub("", front) or front
    if (match := _BY_MAKER.match(spaced(front))) and (maker := makers.spelled(match["maker"])):
        return BundleIdentity(maker, normalize_title(match["title"]), section)
    maker, rest = makers.in_front_of(front)
    if maker and rest:
        return BundleIdentity(maker, normalize_title(spaced(rest)), section)
    maker, title = maker_and_title(front)
    if not title:
        return BundleIdentity("", maker, section, "no maker: nothing says who made it")
    return BundleIdentity(maker, title, section, f"order of names: “{maker}” may be the maker, from the name alone")
