"""The tests. No property is ever judged by the clock: speed is measured in benchmarks/ only."""

from hypothesis import settings

settings.register_profile("untimed", deadline=None)
settings.load_profile("untimed")
