"""Bursting machines: each saves credits while it gives less than its baseline, and spends them while it gives more."""

LEAST_PART = 0.02
