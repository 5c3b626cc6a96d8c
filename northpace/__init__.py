"""The computation core of North Pace: from a mesh file and a plan spec to layers, moves and a
report.

No interface, no database, no network. Lengths are millimetres, times seconds, angles degrees,
masses grams.
"""

#: Stamped on every computed plan, so that a later core can say what it would change.
VERSION = "0.8.2"
