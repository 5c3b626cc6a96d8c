"""Another way up is proposed like any other change: exact, with what it costs, and not where the
maker keeps the way it stands.
"""

import unittest

from northpace.proposals.held import Held, held_now
from northpace.proposals.search import Aim, propose
from northpace.spec import PlanSpec, with_settings
from tests.core.shapes import PIPELINE, source
from tests.ways.shapes import TEE


def proposed(spec, *families, keep=()):
    """Proposals of these families for a tee that stands on its foot."""

    def held(report, height):
        now = held_now(report, spec, height)
        return Held(**{**vars(now), "families": families, "keep": keep})

    aim = Aim(seconds=60, chain=False)
    return propose(PIPELINE, source(TEE), spec, held, aim=aim)


class Standing(unittest.TestCase):
    SPEC = with_settings(PlanSpec(), ["supports.enabled=true", "surface.layer_height=0.3"])

    def test_a_quicker_way_up(self):
        found = proposed(self.SPEC, "standing")
        best = found.singles[0]
        self.assertEqual(best.family, "standing")
        self.assertIn("no supports needed", best.words)
        self.assertIn("layers run another way", best.gives_up)
        self.assertLess(best.seconds, -10)
        # what is said is what the exact plan comes to
        change = [f"{name}={value}" for name, value in best.change.items()]
        taken = PIPELINE.plan(source(TEE), with_settings(self.SPEC, change)).report
        self.assertAlmostEqual(
            taken["time_s"]["total"], found.before["time_s"] + best.seconds, delta=0.5
        )

    def test_not_where_the_way_is_kept(self):
        self.assertEqual(proposed(self.SPEC, "standing", keep=("place.down_z",)).singles, ())
        self.assertEqual(proposed(self.SPEC, "footing").singles, ())
