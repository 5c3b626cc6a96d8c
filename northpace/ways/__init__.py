"""The way up: how a part may stand on the bed, and what each way costs."""
