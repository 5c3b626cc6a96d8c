"""Toolpaths: walls, solid layers, infill patterns (one file each), footing, and the order they are
laid in.
"""
