"""Kernels that are kept from one start to the next."""

import pickle
import tempfile
import unittest
from pathlib import Path

from ops.kernels import unreadable


class Kept(unittest.TestCase):
    def test_what_cannot_be_loaded_is_found_and_nothing_else(self):
        with tempfile.TemporaryDirectory() as name:
            folder = Path(name) / "paths" / "__pycache__"
            folder.mkdir(parents=True)
            index = pickle.dumps("0.61") + pickle.dumps(((1.0, 200), {"f": "f.1.nbc"}))
            whole = {"f.nbi": index, "f.1.nbc": pickle.dumps(("f", b"\x7fELF"))}
            torn = {
                "g.nbi": index[:-9],
                "g.1.nbc": b"",
                # a type that its module has no longer
                "h.nbi": pickle.dumps("0.61") + b"\x80\x04cnorthpace.moves\nNoLonger\n.",
            }
            for file, data in {**whole, **torn, "f.py": b"x"}.items():
                (folder / file).write_bytes(data)
            self.assertEqual({entry.name for entry in unreadable(Path(name))}, set(torn))


if __name__ == "__main__":
    unittest.main()
