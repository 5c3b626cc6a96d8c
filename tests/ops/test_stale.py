"""Compiled kernels go when a kernel changed, whichever file it is in."""

import tempfile
import unittest
from pathlib import Path

from ops.stale import drop_stale


class Stale(unittest.TestCase):
    def test_they_go_with_any_kernel_and_stay_otherwise(self):
        with tempfile.TemporaryDirectory() as folder:
            root = Path(folder)
            for name in ("northpace/a.py", "northpace/b.py", "standin/c.py"):
                (root / name).parent.mkdir(exist_ok=True)
                (root / name).write_text("@njit\ndef f(): ...\n")
            (root / "northpace/words.py").write_text("ONE = 1\n")
            compiled = root / "standin" / "__pycache__" / "c.f-1.py311.nbi"
            compiled.parent.mkdir()

            def dropped():
                compiled.write_text("machine code")
                drop_stale(root)
                return not compiled.exists()

            self.assertTrue(dropped())
            self.assertFalse(dropped())
            (root / "northpace/words.py").write_text("ONE = 2\n")
            self.assertFalse(dropped())
            (root / "northpace/b.py").write_text("@njit\ndef f(): return 1\n")
            self.assertTrue(dropped())
            self.assertFalse(dropped())
