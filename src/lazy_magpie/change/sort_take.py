"""Taking away, into the holding area; replacing a file by another; what changes no file at all."""

from __future__ import annotations

from collections.abc import Mapping

from lazy_magpie.change import transfer, unpacking
from lazy_magpie.change.crash import point
from lazy_magpie.change.journal import Record
from lazy_magpie.change.sort import Inverse, Sort, again, step_of
from lazy_magpie.change.world import Skip, World
from lazy_magpie.model import Do, Seen, Step
from lazy_magpie.paths import name_of, read_back, split_ending, written


def _hold(world: World, step: Step) -> Record:
    found = world.checked(step.source, step.seen)
    if found.is_folder and "tree" in step.data and transfer.tree_digest(world, step.source) != step.data["tree"]:
        raise Skip("something in it is new, changed or gone")
    for path, *seen in step.data.get("needs", ()):
        _check_there(world, read_back(str(path)), Seen(*seen), "it came from")
    keepers = {path: world.disk.status(path) for path in _proved(world, step)}
    if any(keeper is None or keeper.file_id == found.file_id for keeper in keepers.values()):
        raise Skip("what would stay is the same file under another name")

    def still() -> bool:
        return all(status and world.is_there(path, status.seen) for path, status in keepers.items())

    return {"held": written(world.hold(step.source, step.why or "taken away", still))}


def _proved(world: World, step: Step) -> list[str]:
    """Return what stays instead of what a step takes away, proved in this moment to be what the plan says of it.

    Raises Skip where it is not: a copy that is compared, something alike that is as the plan saw it, a folder or an
    archive that holds all that is in an archive.
    """
    proved = []
    if keeper := str(step.data.get("keeps", "")):
        if keeper == step.source or world.disk.status(keeper) is None:
            raise Skip(f"the copy that would stay, “{written(keeper)}”, is no longer there")
        if not transfer.equal(world, keeper, step.source):
            raise Skip(f"it no longer equals the copy that would stay, “{written(keeper)}”")
        proved.append(keeper)
    for keeper, *seen in step.data.get("like", ()):
        _check_there(world, str(keeper), Seen(*seen), "would stay")
        proved.append(str(keeper))
    if (folder := step.data.get("unpacked")) is not None:
        layout = step.data.get("layout")
        if layout is not None:
            layout = {read_back(member): read_back(to) for member, to in layout.items()}
        if not unpacking.is_in_folder(world.disk, step.source, str(folder), layout):
            raise Skip(f"“{written(str(folder))}” no longer holds all that it holds")
        proved.append(str(folder))
    if other := str(step.data.get("repacked", "")):
        if other == step.source or world.disk.status(other) is None:
            raise Skip(f"the archive that would stay, “{written(other)}”, is no longer there")
        if not unpacking.is_in_archive(world.disk, step.source, other):
            raise Skip(f"“{written(other)}” does not hold all that it holds")
        proved.append(other)
    return proved


def _check_there(world: World, path: str, seen: Seen, what: str) -> None:
    """Raise Skip where what something came from, or what would stay instead of it, is gone or not what it was."""
    try:
        world.checked(path, again(seen))
    except Skip as skip:
        raise Skip(f"what {what}, “{written(path)}”, is not what it was: {skip}") from None


def _mend_hold(world: World, step: Step) -> Record | None:
    held = world.found_held(step.source)
    source, target = world.disk.status(step.source), world.held_status(step.source)
    if target is None:
        return None
    if source and source.file_id == target.file_id and source.links > 1:
        world.drop_second_name(step.source, step, held)  # linked, not yet unlinked
        source = None
    return {"held": written(held)} if source is None else None


def _unhold(step: Step, info: Record) -> Inverse:
    return step_of(Do.MOVE, read_back(info["held"]), step.source, again(step.seen))


def _replace(world: World, step: Step) -> Record:
    """Let the file prepared at `source` take the place of the one at `target`, which is held.

    Without a source it is the file itself with other keywords inside, or with another text.
    """
    world.checked(step.target, step.seen)
    if step.source and world.disk.status(step.source) is None:
        raise Skip("the file that was to take its place is not there")
    world.check_holdable(step.target)
    source = step.source or _rewritten(world, step)
    try:
        new = world.disk.status(source)
        held = world.hold(step.target, step.why or "replaced")
        point("replace-held")
        world.rename_or_back(source, step.target, held, step.target)
    except (OSError, Skip):
        if not step.source:
            transfer.take_away(world, source)
        raise
    assert new is not None
    return {"held": written(held), "made": list(new.seen), "from": written(step.source)}


def _rewritten(world: World, step: Step) -> str:
    """Make a copy of a file in our own folder, with the keywords or the text that a step gives it; return where."""
    made = world.new_work_path(step)
    status = world.disk.status(step.target)
    try:
        if status is None:
            raise Skip("it is no longer there")
        transfer.copy(world, step.target, made)
        if "text" in step.data:
            _put_text(world, made, str(step.data["text"]))
        else:
            _put_keywords(world, step, made)
        world.disk.set_times(made, status.mtime)
        with world.disk.open_old(made) as file:
            world.disk.sync_file(file)
    except BaseException as error:
        transfer.take_away(world, made)
        if isinstance(error, Skip | OSError) or not isinstance(error, Exception):
            raise
        raise Skip(f"no keywords can be written into it: {error}") from None
    return made


def _put_text(world: World, made: str, text: str) -> None:
    world.disk.truncate(made, 0)
    with world.disk.append(made) as file:
        file.write(text.encode("utf-8", "surrogateescape"))


def _put_keywords(world: World, step: Step, made: str) -> None:
    old, new = (set(step.data.get(when) or ()) for when in ("old", "new"))
    inside = world.disk.keywords(step.target)
    words = [word for word in inside if word in new or word not in old]
    words += sorted(new - old - set(words))
    if words == inside:
        raise Skip("its keywords are so already")
    world.disk.put_keywords(made, split_ending(name_of(step.target))[1], words)


def _mend_replace(world: World, step: Step) -> Record | None:
    held, made = world.found_held(step.target), world.work_path(step)
    source = step.source or made
    new, target, old = world.disk.status(source), world.disk.status(step.target), world.held_status(step.target)
    if old is not None and target is not None and old.file_id == target.file_id:
        world.drop_second_name(held, step, step.target)  # linked, not yet unlinked: it had only begun
        old = None
    if old is None:
        if not step.source:  # what was made of the file, which is still there
            transfer.clear_work(world, step, is_elsewhere=target is not None)
        return None
    if target is None:
        world.rename(source if new is not None else held, step.target)
        if new is None:
            return None
        target = world.disk.status(step.target)
    elif new is not None:
        raise Skip(f"another file has its name now; what it was is held at “{written(held)}”")
    assert target is not None
    return {"held": written(held), "made": list(target.seen), "from": written(step.source)}


def _unreplace(step: Step, info: Record) -> Inverse:
    data = {"instead": written(step.target), "made": info["made"], "to": info["from"]}
    return step_of(Do.RESTORE, read_back(info["held"]), step.target, again(step.seen), data)


def _note(world: World, step: Step) -> Record:
    """Answers are kept by whoever applies the change; here they only get their place in history."""
    return {}


def _tag(world: World, step: Step) -> Record:
    """Let the file carry the tags that its item gets: others that it carries stay. The catalogue is told elsewhere.

    A file that is not what was seen, or on a drive without attributes, carries none. Where a step takes another back,
    and the file still carries what that one has put there, it carries what it did before, to the byte.
    """
    status = world.disk.status(step.source) if step.seen else None
    carried = world.disk.tags(step.source) if status and world.is_seen(status, step.seen) else None
    if carried is None or "field" in step.data or "untouched" in step.data:
        return {}
    before = world.disk.raw_tags(step.source)
    if step.number in world.was:  # a crash may have come between putting them and noting that
        before = world.was[step.number]
    else:
        world.note({"r": "was", "k": step.number, "raw": before})
    if "raw" in step.data and before == step.data["raw"][1]:
        world.disk.put_raw_tags(step.source, step.data["raw"][0])
    else:
        old, new = (step.data.get(when) or [] for when in ("old", "new"))
        after = [tag for tag in carried if tag in new or tag not in old]
        after += [tag for tag in new if tag not in old and tag not in after]
        if after != list(carried):
            world.disk.put_tags(step.source, after)
    return {"raw": [before, world.disk.raw_tags(step.source)]}


def _mend_note(world: World, step: Step) -> Record | None:
    return {}


def _unnote(step: Step, info: Record) -> Inverse:
    turned = {**step.data, "old": step.data.get("new"), "new": step.data.get("old")}
    was_untouched = turned.pop("untouched", None)
    turned.pop("raw", None)
    if "raw" in info:
        turned["raw"] = info["raw"]
    elif not was_untouched:  # the file never got these tags, so it must not lose them
        turned["untouched"] = 1
    return step_of(step.do, step.source, step.target, step.seen, turned)


SORTS: Mapping[Do, Sort] = {
    Do.HOLD: Sort(_hold, _mend_hold, _unhold),
    Do.REPLACE: Sort(_replace, _mend_replace, _unreplace),
    Do.TAG: Sort(_tag, _tag, _unnote),
    Do.SETTLE: Sort(_note, _mend_note, _unnote),
}
