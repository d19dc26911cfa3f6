"""Tables: builds, the things in them by their ids, the edits that made them, and proofs.

A thing's columns are the fields of its dataclass in ``circuitry.build.model``; ``identity`` is its
id and ``position`` its place in the document. Things refer to each other by identity, as in the
document; the core checks every reference before anything is stored.
"""

from django.db import models


class Build(models.Model):
    """One car's electrical design at its newest revision."""

    name = models.CharField(max_length=80)
    body_conducts = models.BooleanField()
    policy = models.JSONField(default=dict)
    revision = models.PositiveIntegerField(default=0)
    created = models.DateTimeField(auto_now_add=True)
    changed = models.DateTimeField(auto_now=True)

    class Meta:
        ordering = ("id",)


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


class Run(Thing):
    """A measured way between two places."""

    from_place = models.CharField(max_length=64)
    to_place = models.CharField(max_length=64)
    length_m = models.FloatField()
    cover = models.CharField(max_length=20, default="none")
    passes = models.JSONField(default=list)


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
    circuit = models.CharField(max_length=64, null=True)


class Wire(Thing):
    """One conductor between two terminals, each written ``part.name``."""

    label = models.CharField(max_length=80)
    from_terminal = models.CharField(max_length=100)
    to_terminal = models.CharField(max_length=100)
    size = models.CharField(max_length=80, null=True)
    way = models.JSONField(null=True)
    length_m = models.FloatField(null=True)
    extra_m = models.FloatField(default=0.3)
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


class Edit(models.Model):
    """One revision: what changed, under which words; an undo or a redo names the edit it moves."""

    DO, UNDO, REDO = "do", "undo", "redo"

    build = models.ForeignKey(Build, on_delete=models.CASCADE, related_name="edits")
    revision = models.PositiveIntegerField()
    label = models.CharField(max_length=200)
    kind = models.CharField(max_length=4, choices=[(k, k) for k in (DO, UNDO, REDO)], default=DO)
    of = models.ForeignKey("self", on_delete=models.CASCADE, null=True)
    changes = models.JSONField()
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ("revision",)
        constraints = (
            models.UniqueConstraint(fields=("build", "revision"), name="one_edit_a_revision"),
        )


class Proof(models.Model):
    """The record of one circuit tried on the car, with what was expected then."""

    build = models.ForeignKey(Build, on_delete=models.CASCADE, related_name="proofs")
    circuit = models.CharField(max_length=64)
    revision = models.PositiveIntegerField()
    passed = models.BooleanField()
    note = models.CharField(max_length=500, blank=True)
    readings = models.JSONField()
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ("-at", "-id")
