"""The tests. No property is ever judged by the clock: speed is measured in benchmarks/ only.

What is drawn at random is the same in every run, so that a change is judged by what it changed. HYDRARCH_SEARCH=1 in
the environment looks for what nobody has met yet, by other examples in each run.
"""

import os

from hypothesis import settings

from hydrarch.core.derivation.chain import Derivation

settings.register_profile("untimed", deadline=None, derandomize="HYDRARCH_SEARCH" not in os.environ)
settings.load_profile("untimed")
Derivation.STRICT = True  # a room that breaks down is a failing test
