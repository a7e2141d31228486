"""A rehearsal from end to end: a plan's group against a demand, from a seed, to a verdict and strips."""
