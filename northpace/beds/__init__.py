"""Beds: many placings of plans on one plate, laid together, in turn or in groups.

A bed merges the moves of whole plans, unchanged but for their place (`merge`), in an order that the
head allows (`passes`, `turns`, `reach`), times them over the one motion model (`laying`), and says
what each way costs (`report`). `arrange` finds places for them. `docs/beds.md` has the rules.
"""
