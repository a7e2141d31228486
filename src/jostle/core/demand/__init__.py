"""From layers of demand to a series of rates, one for each tick."""
