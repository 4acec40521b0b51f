"""`magpie send TARGET [ITEMS]`: plans what a device should hold, in the form it reads, fitted to its space."""

from __future__ import annotations

import argparse
import sys

from lazy_magpie.cli.items_argument import add_items
from lazy_magpie.cli.json_output import plan_shape
from lazy_magpie.cli.proposal import add_proposal, answer, propose
from lazy_magpie.cli.selection import collection_of, marked, places_of, some_of
from lazy_magpie.cli.terminal import Terminal
from lazy_magpie.config.sections.target import size_of
from lazy_magpie.errors import UsageError
from lazy_magpie.formatting import count_text, size_text
from lazy_magpie.paths import written
from lazy_magpie.planners.sending.plan import Sending

_EXAMPLES = """examples:
  magpie send --new card /media/card kind is game    make a target known, and say what goes there
  magpie send card                                   bring it up to date: what is new goes, what is not wanted comes off
  magpie send card "Games/chip8/Kite Run.ch8"        this as well
  magpie send card --what-if 128G                    what would fit on a larger one
  magpie send card --back                            take in what the device wrote there
What goes there stands in magpie.toml: [target.NAME] with items, order, space, player.
"""
_WIDTH = 40
_LEFT_SHOWN = 12


def register(parser: argparse.ArgumentParser) -> None:
    """Add the arguments of `send`."""
    parser.epilog = _EXAMPLES
    add_items(parser, "the target; items to add to what is there", metavar="TARGET ITEMS", leading=1)
    how = parser.add_mutually_exclusive_group()
    how.add_argument("--new", action="store_true", help="make a target known: NAME DIR, and find words for what goes")
    how.add_argument("--back", action="store_true", help="plan taking in what was put there by the device")
    how.add_argument("--sent", action="store_true", help="list what is there, also while it is away")
    how.add_argument("--what-if", metavar="SIZE", help="show what would fit on an empty one of this size: 128G")
    parser.add_argument("--player", metavar="NAME", default="", help="with --new: the player that reads it")
    add_proposal(parser)
    parser.set_defaults(run=run)


def run(args: argparse.Namespace, terminal: Terminal) -> int:
    """Make the plan, show how it fits, and apply it if asked."""
    from lazy_magpie.services.send import Wishes, plan_back, plan_send, sent_to, target_named
    from lazy_magpie.services.session import writing

    collection = collection_of(args)
    if args.new:
        return _new(args, terminal)
    if not args.words:
        return _targets(args, terminal)
    name, *words = args.words
    target = target_named(collection, name)
    size = size_of(args.what_if) if args.what_if else 0
    if size is None:
        raise UsageError(f"“{args.what_if}” is no size; write it as 128G.")
    with writing(collection, "send", terminal.note) as catalogue:
        if args.sent:
            return _sent(terminal, sent_to(catalogue, target))
        if args.back:
            plan = plan_back(collection, catalogue, target)
            proposal = propose(collection, catalogue, plan, args, terminal)
        else:
            chosen = some_of(collection, catalogue, words) if words else None
            places = places_of(collection, catalogue)
            wishes = Wishes(places, lambda condition: marked(collection, catalogue, condition), chosen, size)
            sending = plan_send(collection, catalogue, target, wishes)
            if not terminal.as_json:
                _show_fit(terminal, name, sending, whole=args.whole)
            if size:
                if terminal.as_json:
                    terminal.json({**plan_shape(sending.plan), **_fit_shape(sending)})
                return 0
            proposal = propose(collection, catalogue, sending.plan, args, terminal)
    if args.back:
        code = answer(proposal, args, terminal, f"Nothing on {name} is new.")
        if proposal.code is not None:
            terminal.note("Next: magpie intake takes it apart and files it.")
        return code
    if terminal.as_json and proposal.code is None:
        terminal.json({**plan_shape(proposal.plan), **_fit_shape(sending)})
        return 0
    return answer(proposal, args, terminal, f"{name} holds what it should.")


def _new(args: argparse.Namespace, terminal: Terminal) -> int:
    """Make a target known; what is not said is asked for where there is a person."""
    from lazy_magpie.lock import locked
    from lazy_magpie.services.send import new_target

    collection = collection_of(args)
    if len(args.words) < 2:
        raise UsageError("“--new” needs a name and a folder: magpie send --new card /media/card")
    name, folder, *words = args.words
    items = " ".join(f'"{word}"' if " " in word else word for word in words)
    player = args.player
    if sys.stdin.isatty() and not terminal.as_json:
        items = items or _asked("What goes there? Find words, like: kind is game preferred is yes (empty: everything)")
        known = ", ".join(collection.config.players)
        player = player or (_asked(f"Which player reads it? {known} (empty: none)") if known else "")
    if player and player not in collection.config.players:
        raise UsageError(f"There is no player “{player}”; there are {', '.join(collection.config.players) or 'none'}.")
    with locked(collection.state_dir, "send"):
        text = new_target(collection, name, folder, items, player)
    if terminal.as_json:
        terminal.json({"target": name, "folder": folder, "items": items, "player": player})
    else:
        terminal.say(text.strip())
        terminal.note(f"\nThis stands in magpie.toml now. Next: magpie send {name}")
    return 0


def _asked(question: str) -> str:
    print(f"{question}\n> ", end="", file=sys.stderr, flush=True)
    return sys.stdin.readline().strip()


def _targets(args: argparse.Namespace, terminal: Terminal) -> int:
    """List the targets, and whether each is there."""
    from lazy_magpie import targets

    collection = collection_of(args)
    here = targets.located(collection)
    if not collection.config.targets:
        raise UsageError("No target is known; “magpie send --new NAME DIR” makes one.")
    for name, target in collection.config.targets.items():
        place = here.get(name, "")
        if terminal.as_json:
            terminal.json({"target": name, "folder": target.folder, "there": bool(place), "place": place})
        else:
            terminal.say(f"{terminal.styled(name, 'bold')}  {place or f'away ({target.folder})'}")
    return 0


def _sent(terminal: Terminal, files: list[tuple[str, int, str]]) -> int:
    for path, size, source in files:
        if terminal.as_json:
            terminal.json({"path": written(path), "size": size, "from": written(source)})
        else:
            terminal.say(f"{size_text(size):>6}  {written(path)}  {terminal.styled(written(source), 'dim')}")
    if not files:
        terminal.note("Nothing was sent there.")
    return 0


def _fit_shape(sending: Sending) -> dict[str, object]:
    unit = sending.space.unit
    return {
        "fit": {
            "things": sending.things,
            "bytes": sending.taken * unit,
            "room": sending.room * unit,
            "gap": round(sending.gap, 6),
        },
        "left_out": [
            {"name": written(one.name), "path": written(one.path), "size": one.size, "why": one.why}
            for one in sending.left_out
        ],
    }


def _show_fit(terminal: Terminal, name: str, sending: Sending, *, whole: bool) -> None:
    """Print what goes as a bar of the space there is, and what is left out, the most frequent reason first."""
    unit, room = sending.space.unit, max(1, sending.room)
    filled = min(_WIDTH, -(-_WIDTH * sending.taken // room))
    bar = "█" * filled + "░" * (_WIDTH - filled)
    gap = f", at most {100 * sending.gap:.2f} % from the best" if sending.gap > 0 else ""
    used = f"{size_text(sending.taken * unit)} of {size_text(sending.room * unit)}"
    said = f"{used}, {count_text(sending.things, 'thing')}{gap}"
    terminal.say(f"{terminal.styled(name, 'bold')}  {terminal.styled(bar, 'new')}  {said}")
    reasons: dict[str, list[str]] = {}
    for one in sorted(sending.left_out, key=lambda one: (-one.size, one.path)):
        reasons.setdefault(one.why, []).append(f"{size_text(one.size):>6}  {written(one.name)}")
    for why, some in sorted(reasons.items(), key=lambda pair: -len(pair[1])):
        terminal.say(f"\n{terminal.styled('left out', 'warn')}  {len(some):,}  {why}")
        shown = some if whole else some[:_LEFT_SHOWN]
        for line in shown:
            terminal.say(f"  {line}")
        if len(some) > len(shown):
            terminal.say(f"  … and {len(some) - len(shown):,} more (--whole)")
    if sending.plan.steps:
        terminal.say()
