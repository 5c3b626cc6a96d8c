"""Figures in sentences."""

from __future__ import annotations


def signed(value: float, digits: int = 0) -> str:
    """A difference with its sign, the minus as long as the plus."""
    return f"{value:+.{digits}f}".replace("-", "−")
