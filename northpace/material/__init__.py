"""Mass, length, cost and spools (computations §10)."""
