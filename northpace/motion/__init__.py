"""Motion and time: accelerations, junctions, look-ahead, flow limit, least layer time (computations
§9).
"""
