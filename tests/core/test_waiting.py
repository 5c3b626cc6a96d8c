"""The number of threads does not change the order in which paths are laid."""

import unittest
from unittest import mock

import numpy as np

from northpace.paths.travel import waiting
from tests.core.paths import lay_out
from tests.core.shapes import knob


class Waiting(unittest.TestCase):
    def test_the_number_of_threads_changes_nothing(self):
        found = []
        for threads in (1, 2, 7):
            with mock.patch.object(waiting, "THREADS", threads):
                rows = lay_out(knob()).rows
                found.append(np.column_stack([rows.x, rows.y, rows.z]))
        self.assertGreater(len(found[0]), 1000)
        np.testing.assert_array_equal(found[0], found[1])
        np.testing.assert_array_equal(found[0], found[2])
