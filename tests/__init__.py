"""The tests. No property is ever judged by the clock: speed is measured in benchmarks/ only."""

from hypothesis import settings

from hydrarch.core.derivation.chain import Derivation

settings.register_profile("untimed", deadline=None)
settings.load_profile("untimed")
Derivation.STRICT = True  # a room that breaks down is a failing test
