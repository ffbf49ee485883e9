"""Carries one step out the way a careful colleague would: change, check, keep or take back, commit."""

from __future__ import annotations

import re
from collections.abc import Sequence
from pathlib import Path
from typing import TYPE_CHECKING, NamedTuple

import msgspec

from isodesm.planning.model.step import Step
from isodesm.rewriting.changes import FileChange, StepRefused, by_file, changes_of, digests_now
from isodesm.rewriting.checks import run_check
from isodesm.rewriting.journal import LEAVE, REFUSE, REPLACE, Journal
from isodesm.rewriting.records import DONE, Aside, Entry
from isodesm.rewriting.repository import Repository

if TYPE_CHECKING:
    from isodesm.codebase.model import Codebase

KEPT, TAKEN_BACK = "kept", "taken back"


class Wish(msgspec.Struct, frozen=True):
    """How a step is to be carried out: the check that must stay green ('' for none) and the seconds it may take (0: any), a
    commit, and whether files may have changes of their own. With `doubt` a red check is run without the step, too."""

    check: str = ""
    check_seconds: float = 0.0
    commit: bool = False
    dirty: bool = False
    doubt: bool = True


class Outcome(msgspec.Struct, frozen=True):
    """What came of a step. `state` is `kept` or `taken back`, `said` the last lines of what turned it red."""

    id: str
    title: str
    state: str
    files: tuple[str, ...]
    reason: str = ""
    seconds: float | None = None
    """How long the check took, if there was one."""
    said: tuple[str, ...] = ()
    log: str = ""
    commit: str = ""
    red_before: bool = False
    """Whether the check is red without the step, too."""
    aside: tuple[str, ...] = ()
    """Files of the step that somebody else changed while the check ran, and where that text is kept, in words."""

    @property
    def is_kept(self) -> bool:
        return self.state == KEPT


def carry_out(codebase: Codebase, step: Step, wish: Wish | None = None) -> Outcome:
    """Carry a step of a plan for a codebase out on its folder, all of it or nothing.

    Raises StepRefused where a file is not as it was planned for, lies behind a link, is read-only or has changes that no
    commit holds, and OutputError where the disk is full; nothing has changed then.
    """
    from isodesm.reading.cache import default_folder

    journal = Journal(codebase.root, Path(codebase.settings.cache_folder or default_folder()))
    return take(codebase.root, step, journal, wish or Wish())


def take(root: Path, step: Step, journal: Journal, wish: Wish) -> Outcome:
    """The same with a journal of the caller's."""
    with journal.held():
        if (open_entry := journal.interrupted()) is not None:
            raise StepRefused(f"{open_entry.record.id} was interrupted here. `isodesm step --undo` takes it back first.")
        changes = [each for each in changes_of(root, step) if each.before != each.after]
        repository = _watched(root, changes, journal, wish)
        code = digests_now(root, by_file(step))
        entry = journal.carry_out(step.id, step.title, changes)
        try:
            outcome = _checked(root, step, entry, journal, wish)
            if outcome.is_kept and wish.commit:
                outcome = _committed(repository, step, entry, outcome)
        except BaseException:
            if wish.commit and not entry.record.commit:  # it may have been made in the very moment
                entry.record.commit = repository.made_last(step.id)
            if not entry.record.commit:
                journal.undo(entry, REPLACE)
            raise
        if outcome.is_kept:
            if outcome.commit:  # hooks may have put files into another form
                journal.noted_again(entry)
            entry.note(DONE)
            return outcome
        aside = tuple(each.said for each in journal.undo(entry, REPLACE))
        outcome = msgspec.structs.replace(outcome, aside=aside)
        if _was_red_before(root, outcome, journal, wish):
            return msgspec.structs.replace(outcome, red_before=True)
        journal.remember_red(step.id, code)
        return outcome


def _was_red_before(root: Path, outcome: Outcome, journal: Journal, wish: Wish) -> bool:
    """Whether the check is red on the tree as it was, too, so that it says nothing about the step."""
    if not wish.doubt or outcome.seconds is None:
        return False
    return not run_check(wish.check, root, journal.folder / "logs" / "without.log", wish.check_seconds).is_green


def _watched(root: Path, changes: Sequence[FileChange], journal: Journal, wish: Wish) -> Repository:
    """The repository; StepRefused where a file holds work of somebody's that no commit has, or where none can be made."""
    repository = Repository(root)
    if repository.is_refused and (wish.commit or not wish.dirty):
        raise StepRefused(
            "git gives no answer about this folder (it belongs to another user, its settings are broken, or git is not "
            "installed), so that nobody can say what no commit holds. Mend that, or give --dirty."
        )
    if wish.commit:
        _check_ready(repository)
    if repository.is_there and not wish.dirty:
        theirs = [each.path for each in changes if each.before is not None and not journal.owns(each.path, each.before)]
        if changed := repository.uncommitted(theirs):
            raise StepRefused(f"{', '.join(changed)} has changes that no commit holds. Commit them first, or give --dirty.")
    return repository


def _check_ready(repository: Repository) -> None:
    """StepRefused where no commit can be made."""
    if not repository.is_there:
        raise StepRefused("There is no git repository to commit in; leave --commit out.")
    if what := repository.under_way():
        raise StepRefused(f"The repository is in the middle of {what}. End that first, or leave --commit out.")


def _checked(root: Path, step: Step, entry: Entry, journal: Journal, wish: Wish) -> Outcome:
    files = tuple(each.path for each in entry.record.files)
    if not wish.check:
        return Outcome(step.id, step.title, KEPT, files)
    log = journal.folder / "logs" / f"{_plain(step.id)}.log"
    result = run_check(wish.check, root, log, wish.check_seconds)
    if result.is_green:
        journal.noted_again(entry)
        return Outcome(step.id, step.title, KEPT, files, seconds=result.seconds, log=str(log))
    late = result.code is None
    reason = f"the check took longer than {wish.check_seconds:g} s" if late else f"the check ended with {result.code}"
    return Outcome(step.id, step.title, TAKEN_BACK, files, reason, result.seconds, result.said, str(log))


def _plain(name: str) -> str:
    """An id as the name of a file, whoever made it up."""
    return re.sub(r"[^\w-]", "-", name)[:80] or "step"


def _committed(repository: Repository, step: Step, entry: Entry, outcome: Outcome) -> Outcome:
    try:
        made = repository.commit(outcome.files, f"{step.title}\n\n{step.why_now}\n\nStep: {step.id}\n")
    except StepRefused as error:
        return msgspec.structs.replace(outcome, state=TAKEN_BACK, reason=str(error))
    entry.record.commit = made
    return msgspec.structs.replace(outcome, commit=made)


class TakenBack(NamedTuple):
    """A step that was taken back: its entry, the commit that does so ('' for none), and files that stay as they were found."""

    entry: Entry
    commit: str
    aside: list[Aside]


def take_back(root: Path, journal: Journal, name: str = "", *, commit: bool = False) -> TakenBack | None:
    """Take the step back that was interrupted, or else the last one, or the last of a name; None where there is none.

    With `commit` a commit takes it back, too. StepRefused where its files are not as it left them, or another was interrupted.
    """
    with journal.held():
        entries = journal.entries()
        broken = journal.interrupted()
        entry = broken or next((each for each in reversed(entries) if name in ("", each.record.id)), None)
        if entry is None:
            return None
        if broken is not None and name not in ("", broken.record.id):
            raise StepRefused(f"{broken.record.id} was interrupted here. `isodesm step --undo` takes it back first.")
        repository = Repository(root)
        if commit:
            _check_ready(repository)
        if broken is not None and not entry.record.commit:  # it may have been cut off right after its commit
            entry.record.commit = repository.made_last(entry.record.id)
        aside = journal.undo(entry, REFUSE if broken is None else LEAVE)
        made = ""
        if commit and entry.record.commit:
            record = entry.record
            message = f"Take back: {record.title}\n\nTakes back commit {record.commit}.\n\nStep: {record.id}\n"
            made = repository.commit([each.path for each in record.files], message)
        return TakenBack(entry, made, aside)
