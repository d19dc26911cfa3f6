"""Tables: builds, the things in them by their ids, the edits that made them, and proofs.

A thing's columns are the fields of its dataclass in ``circuitry.design.model``; ``identity`` is its
id and ``position`` its place in the document. Things refer to each other by identity, as in the
document; the core checks every reference before anything is stored.
"""

from django.db import models


class StandingBuilds(models.Manager["Build"]):
    """Builds that are not deleted."""

    def get_queryset(self) -> models.QuerySet["Build"]:
        """All builds but the deleted ones."""
        return super().get_queryset().filter(deleted=None)


class Build(models.Model):
    """One car's electrical design at its newest revision; ``objects`` leaves out deleted ones."""

    name = models.CharField(max_length=80)
    body_conducts = models.BooleanField()
    policy = models.JSONField(default=dict)
    body = models.JSONField(default=dict)
    harness_from = models.CharField(max_length=64, null=True)
    revision = models.PositiveIntegerField(default=0)
    deleted = models.DateTimeField(null=True)
    created = models.DateTimeField(auto_now_add=True)
    changed = models.DateTimeField(auto_now=True)

    objects = StandingBuilds()
    with_deleted = models.Manager["Build"]()

    class Meta:
        ordering = ("id",)
        base_manager_name = "with_deleted"


class Thing(models.Model):
    """What every thing of a build has."""

    build = models.ForeignKey(Build, on_delete=models.CASCADE)
    identity = models.CharField(max_length=64)
    position = models.PositiveIntegerField()

    class Meta:
        abstract = True
        ordering = ("position",)
        constraints = (
            models.UniqueConstraint(fields=("build", "identity"), name="one_%(class)s_of_an_id"),
        )


class Place(Thing):
    """A named spot in the car."""

    name = models.CharField(max_length=80)
    zone = models.CharField(max_length=20)
    ambient_c = models.FloatField()
    x_m = models.FloatField()
    y_m = models.FloatField()
    wet = models.BooleanField(default=False)
    level = models.CharField(max_length=20, default="waist")


class Run(Thing):
    """A way between two places."""

    from_place = models.CharField(max_length=64)
    to_place = models.CharField(max_length=64)
    length_m = models.FloatField()
    cover = models.CharField(max_length=20, default="none")
    passes = models.JSONField(default=list)
    measured = models.BooleanField(default=True)
    fixings_mm = models.FloatField(default=250.0)
    hole_mm = models.FloatField(null=True)
    hole_fit = models.CharField(max_length=20, default="none")


class Part(Thing):
    """Anything with terminals."""

    kind = models.CharField(max_length=40)
    name = models.CharField(max_length=80)
    place = models.CharField(max_length=64)
    catalogue = models.CharField(max_length=80, null=True)
    figures = models.JSONField(default=dict)
    contacts = models.JSONField(null=True)
    ways = models.JSONField(default=list)
    fitted = models.JSONField(null=True)
    housed = models.JSONField(null=True)
    circuit = models.CharField(max_length=64, null=True)
    state = models.CharField(max_length=20, default="new")
    pins = models.JSONField(default=list)
    wish = models.JSONField(null=True)
    note = models.CharField(max_length=500, blank=True)


class Wire(Thing):
    """One conductor between two terminals, each written ``part.name``."""

    label = models.CharField(max_length=80)
    from_terminal = models.CharField(max_length=100)
    to_terminal = models.CharField(max_length=100)
    size = models.CharField(max_length=80, null=True)
    way = models.JSONField(null=True)
    length_m = models.FloatField(null=True)
    extra_m = models.FloatField(null=True)
    insulation = models.CharField(max_length=80, null=True)
    colour = models.CharField(max_length=80, default="black")
    joint_from = models.CharField(max_length=80, null=True)
    joint_to = models.CharField(max_length=80, null=True)
    circuit = models.CharField(max_length=64, null=True)


class Circuit(Thing):
    """What belongs together for one function."""

    name = models.CharField(max_length=80)
    group = models.CharField(max_length=20)
    criticality = models.CharField(max_length=20)
    stage = models.PositiveIntegerField(default=1)
    intent = models.JSONField(null=True)
    written = models.JSONField(null=True)


class FoundCircuit(Thing):
    """A circuit found in an old loom."""

    name = models.CharField(max_length=80)
    stretches = models.JSONField(default=list)
    fuse_a = models.FloatField(null=True)
    condition = models.CharField(max_length=20, default="sound")
    goes_to = models.CharField(max_length=80, blank=True)
    decision = models.CharField(max_length=20, default="to decide")
    note = models.CharField(max_length=500, blank=True)


class PinPair(Thing):
    """One function in two harnesses."""

    function = models.CharField(max_length=80)
    old_plug = models.CharField(max_length=80, blank=True)
    old_pin = models.CharField(max_length=80, blank=True)
    old_colour = models.CharField(max_length=80, blank=True)
    new_plug = models.CharField(max_length=80, blank=True)
    new_pin = models.CharField(max_length=80, blank=True)
    new_colour = models.CharField(max_length=80, blank=True)
    proved = models.BooleanField(default=False)
    note = models.CharField(max_length=500, blank=True)


class HarnessCircuit(Thing):
    """A circuit of a ready-made harness."""

    name = models.CharField(max_length=80)
    size = models.CharField(max_length=80)
    length_m = models.FloatField()
    fuse_a = models.FloatField(null=True)
    serves = models.CharField(max_length=64, null=True)
    note = models.CharField(max_length=500, blank=True)


class Acceptance(Thing):
    """A finding that the builder lives with."""

    code = models.CharField(max_length=80)
    parts = models.JSONField(default=list)
    found = models.CharField(max_length=500, blank=True)
    limit = models.CharField(max_length=500, blank=True)
    reason = models.CharField(max_length=500)


class Scenario(Thing):
    """What a car does for a while, as the builder says it."""

    name = models.CharField(max_length=80)
    key = models.CharField(max_length=20, default="run")
    road = models.CharField(max_length=40, blank=True)
    pace = models.CharField(max_length=20, blank=True)
    engine_rpm = models.FloatField(default=0.0)
    outside_c = models.FloatField(default=20.0)
    charge = models.FloatField(default=0.8)
    charges = models.BooleanField(default=True)
    on = models.JSONField(default=dict)
    shed = models.JSONField(default=list)
    measured_a = models.FloatField(null=True)


class Reel(Thing):
    """A reel of wire that is at hand."""

    size = models.CharField(max_length=80)
    colour = models.CharField(max_length=80)
    length_m = models.FloatField()
    insulation = models.CharField(max_length=80, null=True)


class Made(models.Model):
    """A step of making a wire that was done, and how the wire was then."""

    build = models.ForeignKey(Build, on_delete=models.CASCADE, related_name="made")
    wire = models.CharField(max_length=64)
    step = models.CharField(max_length=20)
    length_m = models.FloatField()
    size = models.CharField(max_length=80)
    colour = models.CharField(max_length=80)
    label = models.CharField(max_length=80)
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ("at", "id")
        constraints = (
            models.UniqueConstraint(fields=("build", "wire", "step"), name="made_once_a_step"),
        )


class JournalLine(models.Model):
    """A line that the builder wrote of an evening, with the minutes that it took."""

    build = models.ForeignKey(Build, on_delete=models.CASCADE, related_name="journal")
    words = models.CharField(max_length=1000)
    stage = models.CharField(max_length=20, blank=True)
    minutes = models.PositiveIntegerField(default=0)
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ("at", "id")


class Photo(models.Model):
    """A picture of a thing of a build or of a step of its proof, re-encoded without what the camera
    wrote into it."""

    build = models.ForeignKey(Build, on_delete=models.CASCADE, related_name="photos")
    collection = models.CharField(max_length=20)
    identity = models.CharField(max_length=120)
    caption = models.CharField(max_length=200, blank=True)
    image = models.BinaryField()
    thumbnail = models.BinaryField()
    width = models.PositiveIntegerField()
    height = models.PositiveIntegerField()
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ("at", "id")
        indexes = (models.Index(fields=("build", "collection", "identity")),)


class Edit(models.Model):
    """One revision: what changed, under which words; an undo or a redo names the edit it moves.
    ``name`` is what the builder calls it."""

    DO, UNDO, REDO = "do", "undo", "redo"

    build = models.ForeignKey(Build, on_delete=models.CASCADE, related_name="edits")
    revision = models.PositiveIntegerField()
    label = models.CharField(max_length=200)
    name = models.CharField(max_length=80, blank=True)
    kind = models.CharField(max_length=4, choices=[(k, k) for k in (DO, UNDO, REDO)], default=DO)
    of = models.ForeignKey("self", on_delete=models.CASCADE, null=True)
    version = models.PositiveIntegerField(default=1)
    changes = models.JSONField()
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ("revision",)
        constraints = (
            models.UniqueConstraint(fields=("build", "revision"), name="one_edit_a_revision"),
        )


class Proof(models.Model):
    """The record of one step tried on the car, with what was expected then; kept for ever.

    ``step`` is empty where it is older than steps, and was of a whole circuit. ``facts`` are of
    what the step relies on, as it was. ``mark`` is what whoever recorded it knows it by, so that
    one sent twice is kept once; ``said_at`` is the time by their clock.
    """

    build = models.ForeignKey(Build, on_delete=models.CASCADE, related_name="proofs")
    step = models.CharField(max_length=120, blank=True)
    title = models.CharField(max_length=300, blank=True)
    circuit = models.CharField(max_length=64, blank=True)
    revision = models.PositiveIntegerField()
    passed = models.BooleanField()
    note = models.CharField(max_length=500, blank=True)
    who = models.CharField(max_length=40, blank=True)
    readings = models.JSONField()
    looks = models.JSONField(default=list)
    facts = models.JSONField(default=dict)
    mark = models.CharField(max_length=40, null=True)
    said_at = models.DateTimeField(null=True)
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ("-at", "-id")
        constraints = (
            models.UniqueConstraint(fields=("build", "mark"), name="one_proof_of_a_mark"),
        )


class CarToday(models.Model):
    """A car as it stands today: volts of its battery at rest and when they were measured, parts
    that are not there yet, and the position in which a jumper stands in for a switch."""

    build = models.OneToOneField(Build, on_delete=models.CASCADE, related_name="today")
    battery_v = models.FloatField(null=True)
    battery_at = models.DateTimeField(null=True)
    missing = models.JSONField(default=list)
    jumpers = models.JSONField(default=dict)


class MendedFault(models.Model):
    """A fault that was found and mended: what it was, what had been seen, the tests made for it and
    the minutes that they usually take. ``mark`` keeps one sent twice once."""

    build = models.ForeignKey(Build, on_delete=models.CASCADE, related_name="faults")
    of = models.CharField(max_length=64)
    words = models.CharField(max_length=300)
    seen = models.JSONField(default=list)
    tests = models.JSONField(default=list)
    minutes = models.FloatField(default=0)
    note = models.CharField(max_length=500, blank=True)
    who = models.CharField(max_length=40, blank=True)
    mark = models.CharField(max_length=40)
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ("-at", "-id")
        constraints = (
            models.UniqueConstraint(fields=("build", "mark"), name="one_fault_of_a_mark"),
        )


class BenchSession(models.Model):
    """A build at the bench: where its time stands, and a snapshot from which that is made again.

    The one without a name is on the bench now; those with one are kept. ``snapshot`` and ``tape``
    are of ``snapshot_s``; what is done after that is in its actions.
    """

    build = models.ForeignKey(Build, on_delete=models.CASCADE, related_name="bench_sessions")
    name = models.CharField(max_length=80, blank=True)
    revision = models.PositiveIntegerField()
    at_s = models.FloatField(default=0.0)
    snapshot_s = models.FloatField(default=0.0)
    snapshot = models.JSONField(null=True)
    tape = models.JSONField(default=list)
    changed = models.DateTimeField(auto_now=True)

    class Meta:
        ordering = ("id",)
        constraints = (
            models.UniqueConstraint(fields=("build", "name"), name="one_bench_session_of_a_name"),
        )


class BenchAction(models.Model):
    """One thing done at the bench, as a script has it."""

    session = models.ForeignKey(BenchSession, on_delete=models.CASCADE, related_name="actions")
    at_s = models.FloatField()
    row = models.JSONField()

    class Meta:
        ordering = ("id",)
