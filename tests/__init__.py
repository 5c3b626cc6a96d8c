"""All tests. What they draw at random is drawn alike in every run, so that `./test` gives the same
answer everywhere; with ``NORTHPACE_FRESH_SEEDS=1`` it is drawn anew.
"""

import os

from hypothesis import settings

settings.register_profile("alike", derandomize=True, database=None)
if os.environ.get("NORTHPACE_FRESH_SEEDS") != "1":
    settings.load_profile("alike")
