"""The list of stages: names that tell them apart, results that say how large they are."""

import importlib
import pickle
import pkgutil
import unittest
from collections import Counter

from demo.shapes import sample_stl
from northpace.plan import stages
from northpace.plan.pipeline import Pipeline
from northpace.plan.source import Source
from northpace.plan.stage import Stage
from northpace.spec import PlanSpec, with_settings

#: Made of what other stages keep, which count it; or held by the solid kernel, beyond weighing.
NOT_WEIGHED = {"task", "laid", "mended", "thinned", "part", "placed"}


def every_stage():
    found = {}
    for module in pkgutil.iter_modules(stages.__path__):
        values = list(vars(importlib.import_module(f"{stages.__name__}.{module.name}")).values())
        for value in values:
            inside = value.values() if isinstance(value, dict) else [value]
            found |= {id(one): one for one in inside if isinstance(one, Stage)}
    return list(found.values())


class StageList(unittest.TestCase):
    def test_no_two_stages_share_a_name(self):
        # the name is part of the key of a result
        names = Counter(stage.name for stage in every_stage())
        self.assertGreater(len(names), 30)
        self.assertEqual([name for name, count in names.items() if count > 1], [])

    def test_what_is_kept_counts_its_memory(self):
        pipeline = Pipeline()
        pairs = ["supports.enabled=true", "surface.kind=best-fit"]
        source = Source.of(sample_stl("sensor-case"), "a.stl")
        pipeline.plan(source, with_settings(PlanSpec(), pairs))
        large = 0
        for key, (result, size) in pipeline.cache._kept.items():
            name = key.split(":")[0]
            if name in NOT_WEIGHED:
                continue
            taken = len(pickle.dumps(result))
            if taken > 100_000:
                large += 1
                self.assertGreater(size, taken / 3, name)
        self.assertGreater(large, 8)
        # the paths of a plan are counted where they were made
        kept = {key.split(":")[0]: result for key, (result, _) in pipeline.cache._kept.items()}
        footing, stands, gaps = kept["footing"], kept["stands"], kept["gaps"]
        made = (footing.paths, stands.paths, gaps.around, gaps.between, kept["solid"])
        for one, other in zip(kept["laid"], (*made, kept["infill"]), strict=True):
            self.assertIs(one, other)
