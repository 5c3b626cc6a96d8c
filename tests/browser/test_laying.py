"""What is laid of a large plan is looked at while the rest is computed."""

import manifold3d as m3
from playwright.sync_api import expect

from tests.browser.base import BrowserCase
from tests.core.shapes import stl


def comb() -> bytes:
    """Twelve posts with holes on a plate: seconds of walls."""
    post = m3.Manifold.cylinder(34, 4, 4, 48) - m3.Manifold.cylinder(34, 2, 2, 48)
    posts = [post.translate((12 * x, 12 * y, 2)) for x in range(4) for y in range(3)]
    plate = m3.Manifold.cube((48, 36, 2.5)).translate((-6, -6, 0))
    return stl(m3.Manifold.batch_boolean([plate, *posts], m3.OpType.Add))


class Laying(BrowserCase):
    def test_walls_stand_before_the_plan_does(self):
        self.sign_in()
        self.drop(comb(), "comb.stl")
        part = self.page.locator("[data-part=comb]")
        part.get_by_role("button", name="Plan it").click()
        self.page.get_by_role("dialog").get_by_role("button", name="Plan it").click()
        laid = self.page.locator("[data-laid]")
        expect(laid).to_contain_text("so far: walls laid")
        self.assertEqual(self.page.locator("dl[data-state=exact]").count(), 0)
        # asked what they are, as the beads of a plan are
        expect(self.page.get_by_label("Ask the beads")).to_be_visible()
        self.exact()
        expect(laid).to_have_count(0)
