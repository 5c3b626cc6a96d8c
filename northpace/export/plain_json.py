"""Plain data as readable JSON."""

from __future__ import annotations

import json
from typing import Any


def write_json(data: Any) -> bytes:
    """JSON with a line a value; letters beyond ASCII stay as they are."""
    return (json.dumps(data, indent=1, ensure_ascii=False) + "\n").encode()
