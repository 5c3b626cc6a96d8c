"""G-code out of the move table, and back into it."""
