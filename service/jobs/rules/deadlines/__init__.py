"""A deadline: so many copies until a time, on the machines that are free, with the best surface
that fits; or what would be needed.
"""

from service.jobs.rules.deadlines.answer import answer

__all__ = ["answer"]
