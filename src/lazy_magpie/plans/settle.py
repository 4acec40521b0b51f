"""Settles items: by a person's word, by accepting a reading, by a clear match in a title list; each as one change."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterable, Sequence
from dataclasses import replace

from lazy_magpie.catalogue import All, Catalogue, Condition, Is, bare
from lazy_magpie.change import Outcome, Watch
from lazy_magpie.collection import Collection
from lazy_magpie.errors import UsageError
from lazy_magpie.identify.marks import FIRST_YEAR, LAST_YEAR
from lazy_magpie.identify.readings import lacks
from lazy_magpie.model import Item, Kind, Plan, State, Step, Value
from lazy_magpie.paths import written
from lazy_magpie.plans import carry_out
from lazy_magpie.plans.own import fillings, parted
from lazy_magpie.plans.questions import PERSON, Answer, Question, answered, questions, settling, wanted
from lazy_magpie.scan import identity_of
from lazy_magpie.suggest import nearest
from lazy_magpie.titles import Candidate
from lazy_magpie.titles.service import Services

FIELDS = {
    Kind.MOVIE: "title year edition part languages",
    Kind.EPISODE: "show show_year season episode last_episode part episode_title air_date running languages",
    Kind.EXTRA: "extra title of year",
    Kind.TRACK: "artist album_artist album year disc track title genre",
    Kind.GAME: "title year regions languages revision disc status system",
    Kind.FIRMWARE: "system title",
    Kind.FONT: "family style maker glyph",
    Kind.DESIGN: "maker title code",
    Kind.KIT: "maker title section part",
    Kind.PICTURE: "title",
    Kind.DOCUMENT: "title",
    Kind.ARCHIVE: "title",
}
"""The fields that an item of a kind may have."""
_NUMBERS = frozenset("year show_year season episode last_episode part running disc track".split())
_LISTS = frozenset("languages regions status".split())
_YEARS = frozenset(["year", "show_year"])
_DATE = re.compile(r"\d{4}-\d\d-\d\d")


class Settler:
    """Answers questions about the items of one collection; what is answered is kept at once, as a change."""

    def __init__(self, collection: Collection, catalogue: Catalogue, tell: Callable[[str], None]) -> None:
        self.collection = collection
        self.catalogue = catalogue
        self.services = Services(catalogue.titles, tell)

    def open_questions(self, condition: Condition) -> list[Question]:
        """Return the questions about the doubtful items that meet `condition`."""
        items = list(self.catalogue.items.ask(All((condition, Is("state", State.DOUBTFUL.value)))))
        self.services.prepare(wanted(items))
        return questions(items, self.catalogue.titles)

    def take(self, question: Question, candidate: Candidate) -> Outcome | None:
        """Settle a question's items as a candidate says, by the person's word."""
        pairs = ((item, answered(item, candidate, self.catalogue.titles)) for item in question.items)
        return self._keep((item, Answer(a.kind, a.fields)) for item, a in pairs if a is not None)

    def accept(self, chosen: Iterable[Question]) -> Outcome | None:
        """Settle the items of questions as they are read, where no needed field is missing."""
        ready = (question for question in chosen if question.readable)
        return self._keep((item, Answer(item.kind, item.fields)) for question in ready for item in question.items)

    def put(self, items: Sequence[Item], words: Sequence[str]) -> Outcome | None:
        """Settle items by hand: FIELD=VALUE words, also of fields of one's own, which settle nothing.

        Raises UsageError for a word that can't be meant.
        """
        own, others = parted(words, self.collection.config.fields)
        steps = fillings(items, own, self.collection.config.fields)
        return self._keep([(item, by_hand(item, others)) for item in items] if others else (), steps)

    def auto(self, condition: Condition) -> Outcome | None:
        """Settle what the title lists leave no doubt about; what a list settled before yields to a better match."""
        settled = self.catalogue.items.ask(All((condition, Is("state", State.SETTLED.value))))
        before = [item for item in settled if (self._answer(item) or {}).get("by") != PERSON]
        again = [self._afresh(item) for item in before]
        doubtful = self.catalogue.items.ask(All((condition, Is("state", State.DOUBTFUL.value))))
        items = [*doubtful, *(item for item in again if item.doubts)]
        self.services.prepare(wanted(items))
        answers = []
        for question in questions(items, self.catalogue.titles):
            if question.clear:
                for item in question.items:
                    if answer := answered(item, question.found[0], self.catalogue.titles):
                        answers.append((item, answer))
        return self._keep(answers)

    def unset(self, condition: Condition) -> Outcome | None:
        """Take back what was settled of the items that meet `condition`."""
        items = list(self.catalogue.items.ask(All((condition, Is("state", State.SETTLED.value)))))
        return self._keep((item, None) for item in items)

    def _afresh(self, item: Item) -> Item:
        """Return an item as it would be read if nothing had settled it."""
        found = identity_of(self.catalogue, self.collection.config, item.path, item.root)
        return replace(
            item,
            kind=found.kind,
            state=found.state,
            confidence=found.confidence,
            fields=found.fields,
            facts=found.facts,
            doubts=found.doubts,
        )

    def _answer(self, item: Item) -> dict[str, object] | None:
        return self.catalogue.items.answer_of(item.id)

    def _keep(self, answers: Iterable[tuple[Item, Answer | None]], also: Sequence[Step] = ()) -> Outcome | None:
        """Apply the answers that change anything, and the steps `also`, as one change; None where nothing changes."""
        steps = list(also)
        for item, answer in answers:
            old = self._answer(item)
            if answer is None or answer.shape != bare(old):
                steps.append(settling(item, answer, old))
        if not steps:
            return None
        numbered = tuple(step.numbered(number) for number, step in enumerate(steps, start=1))
        return carry_out.apply(self.collection, self.catalogue, Plan("settle", numbered), Watch())


def by_hand(item: Item, words: Sequence[str]) -> Answer:
    """Return what an item is when `words` (FIELD=VALUE) are put over its fields; `kind=…` makes it another kind.

    An empty value takes a field away. Raises UsageError for an unknown field, a wrong value, a needed field missing.
    """
    pairs = [_pair(word) for word in words]
    kind = next((_kind(value) for field, value in pairs if field == "kind"), item.kind)
    known = FIELDS.get(kind, "").split()
    fields = {key: value for key, value in item.fields.items() if key in known}
    for field, text in pairs:
        if field == "kind":
            continue
        if field not in known:
            raise UsageError(f"{kind.value} has no field “{field}”{nearest(field, known, _there_are(known))}")
        if text:
            fields[field] = _value(field, text)
        else:
            fields.pop(field, None)
    if missing := lacks(kind, fields):
        named = " and ".join(name.replace("_", " ") for name in missing)
        raise UsageError(f"“{written(item.path)}” still has no {named}; add --set {missing[0]}=… as well.")
    return Answer(kind, fields)


def _pair(word: str) -> tuple[str, str]:
    field, equals, value = word.partition("=")
    if not equals or not field.strip():
        raise UsageError(f"“{word}” is not FIELD=VALUE, like year=1985.")
    return field.strip(), value.strip()


def _kind(text: str) -> Kind:
    kinds = [kind.value for kind in FIELDS]
    if text not in kinds:
        raise UsageError(f"There is no kind “{text}”{nearest(text, kinds, _there_are(kinds))}")
    return Kind(text)


def _there_are(names: Sequence[str]) -> str:
    return f"; there are {', '.join(names)}."


def _value(field: str, text: str) -> Value:
    if field in _NUMBERS:
        if not text.isdecimal() or len(text) > 5:
            raise UsageError(f"“{field}” is a number, not “{text}”.")
        if field in _YEARS and not FIRST_YEAR <= int(text) <= LAST_YEAR:
            raise UsageError(f"“{field}” is a year from {FIRST_YEAR} to {LAST_YEAR}, not {text}.")
        return int(text)
    if field in _LISTS:
        return [part.strip() for part in text.split(",") if part.strip()]
    if field == "air_date" and not _DATE.fullmatch(text):
        raise UsageError(f"“air_date” is written 2019-03-21, not “{text}”.")
    return text
