"""One file that holds everything of a build: its document, photos, proofs and history.

A ZIP of JSON and JPEG, so that all of it can be read without this program. It is read whole or not
at all, and nothing in it is believed before it has been looked at.
"""

import io
import json
import zipfile
from collections.abc import Mapping
from dataclasses import asdict, replace
from datetime import datetime
from types import MappingProxyType
from typing import Annotated, Any, Literal

from django.db import transaction
from pydantic import AwareDatetime, BaseModel, ConfigDict, Field, ValidationError

from circuitry.design.model import VERSION, Build
from circuitry.document.reading import COLLECTIONS, MAX_BYTES, read, read_json, write
from circuitry.edits import Change, apply_changes, inverse, upgraded_change
from circuitry.errors import UnusableInput
from oilstone.builds import models, storage
from oilstone.builds.older_proofs import by_reading
from oilstone.builds.photos import MOST_BYTES as MOST_PHOTO_BYTES
from oilstone.builds.photos import PROOF_PHOTOS, Picture, kept_picture
from oilstone.builds.results import sized

FORMAT = "oilstone-archive"
ARCHIVE_VERSION = 1
MOST_FILES = 2_000
MOST_JSON_BYTES = 60_000_000
DOCUMENT, ABOUT, HISTORY, PROOFS, PHOTOS = (
    "build.json",
    "archive.json",
    "history.json",
    "proofs.json",
    "photos.json",
)
Text = Annotated[str, Field(max_length=500)]
Name = Annotated[str, Field(max_length=200)]
Identity = Annotated[str, Field(max_length=64)]
Step = Annotated[str, Field(max_length=120)]
Count = Annotated[int, Field(ge=0, lt=2**31)]


class _Row(BaseModel):
    model_config = ConfigDict(extra="forbid", strict=False)


class ArchivedToday(_Row):
    """The car as it stood."""

    battery_v: float | None = None
    battery_at: AwareDatetime | None = None
    missing: list[Identity] = Field(default_factory=list)
    jumpers: dict[str, str] = Field(default_factory=dict)


class ArchivedFault(_Row):
    """A fault that was found and mended."""

    of: Identity
    words: Annotated[str, Field(max_length=300)]
    seen: Annotated[list[Text], Field(max_length=100)]
    tests: Annotated[list[Text], Field(max_length=100)]
    minutes: Annotated[float, Field(ge=0, lt=1e5)]
    note: Text
    who: Annotated[str, Field(max_length=40)]
    mark: Annotated[str, Field(max_length=40)]
    at: AwareDatetime


class ArchivedMade(_Row):
    """A step of making a wire that was done, and how the wire was then."""

    wire: Identity
    step: Annotated[str, Field(max_length=20)]
    length_m: Annotated[float, Field(ge=0, le=1000)]
    size: Annotated[str, Field(max_length=80)]
    colour: Annotated[str, Field(max_length=80)]
    label: Annotated[str, Field(max_length=80)]
    at: AwareDatetime


class ArchivedLine(_Row):
    """A line of the journal."""

    words: Annotated[str, Field(max_length=1000)]
    stage: Annotated[str, Field(max_length=20)]
    minutes: Annotated[int, Field(ge=0, le=1440)]
    at: AwareDatetime


class About(_Row):
    """What the archive is, and of which revision."""

    format: Literal["oilstone-archive"]
    version: Literal[1]
    revision: Count
    created: AwareDatetime
    changed: AwareDatetime
    today: ArchivedToday | None = None
    faults: Annotated[list[ArchivedFault], Field(max_length=10_000)] = Field(default_factory=list)
    made: Annotated[list[ArchivedMade], Field(max_length=100_000)] = Field(default_factory=list)
    journal: Annotated[list[ArchivedLine], Field(max_length=10_000)] = Field(default_factory=list)


class ArchivedChange(_Row):
    """One thing before and after."""

    collection: Identity
    id: Identity
    before: dict[str, Any] | None
    after: dict[str, Any] | None
    index: Count = 0


class ArchivedEdit(_Row):
    """One revision; ``of`` is that of the edit which an undo or redo moved."""

    revision: Count
    label: Name
    name: Annotated[str, Field(max_length=80)] = ""
    kind: Literal["do", "undo", "redo"]
    of: Count | None
    version: Annotated[int, Field(ge=0, le=VERSION)]
    changes: list[ArchivedChange]
    at: AwareDatetime


class ArchivedProof(_Row):
    """The record of one step tried on the car; of a whole circuit where it is older than steps."""

    step: Step = ""
    title: Annotated[str, Field(max_length=300)] = ""
    circuit: Annotated[str, Field(max_length=64)]
    revision: Count
    passed: bool
    note: Text
    who: Annotated[str, Field(max_length=40)] = ""
    readings: Annotated[list[dict[str, Any]], Field(max_length=1000)]
    looks: Annotated[list[dict[str, Any]], Field(max_length=1000)] = Field(default_factory=list)
    facts: dict[str, str] = Field(default_factory=dict)
    mark: Annotated[str, Field(max_length=40)] | None = None
    said_at: AwareDatetime | None = None
    at: AwareDatetime


class ArchivedPhoto(_Row):
    """What a photo is of; its pixels are in the file named."""

    collection: Identity
    identity: Step
    caption: Name
    file: Name
    at: AwareDatetime


def pack(row: models.Build, beside: Mapping[str, bytes] = MappingProxyType({})) -> bytes:
    """Everything of a stored build as one file; what is put ``beside`` it, by name, is for people
    and other programs, and is not read back."""
    out = io.BytesIO()
    photos = list(row.photos.all())
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as packed:
        packed.writestr(DOCUMENT, write(storage.load(row)))
        about = {
            "format": FORMAT,
            "version": ARCHIVE_VERSION,
            "revision": row.revision,
            "created": row.created.isoformat(),
            "changed": row.changed.isoformat(),
            "today": _today(row),
            "faults": [_fault(fault) for fault in row.faults.all()],
            "made": [_made(made) for made in row.made.all()],
            "journal": [_line(line) for line in row.journal.all()],
        }
        packed.writestr(ABOUT, _json(about))
        packed.writestr(HISTORY, _json([_edit(edit) for edit in row.edits.select_related("of")]))
        packed.writestr(PROOFS, _json([_proof(proof) for proof in row.proofs.all()]))
        packed.writestr(PHOTOS, _json([_photo(photo) for photo in photos]))
        for photo in photos:
            packed.writestr(_photo_file(photo), bytes(photo.image), zipfile.ZIP_STORED)
        for name, data in beside.items():
            packed.writestr(name, data)
    return out.getvalue()


def unpack(data: bytes, file_name: str, name: str | None = None) -> models.Build:
    """Store the build of an archive with all that belongs to it; raises UnusableInput.

    ``name`` is another name for the build.
    """
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as packed:
            found = _Contents(packed, file_name)
    except (zipfile.BadZipFile, NotImplementedError, RuntimeError, EOFError, OSError):
        raise _refused(file_name, "is damaged, or no archive of a build.") from None
    sized(found.build)
    with transaction.atomic():
        return found.store(name)


class _Contents:
    """What an archive holds, looked at and found usable."""

    def __init__(self, packed: zipfile.ZipFile, file_name: str) -> None:
        self.file_name = file_name
        self.packed = packed
        if len(packed.infolist()) > MOST_FILES:
            raise _refused(file_name, f"holds more than {MOST_FILES} files.")
        self.about = self._one(ABOUT, About)
        self.build = read(self._bytes(DOCUMENT, MAX_BYTES))
        self.edits = self._rows(HISTORY, ArchivedEdit)
        self.proofs = self._rows(PROOFS, ArchivedProof)
        self.photos = self._rows(PHOTOS, ArchivedPhoto)
        self.changes = [_changes(edit) for edit in self.edits]
        self._walk_back()
        self.pictures = [self._picture(photo) for photo in self.photos]

    def store(self, name: str | None) -> models.Build:
        """The new rows."""
        row = storage.create(replace(self.build, name=name or self.build.name))
        by_revision: dict[int, models.Edit] = {}
        for edit, changes in zip(self.edits, self.changes, strict=True):
            stored = models.Edit.objects.create(
                build=row,
                revision=edit.revision,
                label=edit.label,
                name=edit.name,
                kind=edit.kind,
                of=by_revision.get(edit.of or 0),
                version=VERSION,
                changes=[asdict(change) for change in changes],
            )
            by_revision[edit.revision] = stored
            _at(stored, edit.at)
        for proof in reversed(self.proofs):
            fields = proof.model_dump(exclude={"at"})
            fields["readings"] = by_reading(fields["readings"])
            stored_proof = models.Proof.objects.create(build=row, **fields)
            _at(stored_proof, proof.at)
        if self.about.today is not None:
            models.CarToday.objects.create(build=row, **self.about.today.model_dump())
        for fault in reversed(self.about.faults):
            fields = fault.model_dump(exclude={"at"})
            _at(models.MendedFault.objects.create(build=row, **fields), fault.at)
        for made in self.about.made:
            fields = made.model_dump(exclude={"at"})
            _at(models.Made.objects.create(build=row, **fields), made.at)
        for line in self.about.journal:
            fields = line.model_dump(exclude={"at"})
            _at(models.JournalLine.objects.create(build=row, **fields), line.at)
        for photo, picture in zip(self.photos, self.pictures, strict=True):
            fields = photo.model_dump(exclude={"at", "file"})
            stored_photo = models.Photo.objects.create(build=row, **fields, **vars(picture))
            _at(stored_photo, photo.at)
        models.Build.objects.filter(pk=row.pk).update(
            revision=self.about.revision, created=self.about.created, changed=self.about.changed
        )
        row.refresh_from_db()
        return row

    def _walk_back(self) -> None:
        """Refuse a history that does not lead to this build."""
        revisions = [edit.revision for edit in self.edits]
        if revisions != list(range(1, self.about.revision + 1)):
            raise self._broken("misses a revision")
        standing: list[int] = []
        taken_back: list[int] = []
        for edit in self.edits:
            if edit.kind == "do":
                standing.append(edit.revision)
                taken_back.clear()
                continue
            source, target = (standing, taken_back)[:: 1 if edit.kind == "undo" else -1]
            if not source or source[-1] != edit.of:
                raise self._broken("takes back what does not stand")
            target.append(source.pop())
        build: Build = self.build
        for changes in reversed(self.changes):
            try:
                build = apply_changes(build, inverse(changes))
            except (TypeError, ValueError, KeyError, AttributeError):
                raise self._broken("does not lead to this build") from None

    def _picture(self, photo: ArchivedPhoto) -> Picture:
        if photo.collection not in (*COLLECTIONS, PROOF_PHOTOS):
            raise _refused(
                self.file_name, f"has a photo of “{photo.collection}”, which is nothing."
            )
        return kept_picture(self._bytes(photo.file, MOST_PHOTO_BYTES), photo.file)

    def _one(self, name: str, kind: type[About]) -> About:
        return self._checked(name, lambda value: kind.model_validate(value))

    def _rows(self, name: str, kind: type[Any]) -> list[Any]:
        def rows(value: Any) -> list[Any]:
            if not isinstance(value, list):
                raise _refused(self.file_name, f"{name} is no list.")
            return [kind.model_validate(row) for row in value]

        return self._checked(name, rows)

    def _checked(self, name: str, kind: Any) -> Any:
        try:
            return kind(read_json(self._bytes(name, MOST_JSON_BYTES), MOST_JSON_BYTES))
        except ValidationError as problem:
            first = problem.errors()[0]
            where = "/".join(str(step) for step in first["loc"])
            raise _refused(self.file_name, f"{name}: {where}: {first['msg']}.") from None

    def _bytes(self, name: str, most: int) -> bytes:
        try:
            about = self.packed.getinfo(name)
        except KeyError:
            raise _refused(self.file_name, f"does not hold {name}.") from None
        if about.file_size > most:
            raise _refused(self.file_name, f"{name} is larger than {most / 1e6:g} MB.")
        with self.packed.open(about) as opened:
            data = opened.read(most + 1)
        if len(data) > most:
            raise _refused(self.file_name, f"{name} is larger than {most / 1e6:g} MB.")
        return data

    def _broken(self, how: str) -> UnusableInput:
        return _refused(self.file_name, f"has a history that {how}. Its document can be opened.")


def _changes(edit: ArchivedEdit) -> list[Change]:
    return [upgraded_change(Change(**vars(change)), edit.version) for change in edit.changes]


def _edit(edit: models.Edit) -> dict[str, Any]:
    return {
        "revision": edit.revision,
        "label": edit.label,
        "name": edit.name,
        "kind": edit.kind,
        "of": edit.of.revision if edit.of else None,
        "version": edit.version,
        "changes": edit.changes,
        "at": edit.at.isoformat(),
    }


PROOF_FIELDS = (
    *("step", "title", "circuit", "revision", "passed", "note", "who"),
    *("readings", "looks", "facts", "mark"),
)


def _proof(proof: models.Proof) -> dict[str, Any]:
    own = {name: getattr(proof, name) for name in PROOF_FIELDS}
    said_at = proof.said_at and proof.said_at.isoformat()
    return {**own, "said_at": said_at, "at": proof.at.isoformat()}


def _today(row: models.Build) -> dict[str, Any] | None:
    today = models.CarToday.objects.filter(build=row).first()
    if today is None:
        return None
    return {
        "battery_v": today.battery_v,
        "battery_at": today.battery_at and today.battery_at.isoformat(),
        "missing": today.missing,
        "jumpers": today.jumpers,
    }


def _photo(photo: models.Photo) -> dict[str, Any]:
    names = ("collection", "identity", "caption")
    own = {name: getattr(photo, name) for name in names}
    return {**own, "file": _photo_file(photo), "at": photo.at.isoformat()}


def _photo_file(photo: models.Photo) -> str:
    return f"photos/{photo.pk}.jpg"


def _at(row: Any, at: datetime) -> None:
    """Give a new row the time of the old one: its own is that of its making."""
    type(row).objects.filter(pk=row.pk).update(at=at)


def _json(value: Any) -> str:
    return json.dumps(value, ensure_ascii=False, indent=1)


def _refused(file_name: str, what: str) -> UnusableInput:
    return UnusableInput("bad-archive", file_name, f"{file_name} {what} Nothing was opened.")


def _line(line: models.JournalLine) -> dict[str, Any]:
    own = {"words": line.words, "stage": line.stage, "minutes": line.minutes}
    return {**own, "at": line.at.isoformat()}


MADE_FIELDS = ("wire", "step", "length_m", "size", "colour", "label")


def _made(made: models.Made) -> dict[str, Any]:
    return {**{name: getattr(made, name) for name in MADE_FIELDS}, "at": made.at.isoformat()}


FAULT_FIELDS = ("of", "words", "seen", "tests", "minutes", "note", "who", "mark")


def _fault(fault: models.MendedFault) -> dict[str, Any]:
    own = {name: getattr(fault, name) for name in FAULT_FIELDS}
    return {**own, "at": fault.at.isoformat()}
