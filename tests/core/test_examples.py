"""The examples in the core's docstrings say what the code does."""

import doctest
import importlib
import pkgutil
import unittest

import northpace


class Examples(unittest.TestCase):
    def test_they_hold(self):
        tried = 0
        for module in pkgutil.walk_packages(northpace.__path__, "northpace."):
            if module.name.endswith("__main__"):
                continue
            found = doctest.testmod(importlib.import_module(module.name))
            self.assertEqual(found.failed, 0, module.name)
            tried += found.attempted
        self.assertGreaterEqual(tried, 7)
