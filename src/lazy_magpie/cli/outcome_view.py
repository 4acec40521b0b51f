"""What a change did, as a person reads it."""

from __future__ import annotations

from collections.abc import Sequence

from lazy_magpie.change import Outcome
from lazy_magpie.cli.json_output import outcome_shape
from lazy_magpie.cli.main import COULD_NOT, NEEDS_YOU
from lazy_magpie.cli.passing_names import named_on_target
from lazy_magpie.cli.terminal import Terminal
from lazy_magpie.formatting import count_text

_SHOWN = 20


def show_outcome(terminal: Terminal, outcome: Outcome, did: str, then: str) -> int:
    """Print what became of a change, what to do next, and return the exit code."""
    if terminal.as_json:
        terminal.json(outcome_shape(outcome))
    else:
        terminal.say(f"Change {outcome.change}: {count_text(outcome.done, 'step')} {did}.")
        _show(terminal, "Skipped", outcome.skipped)
        _show(terminal, "Failed", outcome.failed)
        lost = [(path, f"its {what} could not be brought back") for path, what in outcome.unrestored]
        _show(terminal, "Back, but not with all it had", lost, of="folder")
        if outcome.not_reached:
            terminal.say(
                f"Stopped with {count_text(outcome.not_reached, 'step')} not reached. “magpie redo {outcome.change}” "
                f"does the rest, “magpie undo {outcome.change}” takes it back."
            )
        elif outcome.done:
            terminal.say(terminal.styled(then, "dim"))
    if outcome.why_stopped:
        terminal.note(f"magpie: {outcome.why_stopped}: nothing more could be done; what was done is noted.")
        return COULD_NOT
    return NEEDS_YOU if outcome.skipped or outcome.failed or outcome.unrestored or outcome.not_reached else 0


def _show(terminal: Terminal, head: str, ones: Sequence[tuple[str, str]], of: str = "step") -> None:
    if not ones:
        return
    terminal.say(terminal.styled(f"{head}: {count_text(len(ones), of)}", "warn"))
    shown = ones if terminal.verbose else ones[:_SHOWN]
    for path, why in shown:
        terminal.say(f"  {named_on_target(path)}: {why}")
    if len(ones) > len(shown):
        terminal.say(f"  … and {len(ones) - len(shown):,} more (-v lists them)")
