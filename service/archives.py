"""Several files in one archive."""

from __future__ import annotations

import io
import zipfile
from collections.abc import Iterable
from pathlib import PurePath

from northpace.errors import InputError

#: Bytes that go into one archive at most.
MOST_BYTES = 300_000_000


def archive(files: Iterable[tuple[str, bytes]], where: str, packed: bool = True) -> bytes:
    """Files by name in one archive; names that come again get a number. Raises `InputError` where
    it grows too large. ``packed``: they are packed already.
    """
    sink, names = io.BytesIO(), set[str]()
    way = zipfile.ZIP_STORED if packed else zipfile.ZIP_DEFLATED
    with zipfile.ZipFile(sink, "w", way) as out:
        for name, data in files:
            out.writestr(_once(name, names), data)
            if sink.tell() > MOST_BYTES:
                raise InputError(
                    f"the files are over {MOST_BYTES / 1e6:.0f} MB together; take fewer at once",
                    where,
                )
    return sink.getvalue()


def _once(name: str, names: set[str]) -> str:
    """A name that none of the others has; taken among them."""
    path, found, again = PurePath(name), name, 2
    while found.lower() in names:
        found, again = f"{path.stem} {again}{path.suffix}", again + 1
    names.add(found.lower())
    return found
