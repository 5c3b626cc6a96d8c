"""All tests.

Random examples are the same in every run, so that `./test` gives the same answer everywhere. With
``NORTHPACE_FRESH_SEEDS=1`` every run draws new ones.
"""

import os

from hypothesis import settings

settings.register_profile("alike", derandomize=True, database=None)
if os.environ.get("NORTHPACE_FRESH_SEEDS") != "1":
    settings.load_profile("alike")
