"""Toolpaths: walls, solid layers and infill, supports, footing and spirals, and the order they are
laid in. The patterns of infill are in `northpace.infill`.
"""
