"""Layer heights: stacks in whole z steps of the machine."""
