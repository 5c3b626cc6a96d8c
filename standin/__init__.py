"""The simulated printer: what a machine does with a file, by its own reading and its own motion
code.

Nothing here comes from `northpace`: it shares the G-code text and a machine's stated limits with
it, and nothing else, so that the two can be held against each other. Lengths are millimetres, times
seconds, temperatures °C.
"""
