"""Mass, length, cost and spools (`docs/computations.md` §10)."""
