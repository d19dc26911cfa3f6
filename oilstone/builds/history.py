"""The one door: every change of a stored build is an edit, in one transaction, one revision."""

from dataclasses import asdict, dataclass

from django.db import transaction

from circuitry.design.model import VERSION, Build
from circuitry.document.reading import hold
from circuitry.edits import (
    Change,
    apply_changes,
    apply_operations,
    differences,
    inverse,
    upgraded_change,
)
from circuitry.errors import UnusableInput
from oilstone.builds import models, storage
from oilstone.builds.results import build_at, remember, sized

LABEL_LIMIT = 200


@dataclass(eq=False)
class StaleBase(Exception):
    """The edit was made against an older revision; ``since`` is what happened meanwhile."""

    revision: int
    since: list[models.Edit]


@dataclass(eq=False)
class NothingToMove(Exception):
    """There is no edit to undo or to redo."""

    word: str


@dataclass(frozen=True)
class Reversible:
    """The edits that the next undo and the next redo would move; None where there is none."""

    undo: models.Edit | None
    redo: models.Edit | None


def make_edit(build_id: int, base: int, label: str, operations: object) -> list[Change]:
    """Apply operations to the newest revision, store them as one edit, and say what changed.

    Raises StaleBase, or UnusableInput for operations or a build that cannot stand; then nothing
    is stored. Operations that change nothing make no edit.
    """
    build = build_at_base(build_id, base)
    after = apply_operations(build, operations)
    changes = differences(build, after)
    if changes:
        sized(after)
        _store(build_id, base, models.Edit(label=label[:LABEL_LIMIT]), after, changes)
    return changes


def undo(build_id: int, base: int) -> list[Change]:
    """Take back the newest edit that stands."""
    edit = reversible(build_id).undo
    if edit is None:
        raise NothingToMove("undo")
    return _move(build_id, base, edit, models.Edit.UNDO, inverse(stored_changes(edit)))


def redo(build_id: int, base: int) -> list[Change]:
    """Do again the edit taken back last."""
    edit = reversible(build_id).redo
    if edit is None:
        raise NothingToMove("redo")
    return _move(build_id, base, edit, models.Edit.REDO, stored_changes(edit))


def build_of(row: models.Build, revision: int) -> Build:
    """The build as it was at a revision: everything since is taken back in thought.

    Raises UnusableInput for a revision that the build never had.
    """
    if not 0 <= revision <= row.revision:
        raise UnusableInput(
            "unknown-revision",
            str(revision),
            f"This build has no revision {revision}; its newest is {row.revision}.",
        )
    build = build_at(row)
    for edit in models.Edit.objects.filter(build=row, revision__gt=revision).order_by("-revision"):
        build = apply_changes(build, inverse(stored_changes(edit)))
    return build


def go_back(build_id: int, base: int, revision: int) -> list[Change]:
    """Make the build what it was at a revision, as an edit of its own: nothing is lost."""
    before = build_at_base(build_id, base)
    after = build_of(models.Build.objects.get(pk=build_id), revision)
    changes = differences(before, after)
    if changes:
        hold(after, before)
        sized(after)
        edit = models.Edit(label=f"Back to revision {revision}")
        _store(build_id, base, edit, after, changes)
    return changes


def reversible(build_id: int) -> Reversible:
    """Walk the history once: a new edit forgets what could have been done again."""
    standing: list[models.Edit] = []
    taken_back: list[models.Edit] = []
    for edit in models.Edit.objects.filter(build_id=build_id).defer("changes"):
        if edit.kind == models.Edit.UNDO:
            taken_back.append(standing.pop())
        elif edit.kind == models.Edit.REDO:
            standing.append(taken_back.pop())
        else:
            standing.append(edit)
            taken_back.clear()
    return Reversible(standing[-1] if standing else None, taken_back[-1] if taken_back else None)


def stored_changes(edit: models.Edit) -> list[Change]:
    """The changes of a stored edit, as the present version of the format writes them."""
    return [upgraded_change(Change(**change), edit.version) for change in edit.changes]


def _move(
    build_id: int, base: int, edit: models.Edit, kind: str, changes: list[Change]
) -> list[Change]:
    before = build_at_base(build_id, base)
    after = apply_changes(before, changes)
    hold(after, before)
    _store(build_id, base, models.Edit(label=edit.label, kind=kind, of=edit), after, changes)
    return changes


def build_at_base(build_id: int, base: int) -> Build:
    """The newest build, which must be of this revision; raises StaleBase when it is not."""
    row = models.Build.objects.get(pk=build_id)
    if row.revision != base:
        raise stale(row, base)
    return build_at(row)


def _store(
    build_id: int, base: int, edit: models.Edit, after: Build, changes: list[Change]
) -> None:
    with transaction.atomic():
        row = models.Build.objects.get(pk=build_id)
        if row.revision != base:
            raise stale(row, base)
        row.revision += 1
        storage.save(row, after, changes)
        edit.build, edit.revision = row, row.revision
        edit.changes, edit.version = [asdict(change) for change in changes], VERSION
        edit.save()
    remember(row, after)


def stale(row: models.Build, base: int) -> StaleBase:
    """The refusal of what was made against an older revision, with the edits since."""
    since = models.Edit.objects.filter(build=row, revision__gt=base).defer("changes")
    return StaleBase(row.revision, list(since))
