"""Films in many habits of naming."""

from __future__ import annotations

from typing import Any

from benchmarks.corpus.chance import Chance, Truth, release, written
from benchmarks.corpus.words import AWKWARD, EDITIONS, LANGUAGES, SOURCES

_FOLDERS = ("", "Films", "Heap/New folder (2)", "letter", "own")


def film(chance: Chance) -> Truth:
    """A film in one of the habits of naming."""
    title = chance.choice(AWKWARD) if chance.maybe(0.25) else chance.title()
    year = chance.randrange(1925, 2026)
    text, separator, title = written(chance, title)
    fields: dict[str, Any] = {"title": title, "year": year}
    style = chance.choices(["round", "square", "bare", "first", "dash", "none"], [8, 2, 6, 1, 1, 1])[0]
    if separator != " " and style in ("square", "first", "dash"):
        style = "bare"
    middle, tail = _behind(chance, separator, fields)
    clear = style != "none"
    if style == "round":
        stem = f"{text}{separator}({year}){middle}{tail}"
    elif style == "square":
        stem = f"{text} [{year}]{middle}{tail}"
    elif style == "bare":
        stem, clear = f"{text}{separator}{year}{middle}{tail}", bool(middle.strip(" ()._") or tail)
    else:
        fields = {"title": title, "year": year}
        stem = {"first": f"({year}) {text}", "dash": f"{year} - {text}", "none": text + release(chance, separator)}[
            style
        ]
        clear = style == "first"
    if style == "none":
        del fields["year"]
        if title.split()[-1].isdigit() or title[:4].isdigit():  # its number could be a year: only a look would tell
            fields = {}
    if style != "none" and chance.maybe(0.05):
        stem = chance.choice(["[www.example.org] ", "www.example.org - ", "Copy of "]) + stem
        clear = clear or (style == "bare" and not stem.startswith("Copy"))
    folder = chance.choices(_FOLDERS, [5, 3, 2, 2, 2])[0]
    if folder == "letter":
        folder = f"Movies/{title[0]}" if title[0].isascii() else "Movies"
    elif folder == "own":
        folder, clear = f"Films/{title} ({year})", True
        if style == "none":
            fields = {"title": title, "year": year}
    ending = chance.choice(["mkv", "mp4", "avi", "m4v"])
    return Truth(f"{folder}/{stem}.{ending}".lstrip("/"), "movie", fields, clear, f"film {style}{separator}")


def _behind(chance: Chance, separator: str, fields: dict[str, Any]) -> tuple[str, str]:
    """Return what stands behind the year: edition and language, then release words or a part."""
    middle, tail = "", release(chance, separator)
    if chance.maybe(0.12):
        fields["edition"] = chance.choice(list(EDITIONS))
        word = chance.choice(EDITIONS[fields["edition"]])
        plain = word.replace("'", "" if separator != " " else "'").replace(" ", separator)
        middle = f" ({word})" if separator == " " and chance.maybe(0.4) else separator + plain
    if chance.maybe(0.08):
        code = chance.choice(list(LANGUAGES))
        fields["languages"] = [code]
        middle += separator + LANGUAGES[code]
        tail = tail or separator + chance.choice(SOURCES)
    if chance.maybe(0.06) and not tail:
        fields["part"] = chance.randrange(1, 4)
        tail = separator + chance.choice(["CD", "cd", f"disc{separator}"]) + str(fields["part"])
    return middle, tail
