"""`magpie settle [ITEMS]`: what is doubtful, as questions with candidates; by list, by hand, or one by one."""

from __future__ import annotations

import argparse
import os
import re
import sys
from collections.abc import Mapping, Sequence
from itertools import groupby
from typing import Any

from lazy_magpie.catalogue import Catalogue, Condition
from lazy_magpie.cli.commands.titles import candidate_shape
from lazy_magpie.cli.items_argument import add_items
from lazy_magpie.cli.json_output import outcome_shape, values_shape
from lazy_magpie.cli.main import NEEDS_YOU
from lazy_magpie.cli.selection import collection_of, condition_of, nothing_matches, path_in, some_of
from lazy_magpie.cli.terminal import Terminal
from lazy_magpie.collection import Collection
from lazy_magpie.drives import present
from lazy_magpie.errors import UsageError
from lazy_magpie.fields import shown
from lazy_magpie.formatting import bytes_text, count_text, duration_text
from lazy_magpie.labels import label
from lazy_magpie.model import Item, Step, reason_of
from lazy_magpie.model.steps import LeaveFindings, SetField, Settle, SettleFolder
from lazy_magpie.paths import written
from lazy_magpie.planners.manual_answers import NONE
from lazy_magpie.planners.questions import Question
from lazy_magpie.services.check import rules_named
from lazy_magpie.services.execute import Outcome
from lazy_magpie.services.resolve import Resolver
from lazy_magpie.services.session import writing
from lazy_magpie.suggest import nearest

_EXAMPLES = """examples:
  magpie settle                                  what is in doubt, grouped by the reason
  magpie settle --ask                            one question after the other
  magpie settle --accept "bare year"             take all of one reason as they are read
  magpie settle "Heap/Kelp Ballad.mp4" --set year=1993
  magpie settle Heap/beach.mp4 --set kind=none            nothing that is named: it is left as it is
  magpie settle Films/Old --leave below-standard          what “check” finds there is as it should be
  magpie settle "Music/Samplers/" --set role=category     what a folder is for: all in it is read again
"""
_SAMPLES = 10
_FIELDS_ASKED = ("year", "artist", "maker", "system", "title", "season", "episode", "show", "track", "family")
_CANDIDATES = 3
_SETTLED_SHOWN = 20
_TITLE_YEAR = re.compile(r"^(?P<title>.*?)\s*\((?P<year>\d{4})\)$")


def register(parser: argparse.ArgumentParser) -> None:
    """Add the arguments of `settle`."""
    parser.epilog = _EXAMPLES
    add_items(parser, "paths or find words; all that is doubtful if none")
    how = parser.add_mutually_exclusive_group()
    how.add_argument("--ask", action="store_true", help="one question after the other, each answered by a key")
    how.add_argument("--auto", action="store_true", help="settle what the title lists leave no doubt about")
    how.add_argument("--accept", metavar="REASON", help="accept the reading of every item with this reason")
    how.add_argument("--set", nargs="+", metavar="FIELD=VALUE", help="settle ITEMS by hand")
    how.add_argument("--leave", metavar="RULE,…", help="leave what these rules of “check” find in ITEMS, for ever")
    how.add_argument("--unset", action="store_true", help="take back what was settled of ITEMS")
    parser.set_defaults(run=run)


def run(args: argparse.Namespace, terminal: Terminal) -> int:
    """Show the questions, or answer them in one of the ways."""
    collection = collection_of(args)
    with writing(collection, "settle", terminal.note) as catalogue:
        condition = condition_of(collection, catalogue, args.words)
        settler = Resolver(collection, catalogue, terminal.note)
        if args.auto:
            return _done(terminal, settler.auto(condition), "Nothing is beyond doubt by the title lists.")
        role = _role_told(args)
        if role is not None:
            return _told_folder(terminal, collection, settler, catalogue, args.words, role)
        if args.leave:
            _needs_items(args.words, "--leave")
            rules = [rule.name for rule in rules_named([word.strip() for word in args.leave.split(",")])]
            outcome = settler.leave(_paths(collection, catalogue, args.words), rules)
            return _done(terminal, outcome, "It is left so already.", "left for ever")
        if args.unset:
            _needs_items(args.words, "--unset")
            left = set(_paths(collection, catalogue, args.words)) & catalogue.left.all().keys()
            if left:
                return _done(terminal, settler.leave(sorted(left), ()), "", "heeded again")
            return _done(terminal, settler.unset(condition), "Nothing of this was settled.", "open again")
        if args.set:
            _needs_items(args.words, "--set")
            items = list(catalogue.items.ask(condition))
            if not items:
                raise nothing_matches(args.words)
            return _done(terminal, settler.put(items, args.set), "It is settled so already.")
        if args.ask:
            return _Asker(terminal, settler, condition).run()
        found = settler.open_questions(condition)
        if args.accept:
            return _accept(terminal, settler, found, args.accept)
    _show(terminal, found)
    return NEEDS_YOU if found else 0


def _paths(collection: Collection, catalogue: Catalogue, words: Sequence[str]) -> list[str]:
    """Return the paths of the own root that words name: what lies there, else the main files of items."""
    here = present(catalogue, collection)
    named = [path_in(collection, here, word) for word in words]
    inside = [collection.relative(path) for path in named if path is not None]
    if len(inside) == len(words) and all(inside):
        return [path for path in inside if path]
    condition = some_of(collection, catalogue, words)
    return [item.path for item in catalogue.items.ask(condition) if not item.root]


def _role_told(args: argparse.Namespace) -> str | None:
    """Return the role that is said of folders, "" where that is taken back, None where it is about items."""
    said = [word.partition("=")[2] for word in args.set or () if word.startswith("role=")]
    if said and len(args.set) == 1:
        return str(said[0])
    if said:
        raise UsageError("role= is about a folder; it can't stand beside other fields.")
    return "" if args.unset and args.words and all(word.endswith("/") for word in args.words) else None


def _told_folder(
    terminal: Terminal, collection: Collection, settler: Resolver, catalogue: Catalogue, words: Sequence[str], role: str
) -> int:
    """Settle what folders are for, or take that back."""
    _needs_items(words, "--set role=")
    here = present(catalogue, collection)
    done: Outcome | None = None
    for word in words:
        whole = path_in(collection, here, word)
        folder = collection.relative(whole) if whole and os.path.isdir(whole) else None
        if not folder:
            raise UsageError(f"“{word}” is no folder of this collection, so it has no role.")
        done = settler.put_role("", folder, role) or done
    return _done(terminal, done, "It is settled so already.", "settled" if role else "open again")


def _needs_items(words: Sequence[str], option: str) -> None:
    if not words:
        raise UsageError(f"{option} needs ITEMS: paths or find words that say which are meant.")


def _done(terminal: Terminal, outcome: Outcome | None, nothing: str, did: str = "settled") -> int:
    if terminal.as_json:
        terminal.json(outcome_shape(outcome or Outcome(0)))
    elif outcome is None:
        terminal.note(nothing)
    else:
        folders = sum(isinstance(step, SettleFolder) for step in outcome.notes)
        left = any(isinstance(step, LeaveFindings) for step in outcome.notes)
        thing = "path" if left else "folder" if folders == outcome.done else "item"
        what = count_text(outcome.done, thing)
        terminal.say(f"Change {outcome.change}: {what} {did}.")
        shown = outcome.notes if terminal.verbose else outcome.notes[:_SETTLED_SHOWN]
        for step in shown:
            terminal.say(f"  {terminal.styled(_what(step), 'new')}  {terminal.styled(written(step.source), 'dim')}")
        if len(outcome.notes) > len(shown):
            terminal.say(f"  … and {len(outcome.notes) - len(shown):,} more (-v lists them)")
        terminal.note(f"To undo: magpie undo {outcome.change}")
    return 0


def _what(step: Step) -> str:
    """Return what an item is by an answer, or has in a custom field."""
    if isinstance(step, SetField):
        return f"{step.field}: {written(shown(step.field, step.new)) or 'nothing'}"
    if isinstance(step, SettleFolder):
        return step.new or "in doubt again"
    if isinstance(step, LeaveFindings):
        return f"left: {', '.join(step.new)}" if step.new else "heeded again"
    answer = step.new if isinstance(step, Settle) else None
    if answer is None:
        return "in doubt again"
    return written(label(answer.kind, answer.fields)) or "left as it is"


def _accept(terminal: Terminal, settler: Resolver, found: Sequence[Question], reason: str) -> int:
    reasons = sorted({question.reason for question in found})
    chosen = [question for question in found if question.reason == reason]
    if not chosen:
        raise UsageError(f"Nothing is doubtful for the reason “{reason}”{nearest(reason, reasons)}")
    if not any(question.readable for question in chosen):
        raise UsageError(f"“{reason}” can't be accepted: a needed field is missing in each. Use --ask or --set.")
    return _done(terminal, settler.accept(chosen), "Nothing could be taken as it is read.")


def question_shape(question: Question) -> dict[str, Any]:
    """Return a question as JSON."""
    first = question.items[0]
    return {
        "question": question.asks,
        "folder": written(question.folder) or None,
        "field": "role" if question.folder else _field_asked(first),
        "choices": list(question.choices) or [candidate.text for candidate in question.found],
        "items": len(question.items),
        "paths": [written(item.path) for item in question.items],
        "reason": question.reason,
        "subject": written(question.subject),
        "kind": first.kind.value,
        "read": values_shape(first.fields),
        "acceptable": question.readable,
        "clear": question.clear,
        "candidates": [candidate_shape(candidate) for candidate in question.found],
    }


def _field_asked(item: Item) -> str:
    """Return the field that an item's doubt is about, "" where it is about all of it."""
    reason = reason_of(item.doubts[0]) if item.doubts else ""
    return next((field for field in _FIELDS_ASKED if field.replace("_", " ") in reason), "")


def _show(terminal: Terminal, found: Sequence[Question]) -> None:
    """Print the questions by their reasons, ten samples of each."""
    if terminal.as_json:
        for question in found:
            terminal.json(question_shape(question))
        return
    if not found:
        terminal.note("Nothing is in doubt.")
        return
    count = sum(len(question.items) for question in found)
    terminal.say(terminal.styled(f"{count_text(len(found), 'question')} about {count_text(count, 'item')}", "head"))
    for reason, group in groupby(found, key=lambda question: question.reason):
        _show_reason(terminal, reason, list(group))
    terminal.note(
        "\nOne by one: magpie settle --ask\n"
        "What the title lists are sure of: magpie settle --auto\n"
        "All of one reason as they are read: magpie settle --accept REASON\n"
        "By hand: magpie settle ITEMS --set year=1985"
    )


def _show_reason(terminal: Terminal, reason: str, group: Sequence[Question]) -> None:
    items = sum(len(question.items) for question in group)
    head = f"{terminal.styled(reason, 'bold')}: {group[0].asks}"
    terminal.say(f"\n{head}  {terminal.styled(count_text(items, 'item'), 'dim')}")
    for question in group[:_SAMPLES]:
        first = question.items[0]
        if question.folder:
            held = f"{count_text(len(question.items), 'item')} hang on it, {_label(first)} among them"
            terminal.say(f"  {terminal.styled(written(question.folder), 'bold')}/  {terminal.styled(held, 'dim')}")
            continue
        more = terminal.styled(f"  and {len(question.items) - 1:,} more", "dim") if len(question.items) > 1 else ""
        terminal.say(f"  {_label(first)}  {terminal.styled(written(first.path), 'dim')}{more}")
        for candidate in question.found[:_CANDIDATES]:
            mark = terminal.styled("✓", "new") if question.clear and candidate is question.found[0] else "·"
            terminal.say(f"    {mark} {candidate.text}  {terminal.styled(candidate.why, 'dim')}")
    if len(group) > _SAMPLES:
        terminal.say(terminal.styled(f"  … and {len(group) - _SAMPLES:,} more questions", "dim"))


def _label(item: Item) -> str:
    return written(label(item.kind, item.fields) or item.path)


class _Asker:
    """Asks one question after the other; each answer is kept at once. The end of input stops, like q."""

    def __init__(self, terminal: Terminal, settler: Resolver, condition: Condition) -> None:
        self.terminal, self.settler, self.condition = terminal, settler, condition
        self.open = settler.open_questions(condition)
        self.asked: list[Question] = []
        self.settled = 0
        self.accepted = ""

    def run(self) -> int:
        """Ask until nothing is open, or the person stops."""
        if not self.open:
            self.terminal.note("Nothing is in doubt.")
            return 0
        while self.open:
            question = self.open.pop(0)
            if question.reason == self.accepted and question.readable:
                self._count(self.settler.accept([question]))
            elif not self._put(question):
                break
        self.terminal.say(f"{count_text(self.settled, 'item')} settled. “magpie settle” shows what is left.")
        return 0

    def _put(self, question: Question) -> bool:
        """Put one question; say whether to go on."""
        number, of = len(self.asked) + 1, len(self.asked) + len(self.open) + 1
        self.terminal.say(self.terminal.styled(f"{number} of {of}  {question.asks}", "head"))
        _show_question(self.terminal, question)
        answer = _one(self.terminal, self.settler, question)
        if answer == "stop":
            return False
        if answer == "back":
            self.open.insert(0, question)
            if self.asked:
                self.open.insert(0, self.asked.pop())
            else:
                self.terminal.note("  This is the first question.")
        else:
            self.asked.append(question)
        if answer == "all":
            self.accepted = question.reason
            answer = self.settler.accept([question])
        if isinstance(answer, Outcome):
            self._count(answer)
            said = f"  settled: {_what(answer.notes[0])}" if answer.notes else "  settled"
            more = f"  and {answer.done - 1:,} more" if answer.done > 1 else ""
            self.terminal.say(self.terminal.styled(f"{said}{more}", "new"))
            if question.folder:
                self._look_again()
        self.terminal.say()
        return True

    def _count(self, outcome: Outcome | None) -> None:
        self.settled += outcome.done if outcome else 0

    def _look_again(self) -> None:
        """Ask from here on what is still open: a folder's answer ends many doubts."""
        done = {(question.reason, question.subject) for question in self.asked}
        found = self.settler.open_questions(self.condition)
        self.open = [question for question in found if (question.reason, question.subject) not in done]


def _show_question(terminal: Terminal, question: Question) -> None:
    for item in question.items[:_SAMPLES]:
        terminal.say(f"  {written(item.path)}  {terminal.styled(_measured(item), 'dim')}")
    if len(question.items) > _SAMPLES:
        terminal.say(f"  … and {len(question.items) - _SAMPLES:,} more")
    for number, words in enumerate(question.choices.values(), start=1):
        terminal.say(f"  {number}  {words}")
    for number, candidate in enumerate(question.found[:9], start=1):
        others = f"  also {'; '.join(candidate.title.others)}" if candidate.title.others else ""
        terminal.say(f"  {number}  {candidate.text}  {terminal.styled(candidate.why + others, 'dim')}")
    if question.readable:
        terminal.say(f"  y  as it is read: {_label(question.items[0])}")
        terminal.say("  a  all of this question as they are read")
    terminal.say("  t  type another: “Title (1985)”, or season=2 episode=5")
    terminal.say("  l  leave it as it is, and never ask again   s  skip   b  back   q  stop")


def _measured(item: Item) -> str:
    """Return what helps to tell what an item is: its size, its length, how large its pictures are."""
    facts = item.facts
    length = facts.get("length")
    parts = [bytes_text(item.size)]
    if isinstance(length, int | float):
        parts.append(duration_text(length))
    if "width" in facts and "height" in facts:
        parts.append(f"{facts['width']}×{facts['height']}")
    return "  ".join(parts)


_KEYS: Mapping[str, str] = {"q": "stop", "b": "back"}


def _one(terminal: Terminal, settler: Resolver, question: Question) -> Outcome | str | None:
    """Read keys until the question is answered; return what was done, "stop", "back", "all", or None where it was
    skipped."""
    while True:
        print("> ", end="", file=sys.stderr, flush=True)
        line = sys.stdin.readline()
        word = line.strip()
        if not line or word in _KEYS:
            return _KEYS.get(word, "stop")
        if word in ("s", ""):
            return None
        if word == "l":
            return settler.put(question.items, [f"kind={NONE}"])
        if word == "y" and question.readable:
            return settler.accept([question])
        if word == "a" and question.readable:
            return "all"
        if word.isdecimal() and 1 <= int(word) <= len(question.choices):
            return settler.put_role("", question.folder, list(question.choices)[int(word) - 1])
        if word.isdecimal() and 1 <= int(word) <= min(len(question.found), 9):
            return settler.settle_as(question, question.found[int(word) - 1])
        try:
            return settler.put(question.items, _typed(word, question))
        except UsageError as error:
            terminal.note(f"  {error}")


def _typed(word: str, question: Question) -> list[str]:
    """Return the FIELD=VALUE words of a typed answer: with or without a “t” in front, or a title with its year."""
    text = word[1:].strip() if word[:2] in ("t ", "t") else word
    if re.match(r"^[a-z_]+=", text):
        return re.split(r"\s+(?=[a-z_]+=)", text)
    match = _TITLE_YEAR.match(text)
    if not text or (match is None and len(text) < 3):
        raise UsageError("Type a number from the list, y, a, l, s, b, q, a title with its year, or FIELD=VALUE.")
    name = "show" if question.items[0].kind.value == "episode" else "title"
    if match is None:
        return [f"{name}={text}"]
    return [f"{name}={match['title']}", f"{'show_year' if name == 'show' else 'year'}={match['year']}"]
