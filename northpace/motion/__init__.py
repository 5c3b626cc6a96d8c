"""Motion and time: accelerations, junctions, look-ahead, flow limit, least layer time
(`docs/computations.md` §9).
"""
