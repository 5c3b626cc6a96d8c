"""The one exception that means "the input or a setting is wrong", as opposed to a fault of the
program.
"""

from __future__ import annotations


class InputError(ValueError):
    """What is wrong, where, and what would be allowed, in one sentence a maker can act on.

    Parameters
    ----------
    message
        The sentence.
    where
        The file or the setting (``group.name``) it is about; empty when the sentence says it.
    """

    def __init__(self, message: str, where: str = "") -> None:
        super().__init__(message)
        self.message = message
        self.where = where

    def __str__(self) -> str:
        return f"{self.where}: {self.message}" if self.where else self.message
