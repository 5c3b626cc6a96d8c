"""Results of stages that cannot be changed in place, since many stages share them."""

from __future__ import annotations

from dataclasses import fields, is_dataclass
from typing import Any

import numpy as np


def freeze(result: Any) -> None:
    """Forbid writing to the arrays of polygons in a result, in place; a write raises `ValueError`.

    Arrays of numbers stay as they are: compiled kernels would be compiled once more for arrays that
    cannot be written to. A test compares those before and after other plans.
    """
    if isinstance(result, np.ndarray):
        if result.dtype == object:
            result.flags.writeable = False
    elif isinstance(result, list | tuple):
        if not result or not isinstance(result[0], int | float | str):
            for entry in result:
                freeze(entry)
    elif is_dataclass(result) and not isinstance(result, type):
        for field in fields(result):
            freeze(getattr(result, field.name, None))
