"""Findings: what a maker should know before the machine starts, one file a family."""
