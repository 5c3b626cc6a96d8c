"""Figures in milliseconds: the quick estimate, and later the frontier built on it."""
