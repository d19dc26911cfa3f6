"""Tests; what Hypothesis makes up is never timed, for a formula is compiled when first asked."""

from hypothesis import settings

settings.register_profile("untimed", deadline=None)
settings.load_profile("untimed")
