"""Outlines of layers: sections of the solid, and areas as arrays of polygons."""
