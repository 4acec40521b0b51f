"""Settles items: by a person's word, by accepting a reading, by a clear match in a title list; each as one change."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence
from dataclasses import replace

from lazy_magpie.catalogue import All, Catalogue, Condition, Is
from lazy_magpie.change import Outcome, RunControl
from lazy_magpie.collection import Collection
from lazy_magpie.errors import UsageError
from lazy_magpie.identify.roles.place import ROLES
from lazy_magpie.model import PERSON, Answer, Item, Plan, State, Step
from lazy_magpie.model.steps import LeaveFindings, SettleFolder, renumbered
from lazy_magpie.planners.custom_fields import set_field_steps, split_assignments
from lazy_magpie.planners.listed import listed_otherwise
from lazy_magpie.planners.manual_answers import by_hand
from lazy_magpie.planners.questions import Question, answered, questions, settling, wanted
from lazy_magpie.scan import identity_of
from lazy_magpie.services import execute
from lazy_magpie.titles import TitleMatch
from lazy_magpie.titles.reconciliation_client import Services


class Resolver:
    """Answers questions about the items of one collection; what is answered is kept at once, as a change."""

    def __init__(self, collection: Collection, catalogue: Catalogue, tell: Callable[[str], None]) -> None:
        self.collection = collection
        self.catalogue = catalogue
        self.services = Services(catalogue.titles, tell)

    def open_questions(self, condition: Condition) -> list[Question]:
        """Return the questions about the items that meet `condition`: the doubtful ones, and those that title lists
        have otherwise."""
        titles = self.catalogue.titles
        items = list(self.catalogue.items.ask(All((condition, Is("state", State.DOUBTFUL.value)))))
        self.services.prepare(wanted(items))
        clear = self.catalogue.items.ask(All((condition, Is("state", State.CLEAR.value)))) if titles.lists() else ()
        return [*questions(items, titles), *listed_otherwise(clear, titles)]

    def settle_as(self, question: Question, candidate: TitleMatch) -> Outcome | None:
        """Settle a question's items as a candidate says, by the person's word."""
        pairs = ((item, answered(item, candidate, self.catalogue.titles)) for item in question.items)
        return self._keep((item, Answer(a.kind, a.fields)) for item, a in pairs if a is not None)

    def accept(self, chosen: Iterable[Question]) -> Outcome | None:
        """Settle the items of questions as they are read, where no needed field is missing."""
        ready = (question for question in chosen if question.readable)
        return self._keep((item, Answer(item.kind, item.fields)) for question in ready for item in question.items)

    def put(self, items: Sequence[Item], words: Sequence[str]) -> Outcome | None:
        """Settle items by hand: FIELD=VALUE words, also of custom fields, which settle nothing.

        Raises UsageError for a word that can't be meant.
        """
        own, others = split_assignments(words, self.collection.config.fields)
        steps = set_field_steps(items, own, self.collection.config.fields)
        return self._keep([(item, by_hand(item, others)) for item in items] if others else (), steps)

    def put_role(self, root: str, folder: str, role: str) -> Outcome | None:
        """Settle what a folder is for by the person's word, "" to take that back; None where nothing changes.

        Raises UsageError for what is no role.
        """
        if role and role not in ROLES:
            raise UsageError(f"A folder is a {', '.join(ROLES[:-1])}, or beside; not “{role}”.")
        numbers = {one.name: one.number for one in self.catalogue.roots.all()}
        old = self.catalogue.roles.told(numbers[root]).get(folder, "")
        if old == role:
            return None
        why = "settled by person" if role else "taken back"
        step = SettleFolder(source=folder, root=root, old=old, new=role, why=why)
        return execute.apply(self.collection, self.catalogue, Plan("settle", renumbered([step])), RunControl())

    def leave(self, paths: Iterable[str], rules: Iterable[str]) -> Outcome | None:
        """Leave what rules of `check` find at paths of the own root, and below, for ever; no rules: no longer.

        None where nothing changes.
        """
        before, said = self.catalogue.left.all(), set(rules)
        steps = []
        for path in paths:
            old = before.get(path, ())
            new = tuple(sorted(said.union(old))) if said else ()
            if new != old:
                steps.append(LeaveFindings(source=path, old=old, new=new, why="settled by person"))
        return self._keep((), steps)

    def auto(self, condition: Condition) -> Outcome | None:
        """Settle what the title lists leave no doubt about; what a list settled before yields to a better match."""
        settled = self.catalogue.items.ask(All((condition, Is("state", State.SETTLED.value))))
        before = [item for item in settled if (answer := self._answer(item)) is None or answer.by != PERSON]
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
        found = identity_of(self.catalogue, self.collection.config, item)
        return replace(
            item,
            kind=found.kind,
            state=found.state,
            confidence=found.confidence,
            fields=found.fields,
            facts=found.facts,
            doubts=found.doubts,
        )

    def _answer(self, item: Item) -> Answer | None:
        return self.catalogue.items.answer_of(item.id)

    def _keep(self, answers: Iterable[tuple[Item, Answer | None]], also: Sequence[Step] = ()) -> Outcome | None:
        """Apply the answers that change anything, and the steps `also`, as one change; None where nothing changes."""
        steps = list(also)
        for item, answer in answers:
            old = self._answer(item)
            if answer is None or answer != old:
                steps.append(settling(item, answer, old))
        if not steps:
            return None
        return execute.apply(self.collection, self.catalogue, Plan("settle", renumbered(steps)), RunControl())
