"""What the makers of names share: a truth, chance, and how a habit writes a title."""

from __future__ import annotations

import random
from dataclasses import dataclass, field
from typing import Any

from benchmarks.corpus.words import (
    ADJECTIVES,
    CODECS,
    FIRST,
    GROUPS,
    NAMES,
    NOUNS,
    RESOLUTIONS,
    SOUNDS,
    SOURCES,
)


@dataclass
class Truth:
    """A name and what it is: `clear` says that a careful person would be sure of it."""

    path: str
    kind: str
    fields: dict[str, Any] = field(default_factory=dict)
    clear: bool = True
    habit: str = ""


class Chance(random.Random):
    """Draws words, titles and habits."""

    def maybe(self, share: float) -> bool:
        return self.random() < share

    def title(self) -> str:
        """Return a made-up title in written case."""
        n, a = self.choice(NOUNS), self.choice(ADJECTIVES)
        m = self.choice([other for other in NOUNS if other != n])
        forms = (
            f"The {a} {n}", f"{a} {n}", f"{n} and {m}", f"The {n} of {m}", f"{n} at {self.choice(NAMES)} {m}",
            f"A {a} {n}",
            f"{self.choice(NAMES)}'s {n}", f"{self.choice(FIRST)} {self.choice(NAMES)}", f"The {n} {m}s", f"{n} {a}",
            f"{a} {n} {self.randrange(2, 9)}", f"{n} {self.choice(['II', 'III', 'IV'])}", f"{n} in the {m}", f"{n}",
            f"{self.randrange(2, 99)} {n}s", f"{n} of {self.randrange(1890, 2010)}",
            f"{self.randrange(1890, 2010)} {n}s",
            f"No {n} for the {m}", f"Who Took the {n}", f"{a} {n}, {self.choice(ADJECTIVES)} {m}",
        )  # fmt: skip
        return self.choice(forms)


def written(chance: Chance, text: str) -> tuple[str, str, str]:
    """Return a title as a habit writes it, the separator, and the title as it can then be read again."""
    separator = chance.choices([" ", ".", "_"], [5, 4, 2])[0]
    if separator == "." and ("." in text or " - " in text):
        separator = " "
    cased = text
    if len(text) > 4 and text.isascii() and not any(letter in text for letter in ".'-&,()") and "HD" not in text:
        cased = chance.choices([text, text.lower(), text.upper()], [8, 2, 1])[0]
    if chance.maybe(0.1) and separator == " " and "," not in text:
        for article in ("The ", "A "):
            if cased.startswith(article) and " - " not in text and "(" not in text:
                cased = f"{cased[len(article) :]}, {article.strip()}"
    if separator == "." and "'" in text:
        return cased.replace("'", "").replace(",", "").replace(" ", "."), ".", text.replace("'", "").replace(",", "")
    if separator == ".":
        return cased.replace(", ", ".").replace(" ", "."), ".", text.replace(",", "")
    return cased.replace(" ", separator), separator, text


def release(chance: Chance, separator: str) -> str:
    """Return release words as groups write them, "" for none."""
    kind = chance.randrange(4)
    if kind == 0:
        return ""
    if kind == 1 and separator == " ":
        return "".join(
            f" [{word}]"
            for word in chance.sample([chance.choice(RESOLUTIONS), chance.choice(CODECS), chance.choice(SOUNDS)], 2)
        )
    words = []
    if chance.maybe(0.1):
        words.append(chance.choice(["PROPER", "REPACK", "iNTERNAL"]))
    if chance.maybe(0.85):
        words.append(chance.choice(RESOLUTIONS))
    words.append(chance.choice(SOURCES))
    if chance.maybe(0.5):
        words.append(chance.choice(SOUNDS))
    if chance.maybe(0.7):
        words.append(chance.choice(CODECS))
    text = separator.join(
        word.replace(".", separator) if separator == " " and "5.1" not in word and "2.0" not in word else word
        for word in words
    )
    return separator + text + (f"-{chance.choice(GROUPS)}" if chance.maybe(0.6) else "")
