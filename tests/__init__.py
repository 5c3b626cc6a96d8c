"""All tests.

Random examples are the same in every run, so that `./test` gives the same answer everywhere. With
``NORTHPACE_FRESH_SEEDS=1`` every run draws new ones. How long an example takes is never a fault.
"""

import os

from hypothesis import settings

settings.register_profile("alike", deadline=None, derandomize=True, database=None)
settings.register_profile("fresh", deadline=None, print_blob=True)
settings.load_profile("fresh" if os.environ.get("NORTHPACE_FRESH_SEEDS") == "1" else "alike")
